package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.DirectoryApi;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.concurrent.Callable;
import java.util.stream.Stream;
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
        addMethodSubcommands = false,
        description = "Connect directories and look at them.",
        subcommands = {DirectoryCommands.Add.class, DirectoryCommands.Change.class, DirectoryCommands.Remove.class})
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
                                new Column<>("DIRECTORY", DirectoryApi.Directory::name),
                                new Column<>("KIND", DirectoryApi.Directory::kind),
                                new Column<>("ACCOUNTS", DirectoryApi.Directory::accounts),
                                new Column<>("GROUPS", DirectoryApi.Directory::groups),
                                new Column<>("SYNCED", d -> Printer.time(d.syncedAt())),
                                new Column<>("WAITING", DirectoryApi.Directory::waitingDeliveries),
                                new Column<>("ATTENTION", d -> String.join(" ", d.attention()))));
        return Entente.DONE;
    }

    private List<DirectoryApi.Directory> directories() {
        return entente.api().get("/directories", Api.list(DirectoryApi.Directory.class));
    }

    @Command(name = "show", description = "One directory with its stewards and findings.")
    int show(@Parameters(paramLabel = "NAME") String name) {
        var directory = entente.api().get(Api.at("/directories/{}", name), DirectoryApi.Directory.class);
        entente.printer().one(directory, () -> {
            System.out.println(directory.title() + " (" + directory.name() + ", " + directory.kind() + ")");
            System.out.println("  servers       " + String.join(", ", directory.servers()));
            if (directory.suspendedAt() != null) {
                System.out.println(
                        "  suspended     since " + Printer.time(directory.suspendedAt()) + "; nothing is delivered");
            }
            line("base", directory.base());
            line("group base", directory.groupBase());
            line("account", directory.serviceAccount());
            line("correlation", directory.correlation());
            line("login names", String.join(", ", directory.loginAttributes()));
            line("attributes", String.join(", ", directory.attributes()));
            line("protected", String.join("; ", directory.protectedGroups()));
            line("same password", String.join(", ", directory.mailboxes()));
            line("trust", String.valueOf(directory.trust()));
            System.out.println("  operator key  " + directory.operatorKey());
            System.out.println("  roster        version " + directory.rosterVersion());
            System.out.println("  people        " + directory.accounts() + " accounts, " + directory.groups()
                    + " groups, read " + Printer.time(directory.syncedAt())
                    + (directory.followsChanges() ? ", changes follow within seconds" : ""));
            if (directory.openCases() > 0) {
                line("owner unclear", directory.openCases() + " accounts: entente person cases");
            }
            directory
                    .stewards()
                    .forEach(s -> System.out.println("  steward       " + s.name() + ", " + s.state() + ", "
                            + (s.connected() ? "connected" : "last seen " + Printer.time(s.lastSeen()))
                            + (s.server() == null ? "" : ", works with " + s.server())));
            directory.attention().forEach(a -> line("attention", a));
            if (directory.lastPreflight() != null) {
                System.out.println(
                        "Preflight " + Printer.time(directory.lastPreflight().endedAt()));
                directory.lastPreflight().findings().forEach(DirectoryCommands::print);
            }
        });
        return Entente.DONE;
    }

    private static void line(String name, String value) {
        if (value != null && !value.isEmpty()) {
            System.out.printf("  %-13s %s%n", name, value);
        }
    }

    @Command(name = "suspend", description = "Stop all deliveries to a directory at once.")
    int suspend(@Parameters(paramLabel = "NAME") String name) {
        entente.api().post(Api.at("/directories/{}/suspension", name), Map.of(), DirectoryApi.Directory.class);
        System.err.println("Deliveries to " + name + " are stopped. To resume them: entente directory resume " + name);
        return Entente.DONE;
    }

    @Command(name = "resume", description = "Resume deliveries to a suspended directory.")
    int resume(@Parameters(paramLabel = "NAME") String name) {
        entente.api().delete(Api.at("/directories/{}/suspension", name), null);
        System.err.println("Deliveries to " + name + " are resumed.");
        return Entente.DONE;
    }

    @Command(name = "accept-loss", description = "Accept that the accounts the last sync didn't find are gone.")
    int acceptLoss(@Parameters(paramLabel = "NAME") String name) {
        var job = entente.api().post(Api.at("/directories/{}/loss-accepted", name), Map.of(), DirectoryApi.Job.class);
        System.err.println("The sync is " + job.state() + ".");
        return Entente.DONE;
    }

    private static void print(DirectoryApi.Finding finding) {
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
            description = "Check that everything a directory needs is in place. Exits with 1 if anything would fail.")
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

    private DirectoryApi.Job waitFor(String name, String kind) throws InterruptedException {
        var job = entente.api().post(Api.at("/directories/{}/{}", name, kind), Map.of(), DirectoryApi.Job.class);
        var shown = -1;
        while (job.endedAt() == null) {
            if (System.console() != null && job.done() != shown) {
                System.err.print(
                        "\r" + kind + " " + job.state() + (job.done() > 0 ? ", " + job.done() + " read" : "") + "   ");
                shown = job.done();
            }
            Thread.sleep(150);
            job = entente.api().get(Api.at("/jobs/{}", job.id()), DirectoryApi.Job.class);
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

        @Option(names = "--kind", required = true, description = "active-directory, ldap, scim or local")
        private String kind;

        @Option(names = "--title", description = "as people see it")
        private String title;

        @Option(
                names = "--at",
                paramLabel = "URL",
                description =
                        "server, repeat in order of preference: ldaps://host:port, ldap://host:port for StartTLS, or"
                                + " https://host/path for scim")
        private List<String> servers = List.of();

        @Option(
                names = "--ca",
                paramLabel = "FILE",
                description = "CA certificates that the servers are trusted by, PEM")
        private Path ca;

        @Option(names = "--pin", paramLabel = "SHA256", description = "instead of --ca: the server's key, base64")
        private String pin;

        @Option(names = "--base", paramLabel = "DN", description = "where people are read")
        private String base;

        @Option(names = "--group-base", paramLabel = "DN", description = "where groups and OUs are read, if elsewhere")
        private String groupBase;

        @Option(names = "--account", paramLabel = "DN", description = "service account; with --password-file")
        private String account;

        @Option(
                names = "--password-file",
                paramLabel = "FILE",
                description = "on the steward's machine; holds the service account's password")
        private Path passwordFile;

        @Option(
                names = "--certificate",
                paramLabel = "FILE",
                description = "sign in with this client certificate instead; its key is FILE with the ending .key")
        private Path certificate;

        @Option(names = "--principal", paramLabel = "NAME@REALM", description = "sign in by Kerberos; with --keytab")
        private String principal;

        @Option(names = "--keytab", paramLabel = "FILE", description = "keys of --principal, on the steward's machine")
        private Path keytab;

        @Option(names = "--kdc", paramLabel = "HOST", description = "issues Kerberos tickets; with --principal")
        private String kdc;

        @Option(names = "--token-file", paramLabel = "FILE", description = "for scim: holds the bearer token")
        private Path tokenFile;

        @Option(names = "--command", paramLabel = "FILE", description = "for local: the executable beside the steward")
        private Path command;

        @Option(
                names = "--correlation",
                required = true,
                paramLabel = "ATTRIBUTE",
                description = "tells which accounts are one person's, such as employeeID")
        private String correlation;

        @Option(
                names = "--login-attribute",
                paramLabel = "NAME",
                description = "its values are login names too; repeat")
        private List<String> loginAttributes = List.of();

        @Option(
                names = "--attribute",
                paramLabel = "NAME",
                description = "attribute that scopes may ask about; repeat, in place of the usual ones")
        private List<String> attributes;

        @Option(
                names = "--trust",
                paramLabel = "NUMBER",
                description = "directories with a lower number are believed more about addresses; each has its own"
                        + " (by default after all others)")
        private Integer trust;

        @Option(
                names = "--writes-below",
                paramLabel = "DN",
                description = "the only entries the steward may write; repeat")
        private List<String> writesBelow = List.of();

        @Option(names = "--protect-group", paramLabel = "DN", description = "members are never written; repeat")
        private List<String> protectGroups = List.of();

        @Option(
                names = "--mailbox-domain",
                paramLabel = "DOMAIN",
                description =
                        "mailboxes there open with this directory's passwords, so no code goes there unless a policy"
                                + " says so; repeat")
        private List<String> mailboxes = List.of();

        @Option(names = "--probe", paramLabel = "DN", description = "dedicated account to try rights on")
        private String probe;

        @Option(
                names = "--steward-file",
                required = true,
                paramLabel = "FILE",
                description = "where to write the steward's file")
        private Path stewardFile;

        private static final List<String> KINDS = List.of("active-directory", "ldap", "scim", "local");

        private boolean ldap() {
            return !kind.equals("scim") && !kind.equals("local");
        }

        /** What the steward's file would lack; said before anything is made. */
        private void complete() {
            if (!KINDS.contains(kind)) {
                throw new IllegalArgumentException(
                        "--kind must be one of " + String.join(", ", KINDS) + ", not " + kind);
            }
            if (Files.exists(stewardFile)) {
                throw new IllegalArgumentException(
                        stewardFile + " already exists; move it away, or choose another --steward-file");
            }
            var ways = Stream.of(passwordFile, certificate, principal)
                    .filter(Objects::nonNull)
                    .count();
            if (ldap() && (base == null || writesBelow.isEmpty() || ways != 1 || (ca == null) == (pin == null))) {
                throw new IllegalArgumentException(
                        "a directory needs --base, --writes-below, one of --ca and --pin, and one way to sign in: --account with"
                                + " --password-file, --certificate, or --principal with --keytab and --kdc");
            }
            if (passwordFile != null && account == null || principal != null && (keytab == null || kdc == null)) {
                throw new IllegalArgumentException(
                        "--password-file goes with --account, and --principal with --keytab and --kdc");
            }
            if (kind.equals("scim") && tokenFile == null || kind.equals("local") && command == null) {
                throw new IllegalArgumentException(
                        kind.equals("scim") ? "scim needs --token-file" : "local needs --command");
            }
        }

        @Override
        public Integer call() throws IOException {
            complete();
            var entente = parent.entente;
            // Written first: a directory whose file can't be written would be in the way of the next try.
            Files.createDirectories(stewardFile.toAbsolutePath().getParent());
            Files.writeString(stewardFile, stewardFile(entente.server()));
            var key = entente.home.makeOperatorKey(name);
            DirectoryApi.Directory added;
            try {
                added = entente.api()
                        .post(
                                "/directories",
                                new DirectoryApi.NewDirectory(
                                        name,
                                        title,
                                        kind,
                                        servers,
                                        base,
                                        groupBase,
                                        principal != null ? principal : account,
                                        correlation,
                                        loginAttributes,
                                        attributes,
                                        protectGroups,
                                        mailboxes,
                                        trust,
                                        key.publicKey()),
                                DirectoryApi.Directory.class);
            } catch (RuntimeException e) {
                entente.home.forgetOperatorKey(name);
                Files.deleteIfExists(stewardFile);
                throw e;
            }
            if (added == null) {
                System.err.println("Operator key: " + entente.home.operatorFile(name) + "; the steward's file: "
                        + stewardFile + ".");
                return Entente.DONE;
            }
            System.err.println("Directory " + name + " is added. Operator key: " + entente.home.operatorFile(name)
                    + " (keep a copy in a safe place).");
            System.err.println("The steward's file: " + stewardFile + ". Next: entente steward admit --directory "
                    + name + " " + name + "-1");
            return Entente.DONE;
        }

        private String stewardFile(String server) {
            var directory = new LinkedHashMap<String, Object>();
            directory.put("kind", kind);
            if (!servers.isEmpty()) {
                directory.put("servers", servers);
            }
            put(directory, "ca", ca);
            put(directory, "pin", pin);
            put(directory, "base", base);
            put(directory, "group-base", groupBase);
            put(directory, "bind", passwordFile == null ? null : account);
            put(directory, "password-file", passwordFile);
            put(directory, "certificate", certificate);
            if (certificate != null) {
                put(directory, "certificate-key", Path.of(certificate.toString().replaceAll("\\.[^.]*$", "") + ".key"));
            }
            if (principal != null) {
                var kerberos = new LinkedHashMap<String, Object>();
                kerberos.put("principal", principal);
                kerberos.put("keytab", keytab.toAbsolutePath().toString());
                kerberos.put("realm", principal.substring(principal.indexOf('@') + 1));
                kerberos.put("kdc", kdc);
                directory.put("kerberos", kerberos);
            }
            put(directory, "token-file", tokenFile);
            put(directory, "command", command);
            put(directory, "probe", probe);
            var guard = new LinkedHashMap<String, Object>();
            guard.put("bases", ldap() ? writesBelow : List.of("*"));
            guard.put("protected-groups", protectGroups);
            guard.put("actions", ldap() ? List.of("reset", "unlock", "change") : List.of("reset"));
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

        private static void put(Map<String, Object> into, String name, Object value) {
            if (value != null) {
                into.put(
                        name, value instanceof Path path ? path.toAbsolutePath().toString() : value);
            }
        }
    }

    @Command(
            name = "change",
            description = {
                "Change what the service knows about a directory; what is not named stays.",
                "How the steward reaches and signs in to it stands in the steward's own file and is changed there."
            })
    static final class Change implements Callable<Integer> {
        @ParentCommand
        private DirectoryCommands parent;

        @Parameters(paramLabel = "NAME")
        private String name;

        @Option(names = "--title")
        private String title;

        @Option(names = "--at", paramLabel = "URL", description = "servers, for people to read; repeat")
        private List<String> servers;

        @Option(names = "--base", paramLabel = "DN")
        private String base;

        @Option(names = "--group-base", paramLabel = "DN")
        private String groupBase;

        @Option(names = "--account", paramLabel = "NAME")
        private String account;

        @Option(names = "--correlation", paramLabel = "ATTRIBUTE")
        private String correlation;

        @Option(names = "--login-attribute", paramLabel = "NAME", description = "repeat")
        private List<String> loginAttributes;

        @Option(
                names = "--attribute",
                paramLabel = "NAME",
                description = "attribute that scopes may ask about; repeat for all of them")
        private List<String> attributes;

        @Option(names = "--protect-group", paramLabel = "DN", description = "members count as privileged; repeat")
        private List<String> protectGroups;

        @Option(
                names = "--mailbox-domain",
                paramLabel = "DOMAIN",
                description =
                        "mailboxes there open with this directory's passwords, so no code goes there unless a policy"
                                + " says so; repeat, or \"\" for none")
        private List<String> mailboxes;

        @Option(names = "--trust", paramLabel = "NUMBER")
        private Integer trust;

        @Option(
                names = "--loss-share",
                paramLabel = "PERCENT",
                description = "a sync that misses more people than this stops and asks")
        private Integer lossShare;

        @Override
        public Integer call() {
            parent.entente
                    .api()
                    .put(
                            Api.at("/directories/{}/settings", name),
                            new DirectoryApi.DirectoryChange(
                                    title,
                                    servers,
                                    base,
                                    groupBase,
                                    account,
                                    correlation,
                                    loginAttributes,
                                    attributes,
                                    protectGroups,
                                    mailboxes,
                                    trust,
                                    lossShare));
            System.err.println("Changed. Preflight looks again by itself: entente directory show " + name);
            return Entente.DONE;
        }
    }

    @Command(
            name = "remove",
            description =
                    "Remove a directory with everything read from it; without --yes it only says what that would do.")
    static final class Remove implements Callable<Integer> {
        @ParentCommand
        private DirectoryCommands parent;

        @Parameters(paramLabel = "NAME")
        private String name;

        @Option(names = "--yes", description = "do it")
        private boolean yes;

        @Override
        public Integer call() {
            var api = parent.entente.api();
            var removal = api.get(Api.at("/directories/{}/removal", name), DirectoryApi.Removal.class);
            parent.entente.printer().one(removal, () -> {
                System.out.println("Removing " + name + " would forget " + removal.accounts() + " accounts, "
                        + removal.onlyHere() + " of them of people who have no other, and retire its stewards ("
                        + removal.stewards()
                        + "). Deliveries that wait: " + removal.waitingDeliveries() + ".");
                removal.policies().forEach(p -> System.out.println("  in the way  policy " + p + " delivers to it"));
            });
            if (!yes) {
                System.err.println("Nothing was removed. Do it: entente directory remove " + name + " --yes");
                return removal.policies().isEmpty() ? Entente.DONE : Entente.REFUSED;
            }
            if (!api.delete(Api.at("/directories/{}", name), new DirectoryApi.RemovalConfirmed(name))) {
                return Entente.DONE;
            }
            parent.entente.home.setOperatorKeyAside(name);
            System.err.println("Removed. Attempts, deliveries and the record stay; the operator key is set aside.");
            return Entente.DONE;
        }
    }
}
