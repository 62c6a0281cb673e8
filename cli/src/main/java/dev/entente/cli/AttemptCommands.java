package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.AttemptApi;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.stream.Collectors;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** Attempts. */
@Command(
        name = "attempt",
        addMethodSubcommands = false,
        description = "Look up attempts, by the reference people read out.")
final class AttemptCommands {
    @ParentCommand
    private Entente entente;

    @Command(name = "list", description = "Attempts, newest first.")
    int list(
            @Option(names = "--state", description = "only those in this state, such as completed") String state,
            @Option(
                            names = "--made-up",
                            description = "only those for names that don't exist; otherwise they are left out")
                    boolean madeUp,
            @Option(names = "--person", paramLabel = "PERSON", description = "login name, id or part of the name")
                    String person,
            @Option(names = "--since", paramLabel = "TIME", description = "2026-11-29T08:00, or a date") String since,
            @Option(names = "--until", paramLabel = "TIME", description = "the moment after the last, or the last day")
                    String until,
            @Option(names = "--limit", defaultValue = "20", description = "at most this many (${DEFAULT-VALUE})")
                    Limit limit) {
        var attempts = limit.of(
                entente.api(),
                "/attempts?" + (state == null ? "" : "&state=" + Api.encoded(state)) + (madeUp ? "&madeUp=true" : "")
                        + (person == null ? "" : "&person=" + entente.api().whose(person))
                        + (since == null ? "" : "&since=" + Times.moment(since, false))
                        + (until == null ? "" : "&until=" + Times.moment(until, true)),
                AttemptApi.AttemptRow.class);
        entente.printer()
                .list(
                        attempts,
                        state == null && person == null && since == null && until == null
                                ? "No attempt yet."
                                : "No attempt matches.",
                        List.of(
                                new Column<>("REFERENCE", AttemptApi.AttemptRow::reference),
                                new Column<>("STARTED", a -> Printer.time(a.createdAt())),
                                new Column<>("STATE", AttemptApi.AttemptRow::state),
                                new Column<>("PERSON", AttemptApi.AttemptRow::personName),
                                new Column<>("POLICY", AttemptApi.AttemptRow::policy),
                                new Column<>("WHY NOT", AttemptApi.AttemptRow::cause)));
        return Entente.DONE;
    }

    @Command(
            name = "report",
            description = "Write a PDF of one attempt for an incident's file, with the proofs of its events attached.")
    int report(
            @Parameters(paramLabel = "REFERENCE", arity = "1..4") List<String> typed,
            @Option(names = "--to", required = true, paramLabel = "FILE", description = "such as attempt.pdf")
                    Path file) {
        entente.api().download(Api.at("/attempts/{}/report", String.join(" ", typed)), file);
        System.err.println("The report is in " + file + ".");
        return Entente.DONE;
    }

    @Command(name = "show", description = "Everything that happened to one attempt.")
    int show(@Parameters(paramLabel = "REFERENCE", arity = "1..4") List<String> typed) {
        var reference = typed.stream().collect(Collectors.joining(" "));
        var attempt = entente.api().get(Api.at("/attempts/{}", reference), AttemptApi.AttemptDetail.class);
        entente.printer().one(attempt, () -> {
            var row = attempt.attempt();
            System.out.println(row.reference() + "  " + row.state() + "  "
                    + (row.action() == null ? "" : row.action() + "  ")
                    + (row.personName() == null
                            ? row.action() == null ? "purged; only the record still has it" : "no one by that name"
                            : row.personName())
                    + (row.policy() == null ? "" : "  policy " + row.policy()));
            if (attempt.reason() != null) {
                System.out.println("  no code was sent: " + attempt.reason());
            }
            attempt.limits().forEach(l -> System.out.println("  limit  " + l));
            for (var delivery : attempt.deliveries()) {
                System.out.println("  " + delivery.directory() + "  " + delivery.login() + "  " + delivery.state()
                        + (delivery.cause() == null ? "" : "  " + delivery.cause()));
                if (delivery.detail() != null) {
                    System.out.println("      raw  " + delivery.detail());
                }
                if (delivery.whatToDo() != null) {
                    System.out.println("      →    " + delivery.whatToDo());
                }
            }
            var before = row.createdAt() != null || attempt.timeline().isEmpty()
                    ? row.createdAt()
                    : attempt.timeline().get(0).at();
            for (var event : attempt.timeline()) {
                System.out.printf(
                        "  %s  %+7d ms  %s%n",
                        Printer.time(event.at()),
                        Duration.between(before, event.at()).toMillis(),
                        event.sentence());
                before = event.at();
            }
        });
        return Entente.DONE;
    }
}
