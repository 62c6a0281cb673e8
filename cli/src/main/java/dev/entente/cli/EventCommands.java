package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.Page;
import dev.entente.wire.RecordApi;
import java.io.IOException;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import picocli.CommandLine.Command;
import picocli.CommandLine.Mixin;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;
import tools.jackson.databind.JavaType;

/** The record. */
@Command(name = "event", addMethodSubcommands = false, description = "Look at the record.")
final class EventCommands {
    private static final JavaType PAGE = Api.page(RecordApi.Event.class);

    @ParentCommand
    private Entente entente;

    /** What is looked for; the same words as in the console's addresses. */
    static final class Filters {
        @Option(
                names = "--text",
                paramLabel = "WORDS",
                description = "words in anything that events say; all of them, each by how it begins")
        private String text;

        @Option(
                names = "--kind",
                paramLabel = "KIND",
                description =
                        "such as order.done, several separated by commas, or failures or changes; see event kinds")
        private String kind;

        @Option(names = "--part", paramLabel = "PART", description = "of the record, such as delivery")
        private String part;

        @Option(
                names = "--person",
                paramLabel = "LOGIN",
                description =
                        "everything about a person and their attempts; give a login name, or all or part of a name")
        private String person;

        @Option(names = "--reference", paramLabel = "REFERENCE", description = "of an attempt")
        private String reference;

        @Option(names = "--administrator", paramLabel = "LOGIN")
        private String administrator;

        @Option(names = "--directory", paramLabel = "NAME")
        private String directory;

        @Option(names = "--steward", paramLabel = "NAME")
        private String steward;

        @Option(names = "--method", paramLabel = "METHOD")
        private String method;

        @Option(names = "--policy", paramLabel = "NAME")
        private String policy;

        @Option(names = "--network", paramLabel = "ADDRESS", description = "or a range, such as 198.51.100.0/24")
        private String network;

        @Option(names = "--cause", paramLabel = "CAUSE", description = "why a delivery did not take effect")
        private String cause;

        @Option(names = "--state", paramLabel = "STATE", description = "how an attempt ended")
        private String state;

        @Option(names = "--message", paramLabel = "KIND", description = "a kind of message")
        private String message;

        @Option(names = "--severity", paramLabel = "SEVERITY", description = "at least info, notice, warning or alert")
        private String severity;

        @Option(
                names = "--since",
                paramLabel = "TIME",
                description = "2026-11-29T08:00 in local time, 2026-11-29T08:00:00Z, or a date")
        private String since;

        @Option(names = "--until", paramLabel = "TIME", description = "the moment after the last, or the last day")
        private String until;

        /** Those that are named. */
        Map<String, String> named() {
            var said = new LinkedHashMap<String, String>();
            said.put("text", text);
            said.put("kind", kind);
            said.put("part", part);
            said.put("person", person);
            said.put("reference", reference);
            said.put("administrator", administrator);
            said.put("directory", directory);
            said.put("steward", steward);
            said.put("method", method);
            said.put("policy", policy);
            said.put("network", network);
            said.put("cause", cause);
            said.put("state", state);
            said.put("message", message);
            said.put("severity", severity);
            said.put("since", Times.moment(since, false));
            said.put("until", Times.moment(until, true));
            said.values().removeIf(Objects::isNull);
            return said;
        }
    }

    /** What is looked for now, or was saved; what is named now goes before what was saved. */
    static final class Search {
        @Mixin
        private Filters filters;

        @Option(
                names = "--saved",
                paramLabel = "NAME",
                description = "what is saved under this name; see event searches")
        private String saved;

        String query(Api api) {
            var wanted = new LinkedHashMap<String, String>();
            if (saved != null) {
                wanted.putAll(Stream.of(api.get("/events/searches", RecordApi.SavedSearch[].class))
                        .filter(one -> one.name().equals(saved))
                        .findFirst()
                        .orElseThrow(() -> new IllegalArgumentException(
                                "no search is saved as \"" + saved + "\"; see entente event searches"))
                        .filters());
            }
            wanted.putAll(filters.named());
            return wanted.entrySet().stream()
                    .map(e -> "&" + e.getKey() + "=" + Api.encoded(e.getValue()))
                    .collect(Collectors.joining());
        }
    }

