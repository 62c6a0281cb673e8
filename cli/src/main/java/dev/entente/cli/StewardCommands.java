package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.core.seal.Roster;
import dev.entente.core.seal.SigningKey;
import dev.entente.wire.AdminApi;
import java.util.ArrayList;
import java.util.List;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** The administrator's side of stewards. */
@Command(
        name = "steward",
        description = "Admit stewards and sign the roster. On a steward's own machine: join, run, check, log.")
final class StewardCommands {
    @ParentCommand
    private Entente entente;

    @Command(
            name = "admit",
            description =
                    "Print a join code for a steward; it works once, for an hour. Under a name in use it replaces that steward's key.")
    int admit(
            @Option(names = "--directory", required = true, paramLabel = "NAME") String directory,
            @Parameters(paramLabel = "STEWARD", description = "a name for the steward") String steward) {
        var operator = entente.home.operatorKey(directory).publicKey().thumbprint();
        var code = entente.api()
                .post(
                        "/directories/" + directory + "/join-codes",
                        new AdminApi.NewJoinCode(steward),
                        AdminApi.JoinCode.class);
        // The thumbprints let the steward pin both keys, whatever the service shows it later.
        System.out.println(code.code() + "." + code.serviceKey() + "." + operator);
        System.err.println("On the steward's machine, before " + Printer.time(code.expiresAt())
                + ": entente steward join --file FILE CODE");
        return Entente.DONE;
    }

    @Command(
            name = "sign-roster",
            description = "Sign which stewards serve a directory: all that have joined, or those named.")
    int signRoster(
            @Option(names = "--directory", required = true, paramLabel = "NAME") String name,
            @Parameters(paramLabel = "STEWARD", arity = "0..*") List<String> named) {
        var key = entente.home.operatorKey(name);
        var directory = entente.api().get("/directories/" + name, AdminApi.Directory.class);
        var members = new ArrayList<Roster.Member>();
        for (var steward : directory.stewards()) {
            if (List.of("retired", "replaced", "copied").contains(steward.state())) {
                continue;
            }
            if (named == null || named.isEmpty() || named.contains(steward.name())) {
                members.add(new Roster.Member(steward.id(), steward.name(), steward.identityKey()));
            }
        }
        if (members.isEmpty()) {
            System.err.println("entente: no steward to sign in; let one join first");
            return Entente.REFUSED;
        }
        return sign(key, directory, members);
    }

    private int sign(SigningKey key, AdminApi.Directory directory, List<Roster.Member> members) {
        var name = directory.name();
        var roster = new Roster(1, directory.id(), directory.rosterVersion() + 1, System.currentTimeMillis(), members);
        entente.api().put("/directories/" + name + "/roster", new AdminApi.SignedRoster(roster.sign(key)));
        System.err.println("Roster " + roster.version() + " of " + name + ":");
        members.forEach(m -> System.err.println("  " + m.name() + "  " + m.key().thumbprint()));
        return Entente.DONE;
    }

    @Command(
            name = "retire",
            description = "Sign a roster without a steward: it opens nothing and writes nothing any more.")
    int retire(
            @Option(names = "--directory", required = true, paramLabel = "NAME") String name,
            @Parameters(paramLabel = "STEWARD") String leaving) {
        var key = entente.home.operatorKey(name);
        var directory = entente.api().get("/directories/" + name, AdminApi.Directory.class);
        if (directory.stewards().stream().noneMatch(s -> s.name().equals(leaving))) {
            System.err.println("entente: there is no steward \"" + leaving + "\" of " + name);
            return Entente.REFUSED;
        }
        var staying = directory.stewards().stream()
                .filter(s -> s.state().equals("listed") && !s.name().equals(leaving))
                .map(s -> new Roster.Member(s.id(), s.name(), s.identityKey()))
                .toList();
        if (staying.isEmpty()) {
            System.err.println("Nobody serves " + name + " then: nothing can be delivered until another joins.");
        }
        return sign(key, directory, staying);
    }

    @Command(name = "list", description = "All stewards.")
    int list() {
        List<AdminApi.Directory> directories = entente.api()
                .get(
                        "/directories",
                        Api.JSON.getTypeFactory().constructCollectionType(List.class, AdminApi.Directory.class));
        record Row(String directory, AdminApi.Steward steward) {}
        var rows = directories.stream()
                .flatMap(d -> d.stewards().stream().map(s -> new Row(d.name(), s)))
                .toList();
        entente.printer()
                .list(
                        rows,
                        "No steward yet: entente steward admit --help",
                        List.of(
                                new Column<>("STEWARD", r -> r.steward().name()),
                                new Column<>("DIRECTORY", Row::directory),
                                new Column<>("STATE", r -> r.steward().state()),
                                new Column<>("CONNECTED", r -> r.steward().connected() ? "yes" : "no"),
                                new Column<>(
                                        "LAST SEEN",
                                        r -> Printer.time(r.steward().lastSeen())),
                                new Column<>("VERSION", r -> r.steward().version()),
                                new Column<>("SERVER", r -> r.steward().server()),
                                new Column<>("MS", r -> r.steward().latencyMillis()),
                                new Column<>("HELD", r -> r.steward().held()),
                                new Column<>(
                                        "CERTIFICATE", r -> days(r.steward().certificateEnds())),
                                new Column<>(
                                        "IDENTITY KEY",
                                        r -> r.steward().identityKey().thumbprint())));
        return Entente.DONE;
    }

    private static String days(Long ends) {
        return ends == null ? "" : (ends - System.currentTimeMillis()) / 86_400_000 + " days";
    }
}
