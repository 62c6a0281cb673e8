package dev.entente.steward;

import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.SigningKey;
import dev.entente.steward.link.ServiceLink;
import dev.entente.steward.link.StewardState;
import dev.entente.steward.order.Journal;
import dev.entente.steward.order.Withdrawals;
import dev.entente.steward.settings.StewardFile;
import dev.entente.wire.ConnectionTrouble;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.SecureRandom;
import java.time.Instant;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.Callable;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/** What is run on a steward's own machine. Exit codes are those of the whole command line. */
@Command(
        name = "entente steward",
        description = "The steward's side: run on the machine beside a directory.",
        mixinStandardHelpOptions = true,
        version = "entente steward " + StewardProcess.VERSION,
        subcommands = {
            StewardCommand.Join.class,
            StewardCommand.Run.class,
            StewardCommand.Check.class,
            StewardCommand.Forget.class,
            StewardCommand.Log.class
        })
public final class StewardCommand {
    private static final int DONE = 0;
    private static final int FINDINGS = 1;
    private static final int USAGE = 2;
    private static final int UNREACHABLE = 3;

    /** Runs one command and ends the process. */
    public static void main(String[] arguments) {
        System.exit(run(arguments));
    }

    /** Runs one command; how it ended, as an exit code. */
    public static int run(String... arguments) {
        var line = new CommandLine(new StewardCommand());
        line.setExecutionExceptionHandler((e, command, parsed) -> {
            command.getErr().println("entente steward: " + said(e));
            if (e instanceof StewardFile.Unusable) {
                return USAGE;
            }
            return e instanceof ServiceLink.Refused || e instanceof InvalidDocument ? FINDINGS : UNREACHABLE;
        });
        // One line: the whole help would push it out of sight.
        line.setParameterExceptionHandler((e, all) -> {
            var command = e.getCommandLine();
            command.getErr()
                    .println("entente steward: " + e.getMessage().replaceAll("\\s*\\R\\s*", " ") + " (see "
                            + command.getCommandSpec().qualifiedName() + " --help)");
            return USAGE;
        });
        return line.execute(arguments);
    }

    private static String said(Exception e) {
        return ConnectionTrouble.is(e)
                ? ConnectionTrouble.sentence(e, "the service", "service-ca in the steward's file")
                : e.getMessage();
    }

    private static final class FileOption {
        @Option(names = "--file", paramLabel = "FILE", description = "the steward's own file", required = true)
        private Path file;

        StewardFile read() throws StewardFile.Unusable {
            return StewardFile.read(file);
        }

        /** The file of a steward that has joined; empty, with the reason on standard error, if it hasn't. */
        Optional<StewardFile> joined() throws StewardFile.Unusable {
            var read = read();
            if (StewardState.exists(read.state())) {
                return Optional.of(read);
            }
            System.err.println("entente steward: nothing has joined from " + read.state()
                    + " yet; run entente steward join first");
            return Optional.empty();
        }
    }

    @Command(name = "join", description = "Hand in this steward's public keys with a join code.")
    static final class Join implements Callable<Integer> {
        @CommandLine.Mixin
        private FileOption option;

        @Parameters(paramLabel = "CODE", description = "from entente steward admit")
        private String code;

        @Override
        public Integer call() throws Exception {
            var file = option.read();
            if (StewardState.exists(file.state())) {
                System.err.println("entente steward: a steward has already joined from " + file.state()
                        + "; for another one, set another state: folder in the file");
                return FINDINGS;
            }
            var identity = SigningKey.generate(new SecureRandom());
            var state = ServiceLink.join(file.service(), file.serviceCa(), code, identity, StewardProcess.VERSION);
            state.write(file.state());
            System.out.println("Joined directory " + state.directoryName() + ".");
            System.out.println("Identity key " + identity.publicKey().thumbprint()
                    + ": compare it before signing the roster with entente steward sign-roster.");
            return DONE;
        }
    }

