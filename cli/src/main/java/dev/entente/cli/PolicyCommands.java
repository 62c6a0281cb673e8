package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.PolicyApi;
import java.util.List;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** Published policies. */
@Command(name = "policy", addMethodSubcommands = false, description = "Read the published policies.")
final class PolicyCommands {
    @ParentCommand
    private Entente entente;

    private List<PolicyApi.Policy> policies() {
        return entente.api().get("/policies", Api.list(PolicyApi.Policy.class));
    }

    @Command(name = "list", description = "All policies in order: the first that covers a person decides.")
    int list() {
        entente.printer()
                .list(
                        policies(),
                        "Nothing is published yet. Start with entente draft start",
                        List.of(
                                new Column<>("POLICY", PolicyApi.Policy::name),
                                new Column<>("TITLE", PolicyApi.Policy::title),
                                new Column<>("WHO", p -> "scope " + p.scope()),
                                new Column<>("PEOPLE", PolicyApi.Policy::people)));
        return Entente.DONE;
    }

    @Command(
            name = "show",
            description =
                    "One policy as sentences, what somebody else would need to get in, and where each value comes from.")
    int show(
            @Parameters(paramLabel = "NAME") String name,
            @Option(
                            names = "--action",
                            defaultValue = "reset",
                            description = "for the ways in: ${DEFAULT-VALUE} unless given; or unlock, change, details")
                    String action) {
        var policy = policies().stream().filter(p -> p.name().equals(name)).findFirst();
        if (policy.isEmpty()) {
            System.err.println("entente: there is no published policy \"" + name + "\"; see entente policy list");
            return Entente.REFUSED;
        }
        var ways = entente.api()
                .get(Api.at("/policies/{}/ways-in", name) + "?action=" + Api.encoded(action), PolicyApi.WaysIn.class);
        entente.printer().one(new Shown(policy.get(), ways), () -> {
            policy.get().sentences().forEach(s -> System.out.println(s.text()));
            System.out.println("It covers " + policy.get().people() + " people.");
            System.out.println();
            System.out.println("What somebody else would need for " + ways.action() + ":");
            if (ways.ways().isEmpty()) {
                System.out.println("  There is no way in.");
            }
            ways.ways().forEach(w -> System.out.println("  " + w.words()));
            ways.notes().forEach(n -> System.out.println("  Note: " + n));
            System.out.println();
            policy.get().facts().forEach(f -> System.out.printf("  %-24s %-32s %s%n", f.name(), f.value(), f.source()));
        });
        return Entente.DONE;
    }

    /** A policy with its ways in, as programs get it. */
    private record Shown(PolicyApi.Policy policy, PolicyApi.WaysIn waysIn) {}
}
