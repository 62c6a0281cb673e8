package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.PeopleApi;
import dev.entente.wire.PolicyApi;
import java.util.List;
import java.util.stream.Collectors;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** Named sets of people. */
@Command(
        name = "scope",
        addMethodSubcommands = false,
        description = "Named sets of people, and who is in them.",
        synopsisSubcommandLabel = "COMMAND")
final class ScopeCommands {
    @ParentCommand
    private Entente entente;

    @Command(name = "list", description = "All published scopes.")
    int list() {
        List<PolicyApi.Scope> scopes = entente.api().get("/scopes", Api.list(PolicyApi.Scope.class));
        entente.printer()
                .list(
                        scopes,
                        "Nothing is published yet. Start with entente draft start",
                        List.of(
                                new Column<>("SCOPE", PolicyApi.Scope::name),
                                new Column<>("PEOPLE", PolicyApi.Scope::people),
                                new Column<>("POLICIES", s -> String.join(", ", s.policies())),
                                new Column<>("WHO", PolicyApi.Scope::words)));
        return Entente.DONE;
    }

    @Command(name = "show", description = "One scope.")
    int show(@Parameters(paramLabel = "NAME") String name) {
        var scope = entente.api().get(Api.at("/scopes/{}", name), PolicyApi.Scope.class);
        entente.printer()
                .one(
                        scope,
                        () -> System.out.println(scope.title() + ": people " + scope.words() + ".\nIt holds "
                                + scope.people() + " people now"
                                + (scope.policies().isEmpty()
                                        ? ", and no policy uses it."
                                        : "; policies: " + String.join(", ", scope.policies()) + ".")));
        return Entente.DONE;
    }

    @Command(name = "members", description = "Who is in a scope now.")
    int members(
            @Parameters(paramLabel = "NAME") String name,
            @Option(names = "--limit", defaultValue = "1000", description = "at most this many (${DEFAULT-VALUE})")
                    Limit limit) {
        var people = limit.of(entente.api(), Api.at("/scopes/{}/members?", name), PeopleApi.PersonRow.class);
        entente.printer()
                .list(
                        people,
                        "No one is in it now.",
                        List.of(
                                new Column<>("NAME", PeopleApi.PersonRow::name),
                                new Column<>("DEPARTMENT", PeopleApi.PersonRow::department),
                                new Column<>(
                                        "ACCOUNTS",
                                        p -> p.accounts().stream()
                                                .map(a -> a.directory() + ":" + a.login())
                                                .collect(Collectors.joining(", ")))));
        return Entente.DONE;
    }

    @Command(name = "changes", description = "Who joined and left a scope, and why, newest first.")
    int changes(
            @Parameters(paramLabel = "NAME") String name,
            @Option(names = "--limit", defaultValue = "50", description = "at most this many (${DEFAULT-VALUE})")
                    Limit limit) {
        var changes = limit.of(entente.api(), Api.at("/scopes/{}/changes?", name), PolicyApi.ScopeChange.class);
        entente.printer()
                .list(
                        changes,
                        "No one has joined or left since it was published.",
                        List.of(
                                new Column<>("WHEN", c -> Printer.time(c.at())),
                                new Column<>("", c -> c.came() ? "came" : "left"),
                                new Column<>("WHO", c -> c.name() == null ? c.more() + " more people" : c.name()),
                                new Column<>("REVISION", PolicyApi.ScopeChange::revision),
                                new Column<>("WHY", PolicyApi.ScopeChange::why)));
        return Entente.DONE;
    }

    @Command(name = "overlap", description = "How many people are in both of two scopes.")
    int overlap(@Parameters(paramLabel = "NAME") String one, @Parameters(paramLabel = "OTHER") String other) {
        var overlap = entente.api().get(Api.at("/scopes/{}/overlap/{}", one, other), PolicyApi.Overlap.class);
        entente.printer()
                .one(
                        overlap,
                        () -> System.out.println(overlap.both() + " in both, " + overlap.onlyFirst() + " in " + one
                                + " alone, " + overlap.onlySecond() + " in " + other + " alone"));
        return Entente.DONE;
    }
}
