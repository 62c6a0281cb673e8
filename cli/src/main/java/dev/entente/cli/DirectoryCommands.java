package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.AdminApi;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import org.snakeyaml.engine.v2.api.Dump;
import org.snakeyaml.engine.v2.api.DumpSettings;
import org.snakeyaml.engine.v2.common.FlowStyle;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** Directories. */
@Command(
        name = "directory",
        description = "Connect directories and look at them.",
        subcommands = DirectoryCommands.Add.class)
final class DirectoryCommands {
    @ParentCommand
    private Entente entente;

    @Command(name = "list", description = "All directories.")
    int list() {
        entente.printer()
                .list(
                        directories(),
                        "No directory yet. Connect one: entente directory add --help",
                        List.of(
                                new Column<>("DIRECTORY", AdminApi.Directory::name),
                                new Column<>("KIND", AdminApi.Directory::kind),
                                new Column<>("ACCOUNTS", AdminApi.Directory::accounts),
                                new Column<>("GROUPS", AdminApi.Directory::groups),
                                new Column<>("SYNCED", d -> Printer.time(d.syncedAt())),
                                new Column<>("WAITING", AdminApi.Directory::waitingDeliveries),
                                new Column<>("ATTENTION", d -> String.join(" ", d.attention()))));
        return Entente.DONE;
    }

    private List<AdminApi.Directory> directories() {
        return entente.api()
                .get(
                        "/directories",
                        Api.JSON.getTypeFactory().constructCollectionType(List.class, AdminApi.Directory.class));
    }

    @Command(name = "show", description = "One directory with its stewards and findings.")
    int show(@Parameters(paramLabel = "NAME") String name) {
        var directory = entente.api().get("/directories/" + name, AdminApi.Directory.class);
        entente.printer().one(directory, () -> {
            System.out.println(directory.title() + " (" + directory.name() + ", " + directory.kind() + ")");
            System.out.println("  servers       " + String.join(", ", directory.servers()));
            System.out.println("  base          " + directory.base());
            System.out.println("  account       " + directory.serviceAccount());
            System.out.println("  correlation   " + directory.correlation());
            System.out.println("  operator key  " + directory.operatorKey());
            System.out.println("  roster        version " + directory.rosterVersion());
            System.out.println("  people        " + directory.accounts() + " accounts, " + directory.groups()
                    + " groups, read " + Printer.time(directory.syncedAt()));
            directory
                    .stewards()
                    .forEach(s -> System.out.println("  steward       " + s.name() + ", " + s.state() + ", "
                            + (s.connected() ? "connected" : "last seen " + Printer.time(s.lastSeen()))));
            if (directory.lastPreflight() != null) {
                System.out.println(
                        "Preflight " + Printer.time(directory.lastPreflight().endedAt()));
                directory.lastPreflight().findings().forEach(DirectoryCommands::print);
            }
        });
        return Entente.DONE;
    }

    private static void print(AdminApi.Finding finding) {
        System.out.printf("%-8s %s%n", finding.severity(), finding.cause());
        if (!finding.severity().equals("ok")) {
            if (!finding.evidence().isEmpty()) {
                System.out.println("         " + finding.evidence());
            }
            if (!finding.whatToDo().isEmpty()) {
                System.out.println("         → " + finding.whatToDo());
            }
        }
    }

    @Command(
            name = "preflight",
            description = "Look whether everything needed is right. Exit 1 if anything would fail.")
    int preflight(@Parameters(paramLabel = "NAME") String name) throws InterruptedException {
        var job = waitFor(name, "preflight");
        entente.printer().one(job, () -> {
            job.findings().forEach(DirectoryCommands::print);
            if (job.message() != null) {
                System.out.println(job.message());
            }
        });
        var failed = job.state().equals("failed")
                || job.findings().stream().anyMatch(f -> f.severity().equals("error"));
        return failed ? Entente.REFUSED : Entente.DONE;
    }

    @Command(name = "sync", description = "Read people, groups and OUs.")
    int sync(@Parameters(paramLabel = "NAME") String name) throws InterruptedException {
        var job = waitFor(name, "sync");
        entente.printer()
                .one(
                        job,
                        () -> System.out.println(
                                job.state().equals("done") ? "Read " + job.done() + " entries." : job.message()));
        return job.state().equals("done") ? Entente.DONE : Entente.REFUSED;
    }