    @Command(name = "kinds", description = "Every kind of event, with its fields; personal ones can be erased.")
    int kinds() {
        var kinds = List.of(entente.api().get("/events/kinds", RecordApi.EventKind[].class));
        entente.printer()
                .list(
                        kinds,
                        "No kind.",
                        List.of(
                                new Column<>("KIND", RecordApi.EventKind::name),
                                new Column<>("PART", RecordApi.EventKind::part),
                                new Column<>("SEVERITY", RecordApi.EventKind::severity),
                                new Column<>("KEPT AS", k -> String.join(", ", k.classes())),
                                new Column<>(
                                        "FIELDS",
                                        k -> k.fields().stream()
                                                .map(f -> f.name() + (f.type().equals("personal") ? " (personal)" : ""))
                                                .collect(Collectors.joining(", ")))));
        return Entente.DONE;
    }

    @Command(
            name = "list",
            description = "Events, newest first: sealed ones, or those that meet every filter that is named.")
    int list(
            @Mixin Search search,
            @Option(names = "--limit", defaultValue = "30", description = "at most this many (${DEFAULT-VALUE})")
                    Limit limit) {
        var events = limit.of(entente.api(), "/events?" + search.query(entente.api()), RecordApi.Event.class);
        entente.printer()
                .list(
                        events,
                        "No such event.",
                        List.of(
                                new Column<>("SEQ", RecordApi.Event::seq),
                                new Column<>("TIME", e -> Printer.time(e.at())),
                                new Column<>("KIND", RecordApi.Event::kind),
                                new Column<>("REFERENCE", RecordApi.Event::reference),
                                new Column<>(
                                        "PERSON",
                                        e -> e.personal()
                                                .getOrDefault(
                                                        "login", e.personal().get("name"))),
                                new Column<>("WHAT HAPPENED", RecordApi.Event::sentence)));
        return Entente.DONE;
    }

    @Command(
            name = "count",
            description = {
                "How many events meet every filter that is named.",
                "Where counting would take too long, about how many, and it says so."
            })
    int count(@Mixin Search search) {
        var count = entente.api().get("/events/count?" + search.query(entente.api()), RecordApi.EventCount.class);
        entente.printer()
                .one(
                        count,
                        () -> System.out.println((count.exact() ? "" : "about ")
                                + (count.events() == 1 ? "1 event" : String.format("%,d events", count.events()))));
        return Entente.DONE;
    }

    @Command(name = "searches", description = "Searches that are saved, for every administrator.")
    int searches() {
        var saved = List.of(entente.api().get("/events/searches", RecordApi.SavedSearch[].class));
        entente.printer()
                .list(
                        saved,
                        "No search is saved. Save one: entente event save-search NAME --severity warning",
                        List.of(
                                new Column<>("NAME", RecordApi.SavedSearch::name),
                                new Column<>(
                                        "LOOKS FOR",
                                        s -> s.filters().entrySet().stream()
                                                .map(f -> "--" + f.getKey() + " " + f.getValue())
                                                .collect(Collectors.joining(" "))),
                                new Column<>("SAVED BY", RecordApi.SavedSearch::by),
                                new Column<>("AT", s -> Printer.time(s.at()))));
        return Entente.DONE;
    }

    @Command(
            name = "save-search",
            description = "Keep a search under a name, for every administrator, in the place of one with that name.")
    int saveSearch(@Parameters(paramLabel = "NAME") String name, @Mixin Filters filters) {
        entente.api().put(Api.at("/events/searches/{}", name), new RecordApi.NewSearch(filters.named()));
        return Entente.DONE;
    }

    @Command(name = "remove-search", description = "Remove a saved search.")
    int removeSearch(@Parameters(paramLabel = "NAME") String name) {
        entente.api().delete(Api.at("/events/searches/{}", name), null);
        return Entente.DONE;
    }

    @Command(
            name = "export",
            description = {
                "Write the sealed record to a file, a JSON document a line, for others to prove and keep.",
                "An interrupted export goes on where it stopped when it is started again."
            })
    int export(@Parameters(paramLabel = "FILE") Path file) throws IOException {
        return new RecordFile(entente).export(file);
    }