    @Command(name = "run", description = "Run until stopped.")
    static final class Run implements Callable<Integer> {
        @CommandLine.Mixin
        private FileOption option;

        @Override
        public Integer call() throws Exception {
            var joined = option.joined();
            if (joined.isEmpty()) {
                return FINDINGS;
            }
            var file = joined.get();
            new StewardProcess(file).run();
            return DONE;
        }
    }

    @Command(
            name = "forget",
            description =
                    "Hand in withdrawals of credentials that the operator signed, without the service. They apply from the next order.")
    static final class Forget implements Callable<Integer> {
        @CommandLine.Mixin
        private FileOption option;

        @Parameters(paramLabel = "STATEMENTS", description = "from entente steward withdraw-credential --to")
        private Path statements;

        @Override
        public Integer call() throws Exception {
            var joined = option.joined();
            if (joined.isEmpty()) {
                return FINDINGS;
            }
            var file = joined.get();
            var state = StewardState.read(file.state());
            var lines = Files.readAllLines(statements).stream()
                    .filter(line -> !line.isBlank())
                    .toList();
            if (lines.isEmpty()) {
                System.err.println("entente steward: " + statements + " holds no statement");
                return FINDINGS;
            }
            var many = Withdrawals.hand(file.state(), lines, state);
            System.out.println(many + (many == 1 ? " withdrawal was" : " withdrawals were")
                    + " handed in. This steward stops accepting the credentials with its next order.");
            return DONE;
        }
    }

    @Command(name = "check", description = "Tell whether service and directory can be reached from here.")
    static final class Check implements Callable<Integer> {
        @CommandLine.Mixin
        private FileOption option;

        @Override
        public Integer call() throws Exception {
            var file = option.read();
            // The directory can be looked at before anything has joined.
            var service = StewardState.exists(file.state())
                    ? new StewardProcess(file).reachService()
                    : Map.entry(
                            false,
                            "Nothing has joined from " + file.state()
                                    + " yet: run entente steward join with a code from" + " entente steward admit.");
            System.out.println((service.getKey() ? "ok       " : "error    ") + service.getValue());
            var sound = service.getKey();
            for (var finding : StewardProcess.preflight(file)) {
                System.out.printf("%-8s %s%n", finding.severity(), finding.cause());
                if (!finding.severity().equals("ok") && !finding.evidence().isEmpty()) {
                    System.out.println("         " + finding.evidence());
                }
                if (!finding.whatToDo().isEmpty()) {
                    System.out.println("         → " + finding.whatToDo());
                }
                sound &= !finding.severity().equals("error");
            }
            return sound ? DONE : FINDINGS;
        }
    }

    @Command(name = "log", description = "Show what this steward did, by login name.")
    static final class Log implements Callable<Integer> {
        @CommandLine.Mixin
        private FileOption option;

        @Parameters(paramLabel = "LOGIN", arity = "0..1", defaultValue = "", description = "everyone if omitted")
        private String login;

        @Override
        public Integer call() throws StewardFile.Unusable, IOException {
            var state = option.read().state();
            if (!StewardState.exists(state)) {
                throw new StewardFile.Unusable("nothing has joined from " + state + " yet, so nothing was done there");
            }
            var lines = Journal.search(state, login);
            if (lines.isEmpty()) {
                System.err.println(
                        login.isEmpty()
                                ? "This steward has done nothing yet."
                                : "This steward has done nothing for " + login + ".");
            }
            for (var line : lines) {
                System.out.printf(
                        "%s  %-8s %s %s %s%n",
                        Instant.ofEpochMilli(((Number) line.get("at")).longValue()),
                        line.get("kind"),
                        line.getOrDefault("reference", ""),
                        line.getOrDefault("login", ""),
                        String.join(
                                " ",
                                String.valueOf(line.getOrDefault("outcome", "")),
                                String.valueOf(line.getOrDefault("cause", "")),
                                String.valueOf(line.getOrDefault("detail", line.getOrDefault("text", "")))));
            }
            return DONE;
        }
    }
}
