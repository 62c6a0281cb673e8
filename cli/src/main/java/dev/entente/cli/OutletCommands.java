package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.core.audit.OutletKind;
import dev.entente.wire.OutletApi;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.Iterator;
import java.util.List;
import java.util.stream.Stream;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** Places outside that are told what happens. */
@Command(name = "outlet", addMethodSubcommands = false, description = "Set up who outside is told what happens.")
final class OutletCommands {
    @ParentCommand
    private Entente entente;

    private static String path(String name, String more) {
        return Api.at("/outlets/{}", name) + more;
    }

    private static String what(OutletApi.Outlet outlet) {
        var parts =
                Stream.concat(outlet.parts().stream(), outlet.kinds().stream()).toList();
        return (parts.isEmpty() ? "everything" : String.join(", ", parts))
                + (outlet.severity().equals("info") ? "" : ", at least " + outlet.severity())
                + (outlet.personal() ? ", with names" : "");
    }

    private static String state(OutletApi.Outlet outlet) {
        return switch (outlet.state()) {
            case "paused" -> "paused";
            case "stopped" -> "STOPPED: " + outlet.why();
            default -> outlet.failures() == 0 ? "follows" : "WAITS: " + outlet.why();
        };
    }

    @Command(
            name = "list",
            description = "Every outlet, how far it is, and whether it goes on. Exits with 1 if one doesn't.")
    int list() {
        var all = entente.api().get("/outlets", OutletApi.Outlets.class);
        entente.printer()
                .list(
                        all.outlets(),
                        "No outlet: nobody outside is told what happens. Add one: entente outlet set --help",
                        List.of(
                                new Column<>("OUTLET", OutletApi.Outlet::name),
                                new Column<>("KIND", OutletApi.Outlet::kind),
                                new Column<>("TO", o -> o.to() == null ? "(fetched)" : o.to()),
                                new Column<>("TOLD", OutletCommands::what),
                                new Column<>("NEXT EVENT", OutletApi.Outlet::position),
                                new Column<>("BEHIND", OutletApi.Outlet::behind),
                                new Column<>("LAST", o -> o.sentAt() == null ? "" : Printer.time(o.sentAt())),
                                new Column<>("STATE", OutletCommands::state)));
        return all.outlets().stream()
                        .anyMatch(o -> o.failures() > 0 || o.state().equals("stopped"))
                ? Entente.REFUSED
                : Entente.DONE;
    }

    /** What there is to choose from. */
    static final class Kinds implements Iterable<String> {
        @Override
        public Iterator<String> iterator() {
            return Arrays.stream(OutletKind.values()).map(OutletKind::label).iterator();
        }
    }

    @Command(
            name = "set",
            description = {
                "Make an outlet, or change the one with this name.",
                "A new one is told what happens from now on, an old one goes on where it is, unless --from says otherwise."
            })
    int set(
            @Parameters(paramLabel = "NAME") String name,
            @Option(
                            names = "--kind",
                            required = true,
                            completionCandidates = Kinds.class,
                            description = "${COMPLETION-CANDIDATES}")
                    String kind,
            @Option(
                            names = "--to",
                            paramLabel = "ADDRESS",
                            description = "host:port for syslog, https://… for web services, a name for a file")
                    String to,
            @Option(
                            names = "--ca",
                            paramLabel = "FILE",
                            description = "authority whose certificates are believed, PEM; else those of the system")
                    Path authority,
            @Option(
                            names = "--token-file",
                            paramLabel = "FILE",
                            description = "holds the token that the receiver asks for")
                    Path token,
            @Option(
                            names = "--audience",
                            paramLabel = "TEXT",
                            description = "of security event tokens; else the address")
                    String audience,
            @Option(names = "--part", split = ",", paramLabel = "PART", description = "of the record, such as delivery")
                    List<String> parts,
            @Option(
                            names = "--event",
                            split = ",",
                            paramLabel = "KIND",
                            description = "such as order.done; see event kinds")
                    List<String> kinds,
            @Option(
                            names = "--severity",
                            defaultValue = "info",
                            paramLabel = "SEVERITY",
                            description = "at least info, notice, warning or alert")
                    String severity,
            @Option(names = "--with-names", description = "also what names somebody: login names, addresses, networks")
                    boolean personal,
            @Option(names = "--from", paramLabel = "POSITION", description = "first event; 0 for all that there is")
                    Long from) {
        var made = entente.api()
                .put(
                        path(name, ""),
                        new OutletApi.NewOutlet(
                                kind,
                                to,
                                read(authority),
                                audience,
                                stripped(read(token)),
                                kinds,
                                parts,
                                severity,
                                personal,
                                from),
                        OutletApi.Made.class);
        if (made == null) {
            return Entente.DONE;
        }
        if (made.fetchWith() != null) {
            System.err.println("Events are fetched with a POST to /api/v1/event-streams/" + name
                    + " and the token that follows. It is shown this once.");
            System.out.println(made.fetchWith());
        } else {
            System.err.println("Saved. Try it: entente outlet test " + name);
        }
        return Entente.DONE;
    }

    private static String stripped(String text) {
        return text == null ? null : text.strip();
    }

    private static String read(Path file) {
        try {
            return file == null ? null : Files.readString(file);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    @Command(name = "test", description = "Send something that is no event. Exits with 1 if it isn't taken.")
    int test(@Parameters(paramLabel = "NAME") String name) {
        var tried = entente.api().post(path(name, "/test"), null, OutletApi.Tried.class);
        entente.printer()
                .one(
                        tried,
                        () -> System.out.println(
                                tried.taken() ? "The receiver took it." : "NOT TAKEN: " + tried.why() + "."));
        return tried.taken() ? Entente.DONE : Entente.REFUSED;
    }

    @Command(name = "pause", description = "Let an outlet wait. Nothing is lost meanwhile.")
    int pause(@Parameters(paramLabel = "NAME") String name) {
        entente.api().post(path(name, "/pause"), null);
        System.err.println("The outlet " + name + " waits. Go on with: entente outlet resume " + name);
        return Entente.DONE;
    }

    @Command(name = "resume", description = "Let an outlet go on that is paused, waits or has stopped.")
    int resume(
            @Parameters(paramLabel = "NAME") String name,
            @Option(names = "--skip", description = "leave out the event that its receiver wouldn't take") boolean skip,
            @Option(
                            names = "--from",
                            paramLabel = "POSITION",
                            description = "tell everything from this event on, again if it was told before")
                    Long from) {
        var outlet = entente.api().post(path(name, "/resume"), new OutletApi.GoOn(from, skip), OutletApi.Outlet.class);
        if (outlet != null) {
            System.err.println("The outlet " + name + " goes on from event " + outlet.position() + ".");
        }
        return Entente.DONE;
    }

    @Command(name = "remove", description = "Remove an outlet. How far it was is forgotten.")
    int remove(@Parameters(paramLabel = "NAME") String name) {
        if (entente.api().delete(path(name, ""), null)) {
            System.err.println("The outlet " + name + " is removed.");
        }
        return Entente.DONE;
    }

    @Command(
            name = "keys",
            description = "The public keys by which receivers prove that it was us, as a JSON Web Key Set.")
    int keys(@Option(names = "--rotate", description = "sign with a new key from now on") boolean rotate) {
        var keys = rotate
                ? entente.api().post("/outlets/keys", null, OutletApi.Keys.class)
                : entente.api().get("/outlet-keys", OutletApi.Keys.class);
        System.out.println(Api.JSON.writeValueAsString(keys));
        return Entente.DONE;
    }
}
