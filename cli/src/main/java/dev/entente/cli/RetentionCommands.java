package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.RetentionApi;
import java.time.Instant;
import java.util.List;
import java.util.UUID;
import java.util.stream.Collectors;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** What of the record may not go, and what is to go. */
final class RetentionCommands {
    private RetentionCommands() {}

    private static RetentionApi.Retention shown(Entente entente) {
        return entente.api().get("/retention", RetentionApi.Retention.class);
    }

    /** Holds. */
    @Command(
            name = "hold",
            addMethodSubcommands = false,
            description = "Keep from going what is still needed, whatever else is said.")
    static final class Hold {
        @ParentCommand
        private Entente entente;

        private static String of(RetentionApi.Hold hold) {
            return hold.login() != null
                    ? "the person " + hold.login()
                    : hold.reference() != null
                            ? "the attempt " + hold.reference()
                            : Printer.time(hold.since()) + " to "
                                    + (hold.until() == null ? "now and later" : Printer.time(hold.until()));
        }

        @Command(name = "list", description = "Every hold, those in force first.")
        int list() {
            entente.printer()
                    .list(
                            shown(entente).holds(),
                            "Nothing is on hold.",
                            List.of(
                                    new Column<>("HOLD", RetentionApi.Hold::id),
                                    new Column<>("ON", Hold::of),
                                    new Column<>("REASON", RetentionApi.Hold::reason),
                                    new Column<>("PLACED", h -> Printer.time(h.placedAt()) + " by " + h.placedBy()),
                                    new Column<>(
                                            "LIFTED",
                                            h -> h.liftedAt() == null
                                                    ? "in force"
                                                    : Printer.time(h.liftedAt()) + " by " + h.liftedBy())));
            return Entente.DONE;
        }

        @Command(name = "place", description = "Place a hold on a person, an attempt or a span of time. Prints its id.")
        int place(
                @Option(names = "--reason", required = true, paramLabel = "TEXT", description = "kept on record")
                        String reason,
                @Option(names = "--person", paramLabel = "LOGIN", description = "all that concerned somebody")
                        String login,
                @Option(names = "--reference", paramLabel = "REFERENCE", description = "all of one attempt")
                        String reference,
                @Option(names = "--since", paramLabel = "TIME", description = "all from a moment on, RFC 3339")
                        Instant since,
                @Option(names = "--until", paramLabel = "TIME", description = "the moment after the last")
                        Instant until) {
            var placed = entente.api()
                    .post(
                            "/retention/holds",
                            new RetentionApi.NewHold(reason, login, reference, since, until),
                            RetentionApi.Hold.class);
            System.err.println("On hold: " + of(placed) + ".");
            System.out.println(placed.id());
            return Entente.DONE;
        }

        @Command(name = "lift", description = "Lift a hold. What it covered may go from then on.")
        int lift(@Parameters(paramLabel = "HOLD", description = "its id") UUID id) {
            entente.api().post(Api.at("/retention/holds/{}/lift", id), null);
            System.err.println("Lifted.");
            return Entente.DONE;
        }
    }

    /** Erasures. */
    @Command(
            name = "erasure",
            addMethodSubcommands = false,
            description = "Have the values that name a person taken out of the record.")
    static final class Erasure {
        @ParentCommand
        private Entente entente;

        private static String came(RetentionApi.Erasure erasure) {
            return erasure.doneAt() != null
                    ? erasure.values() + " values of " + erasure.events() + " events went, "
                            + Printer.time(erasure.doneAt())
                    : erasure.heldBy() != null
                            ? "waits for the hold " + erasure.heldBy()
                            : "waits for the retention step";
        }

        @Command(name = "list", description = "What was asked for, and what came of it; how long what is kept.")
        int list() {
            var retention = shown(entente);
            entente.printer()
                    .list(
                            retention.erasures(),
                            "No erasure was asked for.",
                            List.of(
                                    new Column<>("ERASURE", RetentionApi.Erasure::id),
                                    new Column<>("PERSON", e -> e.login() == null ? "(erased)" : e.login()),
                                    new Column<>("REASON", RetentionApi.Erasure::reason),
                                    new Column<>(
                                            "REQUESTED", e -> Printer.time(e.requestedAt()) + " by " + e.requestedBy()),
                                    new Column<>("CAME OF IT", Erasure::came)));
            if (entente.printer().forPeople()) {
                System.out.println(
                        retention.lastRun() == null
                                ? "The retention step never ran (docs/operating.md), so nothing goes."
                                : "The retention step ran " + Printer.time(retention.lastRun()) + "; it keeps "
                                        + retention.kept().stream()
                                                .map(k -> k.kept() + " events " + k.months() + " months")
                                                .collect(Collectors.joining(", "))
                                        + ".");
            }
            return Entente.DONE;
        }

        @Command(name = "request", description = "Ask for it. The next run of the retention step does it.")
        int request(
                @Parameters(paramLabel = "LOGIN", description = "a name that the person signs in with") String login,
                @Option(names = "--reason", required = true, paramLabel = "TEXT", description = "kept on record")
                        String reason) {
            var asked = entente.api()
                    .post(
                            "/retention/erasures",
                            new RetentionApi.NewErasure(reason, login),
                            RetentionApi.Erasure.class);
            System.err.println("The values that name " + login + " go with the next run of the retention step.");
            System.out.println(asked.id());
            return Entente.DONE;
        }
    }
}
