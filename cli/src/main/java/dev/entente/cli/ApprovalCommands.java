package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.ApprovalApi;
import java.util.List;
import java.util.UUID;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** Changes of settings that wait for a second person. */
@Command(
        name = "approval",
        addMethodSubcommands = false,
        description = "Changes that decide who gets codes, and wait for another administrator.")
final class ApprovalCommands {
    @ParentCommand
    private Entente entente;

    @Command(name = "list", description = "What waits. Exit 1 if anything does.")
    int list() {
        List<ApprovalApi.ProposedChange> open =
                entente.api().get("/proposed-changes", Api.list(ApprovalApi.ProposedChange.class));
        entente.printer()
                .list(
                        open,
                        "Nothing waits for approval.",
                        List.of(
                                new Column<>("CHANGE", ApprovalApi.ProposedChange::id),
                                new Column<>("BY", ApprovalApi.ProposedChange::author),
                                new Column<>("SINCE", c -> Printer.time(c.madeAt())),
                                new Column<>("WHAT", c -> String.join(" ", c.says()))));
        return open.isEmpty() ? Entente.DONE : Entente.REFUSED;
    }

    @Command(name = "approve", description = "Agree to a change that someone else proposed. It's made at once.")
    int approve(@Parameters(paramLabel = "CHANGE") UUID id) {
        entente.api().post(Api.at("/proposed-changes/{}/approval", id), null);
        System.err.println("The change is made.");
        return Entente.DONE;
    }

    @Command(name = "refuse", description = "Refuse a change, or take back your own.")
    int refuse(@Parameters(paramLabel = "CHANGE") UUID id) {
        entente.api().delete(Api.at("/proposed-changes/{}", id), null);
        System.err.println("The change won't be made.");
        return Entente.DONE;
    }

    @Command(name = "rule", description = "Show or set what needs a second person: nothing, weakening or everything.")
    int rule(@Option(names = "--set", paramLabel = "WHAT") String wanted) {
        if (wanted != null) {
            entente.api().put("/approval-rule", new ApprovalApi.ApprovalRule(wanted), ApprovalApi.ApprovalRule.class);
        }
        var rule = entente.api().get("/approval-rule", ApprovalApi.ApprovalRule.class);
        entente.printer().one(rule, () -> System.out.println("Approval is asked for " + rule.askedFor() + "."));
        return Entente.DONE;
    }
}
