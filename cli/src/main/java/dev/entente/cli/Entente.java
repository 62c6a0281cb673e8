package dev.entente.cli;

import java.io.UncheckedIOException;
import java.nio.charset.CharacterCodingException;
import java.nio.file.AccessDeniedException;
import java.nio.file.FileSystemException;
import java.nio.file.NoSuchFileException;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import picocli.AutoComplete;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.ScopeType;
import picocli.CommandLine.TypeConversionException;
import picocli.CommandLine.UnmatchedArgumentException;

/** The entente command. */
@Command(
        name = "entente",
        description = "Administer who may recover their own access.",
        mixinStandardHelpOptions = true,
        scope = ScopeType.INHERIT,
        version = "entente 0.1.0")
public final class Entente {
    private static final List<Class<?>> COMMANDS = List.of(
            AccessCommands.SignIn.class,
            AccessCommands.FirstAdministrator.class,
            AdministratorCommands.class,
            ApprovalCommands.class,
            AccessCommands.Status.class,
            PeopleCommands.Explain.class,
            DirectoryCommands.class,
            StewardCommands.class,
            PeopleCommands.class,
            ScopeCommands.class,
            PolicyCommands.class,
            DraftCommands.class,
            RevisionCommands.class,
            AttemptCommands.class,
            DeliveryCommands.class,
            AnswerCommands.class,
            TokenCommands.class,
            HelpDeskCommands.class,
            MailCommands.class,
            PhoneCommands.class,
            MessageCommands.class,
            StopCommands.Stop.class,
            StopCommands.Resume.class,
            StopCommands.Stops.class,
            EventCommands.class,
            OutletCommands.class,
            NotificationCommands.class,
            RetentionCommands.Hold.class,
            RetentionCommands.Erasure.class,
            AutoComplete.GenerateCompletion.class);

    static final int DONE = 0;
    static final int REFUSED = 1;
    static final int USAGE = 2;
    static final int UNREACHABLE = 3;
    static final int NOT_ALLOWED = 4;
    /** What was checked holds, by a key that was compared with none. */
    static final int KEY_NOT_COMPARED = 5;

    @Option(
            names = "--server",
            paramLabel = "URL",
            description = "the service; ENTENTE_SERVER if omitted, or where you signed in",
            scope = ScopeType.INHERIT)
    private String server;

    @Option(
            names = "--profile",
            paramLabel = "NAME",
            defaultValue = "default",
            description = "which sign-in to use",
            scope = ScopeType.INHERIT)
    private String profile;

    @Option(
            names = "--output",
            paramLabel = "FORM",
            defaultValue = "table",
            description = "table, json, yaml or csv",
            scope = ScopeType.INHERIT)
    private Printer.Form form;

    final Home home;

    Entente(Home home) {
        this.home = home;
    }

    /** Runs one command and exits with its code. */
    public static void main(String[] arguments) {
        System.exit(run(Home.ofUser(), arguments));
    }

