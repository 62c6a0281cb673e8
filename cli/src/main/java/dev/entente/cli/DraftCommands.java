package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.ApprovalApi;
import dev.entente.wire.DraftApi;
import dev.entente.wire.Page;
import java.io.IOException;
import java.nio.charset.CharacterCodingException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.UUID;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** Changes before they are published. Where no draft is named, the only one is meant. */
@Command(name = "draft", addMethodSubcommands = false, description = "Change the configuration and publish it.")
final class DraftCommands {
    /** Characters of a digest that tell it apart. */
    private static final int SHOWN = 8;

    @ParentCommand
    private Entente entente;

    private List<DraftApi.Draft> drafts() {
        return entente.api().get("/drafts", Api.list(DraftApi.Draft.class));
    }

    private UUID meant(UUID named) {
        if (named != null) {
            return named;
        }
        var drafts = drafts();
        if (drafts.size() == 1) {
            return drafts.get(0).id();
        }
        throw new IllegalArgumentException(
                drafts.isEmpty()
                        ? "there is no draft; start one with entente draft start"
                        : "there are " + drafts.size() + " drafts; choose one with --draft ID from entente draft list");
    }

    @Command(name = "start", description = "Start a draft from the revision in force.")
    int start(@Option(names = "--name", description = "what it is for") String name) {
        var draft = entente.api().post("/drafts", new DraftApi.NewDraft(name), DraftApi.Draft.class);
        System.out.println(draft.id());
        System.err.println("Draft \"" + draft.name() + "\" starts from revision " + draft.baseRevision() + ".");
        return Entente.DONE;
    }

    @Command(name = "list", description = "All drafts.")
    int list() {
        entente.printer()
                .list(
                        drafts(),
                        "No draft. Start one: entente draft start",
                        List.of(
                                new Column<>("DRAFT", DraftApi.Draft::id),
                                new Column<>("NAME", DraftApi.Draft::name),
                                new Column<>("FROM", d -> "revision " + d.baseRevision()),
                                new Column<>("CHANGED", d -> Printer.time(d.changedAt())),
                                new Column<>("BY", DraftApi.Draft::author),
                                new Column<>("PROBLEMS", d -> d.problems().size())));
        return Entente.DONE;
    }

    @Command(
            name = "load",
            description = "Replace a draft's files with those of a folder. Exits with 1 if any has a problem.")
    int load(@Parameters(paramLabel = "DIR") Path folder, @Option(names = "--draft", paramLabel = "ID") UUID named)
            throws IOException {
        if (Files.isRegularFile(folder)) {
            System.err.println("entente: " + folder + " is a file; name the folder it is in");
            return Entente.USAGE;
        }
        var files = new TreeMap<String, String>();
        var others = new ArrayList<String>();
        try (var found = Files.walk(folder)) {
            for (var file : found.filter(Files::isRegularFile).toList()) {
                var name = folder.relativize(file).toString().replace('\\', '/');
                if (name.endsWith(".yaml")) {
                    files.put(name, text(file));
                } else {
                    others.add(name);
                }
            }
        }
        var misnamed = others.stream().filter(name -> name.endsWith(".yml")).toList();
        if (!misnamed.isEmpty()) {
            System.err.println("entente: files of a configuration end in .yaml; rename " + String.join(", ", misnamed));
            return Entente.USAGE;
        }
        if (files.isEmpty()) {
            System.err.println("entente: there is no .yaml file in " + folder
                    + "; the draft was left as it is (to empty it, discard it and start another)");
            return Entente.USAGE;
        }
        others.forEach(name -> System.err.println("ignored: " + name));
        var draft = entente.api()
                .put(Api.at("/drafts/{}/files", meant(named)), new DraftApi.DraftFiles(files), DraftApi.Draft.class);
        draft.problems()
                .forEach(p -> System.err.println(p.file() + ":" + p.line() + ":" + p.column() + ": "
                        + (p.severity().equals("warning") ? "finding: " : "") + p.message()));
        var errors = draft.problems().stream()
                .filter(p -> p.severity().equals("error"))
                .count();
        System.err.println(
                errors == 0
                        ? files.size() + " files loaded"
                                + (draft.problems().isEmpty() ? ", no problems." : "; check the findings.")
                        : "The draft is saved, but can't be published with " + errors
                                + (errors == 1 ? " problem." : " problems."));
        return errors == 0 ? Entente.DONE : Entente.REFUSED;
    }