    @Command(
            name = "table",
            description = {
                "Write what a search finds to a file. The ending of its name says as what: .csv, .xlsx, or .jsonl for a JSON document a line.",
                "Its checksum is written beside it. If it is interrupted, the same command goes on from there; .xlsx starts again."
            })
    int table(
            @Parameters(paramLabel = "FILE") Path file,
            @Mixin Search search,
            @Option(
                            names = "--with-proofs",
                            description = "write proofs beside it that the events are on record; see event check")
                    boolean prove)
            throws IOException {
        return new TableFile(entente).write(file, search.query(entente.api()), prove);
    }

    @Command(
            name = "verify",
            description = {
                "Prove that the record is what was sealed: hashes, tree, signatures, and checkpoints you kept.",
                "Exit code 1 if anything is wrong, with the first event that is; 5 if no known key was compared."
            })
    int verify(
            @Parameters(paramLabel = "FILE", arity = "0..1", description = "an export; else the service's record now")
                    Path file,
            @Option(
                            names = "--key",
                            paramLabel = "THUMBPRINT",
                            converter = Thumbprint.class,
                            description =
                                    "of the key that has to have signed it; else the one that this profile saw first")
                    String key,
            @Option(
                            names = "--kept",
                            paramLabel = "FILE",
                            description = "checkpoints that you kept, a line each; the record has to extend them")
                    Path kept)
            throws IOException {
        return new RecordFile(entente).verify(file, key, kept);
    }

    @Command(
            name = "checkpoint",
            description = "Print the latest signed checkpoint. Keep it where the service's operators can't reach it.")
    int checkpoint() {
        System.out.println(new RecordFile(entente).checkpoint());
        return Entente.DONE;
    }

    @Command(
            name = "prove",
            description = {
                "Print proofs that others can check without the record, a JSON document a line:",
                "that events stand in it as they say, or that it continues a checkpoint that you kept."
            })
    int prove(
            @Option(names = "--event", paramLabel = "POSITION", description = "one event") Long seq,
            @Option(
                            names = "--reference",
                            paramLabel = "REFERENCE",
                            description = "everything that happened to an attempt")
                    String reference,
            @Option(names = "--kept", paramLabel = "FILE", description = "a checkpoint that you kept") Path kept)
            throws IOException {
        return new ProofCommands(entente).prove(seq, reference, kept);
    }

    @Command(
            name = "check",
            description = {
                "Check proofs from a file without the service. Exit code 1 if one doesn't hold, 5 if no known key was compared.",
                "Prints what they prove."
            })
    int check(
            @Parameters(paramLabel = "FILE") Path file,
            @Option(
                            names = "--key",
                            paramLabel = "THUMBPRINT",
                            converter = Thumbprint.class,
                            description =
                                    "of the key that has to have signed; else the one that this profile saw first")
                    String key)
            throws IOException {
        return new ProofCommands(entente).check(file, key);
    }

    @Command(name = "follow", description = "Print events as they are sealed, until stopped.")
    int follow(
            @Option(names = "--from", description = "position to begin at; else only new ones") Long from,
            @Option(names = "--for", paramLabel = "SECONDS", description = "stop after this long") Long seconds)
            throws InterruptedException {
        var until = seconds == null ? Long.MAX_VALUE : System.currentTimeMillis() + seconds * 1000;
        var next = from == null
                ? entente.api().get("/today", RecordApi.Today.class).recordSize()
                : from;
        while (System.currentTimeMillis() < until) {
            Page<RecordApi.Event> page = entente.api().get(Api.at("/events/from/{}", next), PAGE);
            for (var event : page.items()) {
                if (entente.printer().forPeople()) {
                    System.out.println(Printer.time(event.at()) + "  "
                            + (event.reference() == null ? "-" : event.reference()) + "  " + event.sentence());
                } else {
                    System.out.println(Api.JSON.writeValueAsString(event));
                }
            }
            next = Long.parseLong(page.after());
            if (page.items().isEmpty()) {
                Thread.sleep(500);
            }
        }
        return Entente.DONE;
    }
}