    static int run(Home home, String... arguments) {
        var line = new CommandLine(new Entente(home));
        asked(List.of(arguments)).forEach(type -> line.addSubcommand(command(type, List.of(arguments))));
        line.registerConverter(Instant.class, new Times());
        line.registerConverter(Limit.class, new Limit.Typed());
        line.registerConverter(UUID.class, text -> {
            try {
                return UUID.fromString(text);
            } catch (IllegalArgumentException e) {
                throw new TypeConversionException("\"" + text + "\" isn't an id; copy all of it from the list");
            }
        });
        // One line: the whole help would push it out of sight.
        line.setParameterExceptionHandler((e, all) -> {
            var command = e.getCommandLine();
            if (e.getMessage().startsWith("Missing required subcommand")) {
                command.usage(command.getErr());
                return USAGE;
            }
            var guesses =
                    e instanceof UnmatchedArgumentException unmatched ? unmatched.getSuggestions() : List.<String>of();
            command.getErr()
                    .println("entente: " + e.getMessage().replaceAll("\\s*\\R\\s*", " ")
                            + (guesses.isEmpty() ? "" : "; did you mean " + guesses.get(0) + "?") + " (see "
                            + command.getCommandSpec().qualifiedName() + " --help)");
            return USAGE;
        });
        line.setCaseInsensitiveEnumValuesAllowed(true);
        line.setColorScheme(CommandLine.Help.defaultColorScheme(CommandLine.Help.Ansi.AUTO));
        line.setExecutionExceptionHandler((e, command, parsed) -> {
            command.getErr().println("entente: " + explain(e));
            if (e instanceof Api.Refused refused) {
                refused.problem()
                        .path("problems")
                        .forEach(p -> command.getErr()
                                .println("  " + p.path("file").asString("") + ":"
                                        + p.path("line").asInt(0) + ":"
                                        + p.path("column").asInt(0) + ": "
                                        + p.path("message").asString("")));
                return refused.status() == 401 || refused.status() == 403 ? NOT_ALLOWED : REFUSED;
            }
            return e instanceof Api.Unreachable ? UNREACHABLE : REFUSED;
        });
        return line.execute(Thumbprint.marked(arguments));
    }

    /** Reading all commands takes longer than most calls do: the one that is asked for is enough, where one is. */
    private static List<Class<?>> asked(List<String> arguments) {
        var named = COMMANDS.stream()
                .filter(command ->
                        arguments.contains(command.getAnnotation(Command.class).name()))
                .toList();
        return named.isEmpty() || named.contains(AutoComplete.GenerateCompletion.class) ? COMMANDS : named;
    }

    /** A command with its methods as subcommands. If the next word names one of them, the others aren't read. */
    private static CommandLine command(Class<?> type, List<String> arguments) {
        var command = new CommandLine(type);
        var methods = CommandLine.getCommandMethods(type, null);
        var after = arguments.indexOf(command.getCommandName()) + 1;
        var named = methods.stream()
                .filter(method -> after > 0
                        && after < arguments.size()
                        && method.getAnnotation(Command.class).name().equals(arguments.get(after)))
                .toList();
        (named.isEmpty() ? methods : named).forEach(method -> command.addSubcommand(new CommandLine(method)));
        return command;
    }

    private static String explain(Exception e) {
        if (e instanceof NoSuchFileException missing) {
            return "there is no file or folder " + missing.getFile();
        }
        if (e instanceof AccessDeniedException denied) {
            return "you have no right to " + denied.getFile();
        }
        if (e instanceof FileSystemException file) {
            // Its message is nothing but the file's name.
            return file.getFile() + " can't be read or written there"
                    + (file.getReason() == null ? "" : ": " + file.getReason());
        }
        if (e instanceof CharacterCodingException) {
            return "a file is not text in UTF-8; save it as UTF-8";
        }
        var said = e instanceof UncheckedIOException io && io.getMessage() == null
                ? io.getCause().getMessage()
                : e.getMessage();
        return said == null ? "it failed with " + e.getClass().getSimpleName() : said;
    }

    /** The service as the profile or the environment says. */
    Api api() {
        var token = System.getenv("ENTENTE_TOKEN");
        return new Api(
                server(),
                token != null ? token : signedIn().map(Home.SignedIn::token).orElse(null));
    }

    String server() {
        var said = server != null ? server : System.getenv("ENTENTE_SERVER");
        var address =
                said != null ? said : signedIn().map(Home.SignedIn::server).orElse("http://localhost:8080");
        if (!address.matches("https?://[^\\s/]+.*")) {
            throw new CommandLine.ParameterException(
                    new CommandLine(this),
                    "The service's address looks like https://recover.example.org, not " + address + ".");
        }
        return address;
    }

    String profile() {
        return profile;
    }

    Printer printer() {
        return new Printer(form, System.out);
    }

    private Optional<Home.SignedIn> signedIn() {
        return home.signedIn(profile);
    }
}