    private static String text(Path file) throws IOException {
        try {
            return Files.readString(file);
        } catch (CharacterCodingException e) {
            throw new IOException(file + " is not text in UTF-8; save it as UTF-8", e);
        }
    }

    @Command(name = "compare", description = "What publishing would change, in sentences and as a diff.")
    int compare(@Option(names = "--draft", paramLabel = "ID") UUID named) {
        print(entente, entente.api().get(Api.at("/drafts/{}/comparison", meant(named)), DraftApi.Comparison.class));
        return Entente.DONE;
    }

    static void print(Entente entente, DraftApi.Comparison comparison) {
        entente.printer().one(comparison, () -> {
            if (comparison.sentences().isEmpty()) {
                System.out.println("Nothing changes in meaning.");
            }
            comparison.sentences().forEach(System.out::println);
            comparison.weaker().forEach(w -> System.out.println("Weaker: " + w));
            comparison.waysOpened().forEach(w -> System.out.println("New way in: " + w));
            comparison.waysClosed().forEach(w -> System.out.println("No longer a way in: " + w));
            System.out.println(
                    "Covered people: " + comparison.coveredBefore() + " now, " + comparison.coveredAfter() + " after.");
            System.out.print(comparison.diff());
        });
    }

    @Command(name = "publish", description = "Make the draft the next revision.")
    int publish(
            @Option(names = "--draft", paramLabel = "ID") UUID named,
            @Option(names = "--note", defaultValue = "", description = "why, for the history") String note,
            @Option(
                            names = "--loses-way",
                            paramLabel = "NUMBER",
                            description = "how many people may lose their way in, as the rehearsal counted")
                    Integer losesWay,
            @Option(
                            names = "--at",
                            paramLabel = "TIME",
                            description = "publish later, at this time, such as 2026-12-01T06:00:00Z")
                    Instant at,
            @Option(
                            names = "--until",
                            paramLabel = "TIME",
                            description = "go back to the present revision at this time")
                    Instant until) {
        var revision = entente.api()
                .post(
                        Api.at("/drafts/{}/publish", meant(named)),
                        new DraftApi.Publication(note, null, losesWay, at, until),
                        DraftApi.Revision.class);
        if (revision == null) {
            System.err.println("Planned for " + at + ": entente draft planned");
            return Entente.DONE;
        }
        entente.printer().one(revision, () -> System.out.println("Revision " + revision.number() + " is in force."));
        return Entente.DONE;
    }

    @Command(name = "planned", description = "Publications and ends that are planned.")
    int planned() {
        List<DraftApi.Planned> planned = entente.api().get("/planned-changes", Api.list(DraftApi.Planned.class));
        entente.printer()
                .list(
                        planned,
                        "Nothing is planned.",
                        List.of(
                                new Column<>("WHEN", p -> Printer.time(p.at())),
                                new Column<>("BY", DraftApi.Planned::author),
                                new Column<>("ID", DraftApi.Planned::id),
                                new Column<>("WHAT", DraftApi.Planned::says)));
        return Entente.DONE;
    }

    @Command(name = "cancel", description = "Cancel what is planned.")
    int cancel(@Parameters(paramLabel = "ID") UUID id) {
        entente.api().delete(Api.at("/planned-changes/{}", id), null);
        System.err.println("Cancelled.");
        return Entente.DONE;
    }