    private AdminApi.Job waitFor(String name, String kind) throws InterruptedException {
        var job = entente.api().post("/directories/" + name + "/" + kind, Map.of(), AdminApi.Job.class);
        var shown = -1;
        while (job.endedAt() == null) {
            if (System.console() != null && job.done() != shown) {
                System.err.print(
                        "\r" + kind + " " + job.state() + (job.done() > 0 ? ", " + job.done() + " read" : "") + "   ");
                shown = job.done();
            }
            Thread.sleep(150);
            job = entente.api().get("/jobs/" + job.id(), AdminApi.Job.class);
        }
        if (shown >= 0) {
            System.err.println();
        }
        return job;
    }

    @Command(
            name = "add",
            description = {
                "Connect a directory.",
                "Makes the operator key, which stays on this machine, and writes the file of its first steward. The"
                        + " service account's password is named there by its file and never sent to the service."
            })
    static final class Add implements Callable<Integer> {
        @ParentCommand
        private DirectoryCommands parent;

        @Parameters(paramLabel = "NAME", description = "lower-case letters, digits and dashes")
        private String name;

        @Option(names = "--kind", required = true, description = "active-directory or ldap")
        private String kind;

        @Option(names = "--title", description = "as people see it")
        private String title;

        @Option(names = "--at", required = true, paramLabel = "LDAPS-URL", description = "server; repeat in order")
        private List<String> servers;

        @Option(names = "--ca", required = true, paramLabel = "FILE", description = "CA certificate, PEM")
        private Path ca;

        @Option(names = "--base", required = true, paramLabel = "DN", description = "where people and groups are read")
        private String base;

        @Option(names = "--account", required = true, paramLabel = "DN", description = "service account")
        private String account;

        @Option(
                names = "--password-file",
                required = true,
                paramLabel = "FILE",
                description = "on the steward's machine; holds the service account's password")
        private Path passwordFile;

        @Option(
                names = "--correlation",
                required = true,
                paramLabel = "ATTRIBUTE",
                description = "tells which accounts are one person's, such as employeeID")
        private String correlation;

        @Option(
                names = "--writes-below",
                required = true,
                paramLabel = "DN",
                description = "the only entries the steward may write; repeat")
        private List<String> writesBelow;

        @Option(names = "--protect-group", paramLabel = "DN", description = "members are never written; repeat")
        private List<String> protectGroups = List.of();

        @Option(names = "--probe", paramLabel = "DN", description = "dedicated account to try rights on")
        private String probe;

        @Option(
                names = "--steward-file",
                required = true,
                paramLabel = "FILE",
                description = "where to write the steward's file")
        private Path stewardFile;

        @Override
        public Integer call() throws IOException {
            var entente = parent.entente;
            var key = entente.home.makeOperatorKey(name);
            try {
                entente.api()
                        .post(
                                "/directories",
                                new AdminApi.NewDirectory(
                                        name,
                                        title,
                                        kind,
                                        servers,
                                        Files.readString(ca),
                                        base,
                                        account,
                                        correlation,
                                        key.publicKey()),
                                AdminApi.Directory.class);
            } catch (RuntimeException | IOException e) {
                entente.home.forgetOperatorKey(name);
                throw e;
            }
            Files.createDirectories(stewardFile.toAbsolutePath().getParent());
            Files.writeString(stewardFile, stewardFile(entente.server()));
            System.err.println("Directory " + name + " is known. Operator key: " + entente.home.operatorFile(name)
                    + " (keep a copy in a safe place).");
            System.err.println("The steward's file: " + stewardFile + ". Next: entente steward admit --directory "
                    + name + " " + name + "-1");
            return Entente.DONE;
        }

        private String stewardFile(String server) {
            var directory = new LinkedHashMap<String, Object>();
            directory.put("kind", kind);
            directory.put("servers", servers);
            directory.put("ca", ca.toAbsolutePath().toString());
            directory.put("base", base);
            directory.put("bind", account);
            directory.put("password-file", passwordFile.toAbsolutePath().toString());
            if (probe != null) {
                directory.put("probe", probe);
            }
            var guard = new LinkedHashMap<String, Object>();
            guard.put("bases", writesBelow);
            guard.put("protected-groups", protectGroups);
            guard.put("seal-age", "15m");
            guard.put("writes-per-minute", 60);
            guard.put("writes-per-day", 5000);
            var file = new LinkedHashMap<String, Object>();
            file.put("service", server);
            file.put("state", "state-" + name);
            file.put("directory", directory);
            file.put("guard", guard);
            var settings =
                    DumpSettings.builder().setDefaultFlowStyle(FlowStyle.BLOCK).build();
            return "# The steward's own file: the service cannot widen what stands here.\n"
                    + new Dump(settings).dumpToString(file);
        }
    }
}
