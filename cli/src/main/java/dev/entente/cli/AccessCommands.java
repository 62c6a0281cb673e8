package dev.entente.cli;

import dev.entente.wire.AccessApi;
import dev.entente.wire.RecordApi;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.io.UncheckedIOException;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.util.Locale;
import java.util.concurrent.Callable;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** Signing in, and how things stand. */
final class AccessCommands {
    private AccessCommands() {}

    /** Asks on the terminal without echo, or reads one line of standard input. */
    static String password(String prompt) {
        var console = System.console();
        if (console != null) {
            return new String(console.readPassword("%s: ", prompt));
        }
        try {
            var line = new BufferedReader(new InputStreamReader(System.in, StandardCharsets.UTF_8)).readLine();
            if (line == null) {
                throw new IllegalArgumentException(
                        "nothing was given for \"" + prompt + "\"; type it, or send it as one line on standard input");
            }
            return line;
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    @Command(name = "sign-in", description = "Sign in. The password is asked for, or read from standard input.")
    static final class SignIn implements Callable<Integer> {
        @ParentCommand
        private Entente entente;

        @Option(names = "--login", required = true, description = "your sign-in name")
        private String login;

        @Option(
                names = "--code",
                description = "code of your second factor; asked for if you have one and this is a terminal")
        private String code;

        @Override
        public Integer call() {
            var api = new Api(entente.server(), null);
            var password = password("Password");
            // What this machine is known by, so that strangers who guess elsewhere don't stand in the way.
            var device = entente.home
                    .signedIn(entente.profile())
                    .map(Home.SignedIn::device)
                    .orElse(null);
            AccessApi.Token token;
            try {
                token = api.post("/tokens", new AccessApi.SignIn(login, password, code, device), AccessApi.Token.class);
            } catch (Api.Refused refused) {
                if (code != null || !refused.is("second-factor") || System.console() == null) {
                    throw refused;
                }
                token = api.post(
                        "/tokens",
                        new AccessApi.SignIn(login, password, password("Code of your authenticator app"), device),
                        AccessApi.Token.class);
            }
            entente.home.signIn(
                    entente.profile(),
                    new Home.SignedIn(
                            entente.server(), token.token(), token.expiresAt().toEpochMilli(), token.device()));
            System.err.println("Signed in at " + entente.server() + " until " + Printer.time(token.expiresAt()) + ".");
            return Entente.DONE;
        }
    }

    @Command(
            name = "first-administrator",
            description = "Create the first administrator with the one-time link from the first start.")
    static final class FirstAdministrator implements Callable<Integer> {
        @Parameters(paramLabel = "LINK")
        private URI link;

        @Option(names = "--login", required = true, description = "the name you will sign in with")
        private String login;

        @Option(names = "--name", description = "your name, as others see it")
        private String name;

        @Override
        public Integer call() {
            if (link.getFragment() == null || link.getHost() == null) {
                System.err.println(
                        "entente: that's not the whole link; copy all of it, including the part after the #");
                return Entente.USAGE;
            }
            // The link's own service and no other: what it holds is a secret.
            var made = new Api(link.getScheme() + "://" + link.getAuthority(), null)
                    .post(
                            "/first-administrator",
                            new AccessApi.FirstAdministrator(link.getFragment(), login, name, password("Password")),
                            AccessApi.Administrator.class);
            System.err.println(made.name() + " can sign in as " + made.login() + ".");
            return Entente.DONE;
        }
    }

    @Command(
            name = "status",
            description = "What needs attention, and the last 24 hours. Exits with 1 if anything does.")
    static final class Status implements Callable<Integer> {
        @ParentCommand
        private Entente entente;

        @Override
        public Integer call() {
            var today = entente.api().get("/today", RecordApi.Today.class);
            entente.printer().one(today, () -> {
                System.out.println("Revision " + today.revision() + " covers " + today.covered() + " of "
                        + today.people() + " people.");
                System.out.println("Attempts in 24 hours: "
                        + (today.outcomes().isEmpty()
                                ? "none"
                                : today.outcomes()
                                        .toString()
                                        .replaceAll("[{}]", "")
                                        .replace("=", " "))
                        + (today.madeUp() == 0 ? "" : ", and " + today.madeUp() + " for names that don't exist"));
                System.out.println("Record: " + today.recordSize() + " events"
                        + (today.recordSignedAt() == null ? "" : ", signed " + Printer.time(today.recordSignedAt())));
                today.attention()
                        .forEach(a -> System.out.println(a.severity().toUpperCase(Locale.ROOT) + "  " + a.text()
                                + (a.stop() == null
                                        ? ""
                                        : " To stop it: entente stop " + a.stop() + " --reason TEXT")));
            });
            return today.attention().isEmpty() ? Entente.DONE : Entente.REFUSED;
        }
    }
}