    @Command(name = "submit", description = "Ask another administrator to approve the draft as it is.")
    int submit(@Option(names = "--draft", paramLabel = "ID") UUID named) {
        return print(entente.api().post(Api.at("/drafts/{}/submission", meant(named)), null, DraftApi.Approval.class));
    }

    @Command(
            name = "approve",
            description = {
                "Approve a draft that another administrator submitted, by the digest of what you reviewed.",
                "Without --digest, shows what it weakens and its digest."
            })
    int approve(
            @Option(names = "--draft", paramLabel = "ID") UUID named,
            @Option(names = "--digest", paramLabel = "DIGEST", description = "its first eight characters are enough")
                    String digest) {
        var id = meant(named);
        var approval = entente.api().get(Api.at("/drafts/{}/approval", id), DraftApi.Approval.class);
        if (digest == null) {
            print(approval);
            System.err.println(
                    "Nothing is approved yet. Review it with entente draft compare, then run entente draft approve --draft "
                            + id + " --digest " + approval.digest().substring(0, SHOWN));
            return Entente.REFUSED;
        }
        if (digest.length() < SHOWN || !approval.digest().startsWith(digest)) {
            throw new IllegalArgumentException("that isn't the digest of the draft, which is now "
                    + approval.digest().substring(0, SHOWN) + ". Review it again with entente draft compare");
        }
        return print(entente.api()
                .post(
                        Api.at("/drafts/{}/approval", id),
                        new DraftApi.Shown(approval.digest()),
                        DraftApi.Approval.class));
    }

    private int print(DraftApi.Approval approval) {
        entente.printer().one(approval, () -> {
            approval.weaker().forEach(w -> System.out.println("WEAKER  " + w));
            System.out.println("Written by " + String.join(", ", approval.authors()) + "; digest " + approval.digest());
            System.out.println((approval.needed() ? "Another administrator has to approve it" : "It needs no approval")
                    + (approval.approvedBy() == null ? "." : "; approved by " + approval.approvedBy() + "."));
        });
        return Entente.DONE;
    }

    @Command(
            name = "approval",
            description =
                    "Which changes need approval: nothing, weakening or everything. Without WHAT, shows the rule.")
    int approval(@Parameters(paramLabel = "WHAT", arity = "0..1") String what) {
        var rule = what == null
                ? entente.api().get("/approval-rule", ApprovalApi.ApprovalRule.class)
                : entente.api()
                        .put("/approval-rule", new ApprovalApi.ApprovalRule(what), ApprovalApi.ApprovalRule.class);
        entente.printer()
                .one(rule, () -> System.out.println("Another administrator has to approve " + rule.askedFor() + "."));
        return Entente.DONE;
    }

    @Command(
            name = "merge",
            description = "Bring in what was published since the draft was started. Exits with 1 if changes collide.")
    int merge(@Option(names = "--draft", paramLabel = "ID") UUID named) {
        var merged = entente.api().post(Api.at("/drafts/{}/merge", meant(named)), null, DraftApi.Merge.class);
        merged.conflicts()
                .forEach(file -> System.err.println(
                        file + ": changed both here and since then; your version is kept, check it"));
        entente.printer()
                .one(
                        merged,
                        () -> System.out.println("The draft is based on revision " + merged.revision() + " now; "
                                + merged.taken().size() + " files were taken from it"
                                + (merged.conflicts().isEmpty()
                                        ? "."
                                        : ", " + merged.conflicts().size() + " collide.")));
        return merged.conflicts().isEmpty() ? Entente.DONE : Entente.REFUSED;
    }

    @Command(name = "discard", description = "Delete a draft.")
    int discard(@Option(names = "--draft", paramLabel = "ID") UUID named) {
        entente.api().delete(Api.at("/drafts/{}", meant(named)), null);
        System.err.println("The draft is discarded.");
        return Entente.DONE;
    }

    @Command(
            name = "rehearse",
            description =
                    "Try a draft on everyone, or on past attempts. Exits with 1 if anyone would lose their way in.")
    int rehearse(
            @Option(names = "--draft", paramLabel = "ID") UUID named,
            @Option(names = "--action", defaultValue = "reset") String action,
            @Option(
                            names = "--network",
                            paramLabel = "ADDRESS",
                            description = "where everyone is; if omitted, every place that makes a difference")
                    String network,
            @Option(
                            names = "--at",
                            paramLabel = "TIME",
                            description =
                                    "when, such as 2026-12-24T02:00; if omitted, every time that makes a difference")
                    Instant at,
            @Option(names = "--show", paramLabel = "KIND", description = "list the people behind a number") String kind,
            @Option(
                            names = "--part",
                            paramLabel = "PART",
                            description =
                                    "with --show: only \"scope NAME\", \"department NAME\", privileged or not-privileged")
                    String part,
            @Option(names = "--attempts", paramLabel = "DAYS", description = "on the attempts of the last DAYS")
                    Integer days) {
        var path = Api.at("/drafts/{}", meant(named)) + "/rehearsal";
        var query = "?action=" + Api.encoded(action)
                + (network == null ? "" : "&network=" + Api.encoded(network))
                + (at == null ? "" : "&at=" + Api.encoded(at.toString()));
        if (days != null) {
            return attempts(path + "/attempts?days=" + days);
        }
        if (kind != null) {
            return people(path + "/people" + query + "&kind=" + Api.encoded(kind)
                    + (part == null ? "" : "&part=" + Api.encoded(part)));
        }
        var rehearsal = entente.api().get(path + query, DraftApi.Rehearsal.class);
        entente.printer().one(rehearsal, () -> {
            System.out.println("Of " + rehearsal.people() + " people, for " + rehearsal.action() + ":");
            rehearsal.counts().forEach(c -> System.out.printf("  %6d %-48s %s%n", c.people(), c.words(), c.kind()));
            if (rehearsal.situations().size() > 1) {
                System.out.printf("%n  %-64s %10s %14s%n", "IN EACH SITUATION", "LOSE A WAY", "LACK METHODS");
                rehearsal
                        .situations()
                        .forEach(s ->
                                System.out.printf("  %-64s %10d %14d%n", s.words(), s.losesWay(), s.lacksMethods()));
                System.out.println();
            }
            rehearsal
                    .moves()
                    .forEach(m -> System.out.printf(
                            "  %6d go from %s to %s%n", m.people(), policy(m.from()), policy(m.to())));
            System.out.printf("%n  %-32s %8s %10s %14s%n", "", "PEOPLE", "LOSE A WAY", "LACK METHODS");
            for (var parts : List.of(rehearsal.scopes(), rehearsal.departments(), rehearsal.privilege())) {
                parts.forEach(p -> System.out.printf(
                        "  %-32s %8d %10d %14d%n", p.name(), p.people(), p.losesWay(), p.lacksMethods()));
            }
        });
        return rehearsal.counts().stream().anyMatch(c -> c.kind().equals("loses-way") && c.people() > 0)
                ? Entente.REFUSED
                : Entente.DONE;
    }

    private static String policy(String name) {
        return name.isEmpty() ? "no policy" : name;
    }

    private int people(String path) {
        var people = new ArrayList<DraftApi.RehearsedPerson>();
        var type = Api.page(DraftApi.RehearsedPerson.class);
        String after = null;
        do {
            Page<DraftApi.RehearsedPerson> page =
                    entente.api().get(path + "&limit=500" + (after == null ? "" : "&after=" + after), type);
            people.addAll(page.items());
            after = page.after();
            if (after != null && System.console() != null) {
                System.err.print("\r" + people.size() + " people read …");
            }
        } while (after != null);
        if (people.size() > 500 && System.console() != null) {
            System.err.print("\r\u001b[K");
        }
        entente.printer()
                .list(
                        people,
                        "No one.",
                        List.of(
                                new Column<>("NAME", DraftApi.RehearsedPerson::name),
                                new Column<>("LOGIN", p -> String.join(", ", p.logins())),
                                new Column<>("DEPARTMENT", DraftApi.RehearsedPerson::department),
                                new Column<>("NOW", DraftApi.RehearsedPerson::before),
                                new Column<>("WITH THE DRAFT", DraftApi.RehearsedPerson::after)));
        return Entente.DONE;
    }

    private int attempts(String path) {
        List<DraftApi.RehearsedAttempt> attempts = entente.api().get(path, Api.list(DraftApi.RehearsedAttempt.class));
        entente.printer()
                .list(
                        attempts,
                        "Every attempt of that time would have started the same way.",
                        List.of(
                                new Column<>("REFERENCE", DraftApi.RehearsedAttempt::reference),
                                new Column<>("WHO", DraftApi.RehearsedAttempt::name),
                                new Column<>("WHEN", a -> Printer.time(a.at())),
                                new Column<>("ACTION", DraftApi.RehearsedAttempt::action),
                                new Column<>("THEN", DraftApi.RehearsedAttempt::before),
                                new Column<>("WITH THE DRAFT", DraftApi.RehearsedAttempt::after),
                                new Column<>("BECAUSE", DraftApi.RehearsedAttempt::because)));
        return Entente.DONE;
    }

    @Command(name = "export", description = "Write a draft's files to a folder.")
    int export(@Parameters(paramLabel = "DIR") Path folder, @Option(names = "--draft", paramLabel = "ID") UUID named)
            throws IOException {
        write(
                folder,
                entente.api()
                        .get(Api.at("/drafts/{}", meant(named)), DraftApi.Draft.class)
                        .files());
        return Entente.DONE;
    }

    @Command(
            name = "export-questions",
            description = "Write the security questions to a CSV file: name, digits, and a column for each language.")
    int exportQuestions(
            @Parameters(paramLabel = "FILE") Path file, @Option(names = "--draft", paramLabel = "ID") UUID named)
            throws IOException {
        Files.writeString(
                file,
                QuestionList.csv(entente.api()
                        .get(Api.at("/drafts/{}", meant(named)), DraftApi.Draft.class)
                        .files()));
        System.err.println("Written to " + file + ".");
        return Entente.DONE;
    }

    @Command(
            name = "import-questions",
            description =
                    "Replace the security questions by those of a CSV file. The other settings stay, comments in questions.yaml don't.")
    int importQuestions(
            @Parameters(paramLabel = "FILE") Path file, @Option(names = "--draft", paramLabel = "ID") UUID named)
            throws IOException {
        var id = meant(named);
        var files = new TreeMap<>(entente.api()
                .get(Api.at("/drafts/{}", id), DraftApi.Draft.class)
                .files());
        files.put("questions.yaml", QuestionList.yaml(text(file), files.get("questions.yaml")));
        var draft =
                entente.api().put(Api.at("/drafts/{}/files", id), new DraftApi.DraftFiles(files), DraftApi.Draft.class);
        draft.problems().forEach(p -> System.err.println(p.file() + ": " + p.pointer() + ": " + p.message()));
        return draft.problems().isEmpty() ? Entente.DONE : Entente.REFUSED;
    }

    static void write(Path folder, Map<String, String> files) throws IOException {
        for (var file : files.entrySet()) {
            var path = folder.resolve(file.getKey()).normalize();
            if (!path.startsWith(folder.normalize())) {
                throw new IOException("the path of a file leads out of the folder: " + file.getKey());
            }
            Files.createDirectories(path.toAbsolutePath().getParent());
            Files.writeString(path, file.getValue());
        }
        System.err.println(files.size() + " files written to " + folder + ".");
    }
}
