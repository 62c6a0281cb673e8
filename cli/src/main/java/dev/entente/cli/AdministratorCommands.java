package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.AccessApi;
import java.util.List;
import java.util.UUID;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** Who administers, and one's own account. */
@Command(
        name = "administrator",
        addMethodSubcommands = false,
        description = "Administrators, your own account, and where you are signed in.")
final class AdministratorCommands {
    @ParentCommand
    private Entente entente;

    @Command(name = "list", description = "All administrators.")
    int list() {
        List<AccessApi.Administrator> all =
                entente.api().get("/administrators", Api.list(AccessApi.Administrator.class));
        entente.printer()
                .list(
                        all,
                        "There are no administrators yet.",
                        List.of(
                                new Column<>("LOGIN", AccessApi.Administrator::login),
                                new Column<>("NAME", AccessApi.Administrator::name),
                                new Column<>(
                                        "MAY",
                                        a -> AccessApi.ADMINISTRATOR.equals(a.role())
                                                ? "administer"
                                                : "help "
                                                        + (a.scopes().isEmpty()
                                                                ? "everybody"
                                                                : String.join(", ", a.scopes()))),
                                new Column<>("SECOND FACTOR", a -> a.secondFactor() ? "yes" : "no"),
                                new Column<>("STATE", a -> a.suspendedAt() == null ? "active" : "suspended"),
                                new Column<>("LAST SEEN", a -> Printer.time(a.lastSeen()))));
        return Entente.DONE;
    }

    @Command(
            name = "add",
            description =
                    "Add an administrator, or someone at the help desk. The password is asked for, or read from standard input.")
    int add(
            @Parameters(paramLabel = "LOGIN") String login,
            @Option(names = "--name", description = "their name, as others see it") String name,
            @Option(names = "--staff", description = "they may work at the help desk, and do nothing else")
                    boolean staff,
            @Option(
                            names = "--scope",
                            paramLabel = "SCOPE",
                            description = "whose people they may help; can be repeated, everybody if omitted")
                    List<String> scopes,
            @Option(
                            names = "--own-login",
                            paramLabel = "NAME",
                            description =
                                    "by which they sign in to their own account, so that no one confirms themselves")
                    String ownLogin) {
        var made = entente.api()
                .post(
                        "/administrators",
                        new AccessApi.NewAdministrator(
                                login,
                                name,
                                AccessCommands.password("Password"),
                                staff ? AccessApi.STAFF : AccessApi.ADMINISTRATOR,
                                scopes,
                                ownLogin),
                        AccessApi.Administrator.class);
        System.err.println(made.name() + " can sign in as " + made.login() + ".");
        return Entente.DONE;
    }

    @Command(name = "remove", description = "Remove an administrator. Their sessions and tokens end at once.")
    int remove(@Parameters(paramLabel = "LOGIN") String login) {
        entente.api().delete(Api.at("/administrators/{}", login), null);
        System.err.println(login + " is removed, and signed out everywhere.");
        return Entente.DONE;
    }

    @Command(
            name = "suspend",
            description = "Keep an administrator out until you resume them. Their sessions end at once.")
    int suspend(@Parameters(paramLabel = "LOGIN") String login) {
        entente.api().post(Api.at("/administrators/{}/suspension", login), null, AccessApi.Administrator.class);
        System.err.println(login + " is suspended, and signed out everywhere.");
        return Entente.DONE;
    }

    @Command(name = "resume", description = "Let a suspended administrator sign in again.")
    int resume(@Parameters(paramLabel = "LOGIN") String login) {
        entente.api().delete(Api.at("/administrators/{}/suspension", login), null);
        System.err.println(login + " can sign in again.");
        return Entente.DONE;
    }

    @Command(
            name = "password",
            description =
                    "Change your own password. The current and the new one are asked for, or read as two lines of standard input. Your other sessions end.")
    int password() {
        var before = AccessCommands.password("Current password");
        entente.api()
                .put("/me/password", new AccessApi.PasswordChange(before, AccessCommands.password("New password")));
        System.err.println("Your password is changed. Your other sessions have ended.");
        return Entente.DONE;
    }

    @Command(name = "sessions", description = "Where you are signed in, in the console and on the command line.")
    int sessions() {
        List<AccessApi.OwnSession> all = entente.api().get("/me/sessions", Api.list(AccessApi.OwnSession.class));
        entente.printer()
                .list(
                        all,
                        "You aren't signed in anywhere.",
                        List.of(
                                new Column<>("KIND", AccessApi.OwnSession::kind),
                                new Column<>("FROM", AccessApi.OwnSession::network),
                                new Column<>("SINCE", s -> Printer.time(s.madeAt())),
                                new Column<>("LAST USED", s -> Printer.time(s.lastUsedAt())),
                                new Column<>("ENDS", s -> Printer.time(s.endsAt())),
                                new Column<>("HERE", s -> s.here() ? "yes" : ""),
                                new Column<>("SESSION", AccessApi.OwnSession::id)));
        return Entente.DONE;
    }

    @Command(name = "end-session", description = "End one of your sessions or tokens.")
    int endSession(@Parameters(paramLabel = "SESSION", description = "from entente administrator sessions") UUID id) {
        entente.api().delete(Api.at("/me/sessions/{}", id), null);
        System.err.println("The session has ended.");
        return Entente.DONE;
    }

    @Command(
            name = "second-factor",
            description =
                    "Set up an authenticator app for your account. Prints its secret, asks for its first code, and prints recovery codes.")
    int secondFactor() {
        var offered = entente.api().post("/me/second-factor", null, AccessApi.OfferedSecondFactor.class);
        System.err.println("Add this to your authenticator app, as a key or as a link:");
        System.out.println(offered.secret());
        System.out.println(offered.uri());
        var set = entente.api()
                .post(
                        "/me/second-factor/confirmation",
                        new AccessApi.Confirmation(AccessCommands.password("The code the app shows now"), null),
                        AccessApi.SecondFactorSet.class);
        System.err.println(
                "From now on you're asked for a code when you sign in. Keep these recovery codes on paper; each"
                        + " works once:");
        set.recoveryCodes().forEach(System.out::println);
        return Entente.DONE;
    }

    @Command(
            name = "remove-second-factor",
            description = "Remove your own second factor, or that of someone who lost theirs.")
    int removeSecondFactor(
            @Parameters(paramLabel = "LOGIN", arity = "0..1", description = "someone else; yourself if omitted")
                    String login) {
        entente.api()
                .delete(login == null ? "/me/second-factor" : Api.at("/administrators/{}/second-factor", login), null);
        System.err.println(
                login == null ? "Your second factor is removed." : login + " signs in without a second factor now.");
        return Entente.DONE;
    }

    @Command(
            name = "confirm",
            description =
                    "Confirm that it's you before a dangerous change. The code is asked for, or read from standard input.")
    int confirm() {
        entente.api().post("/me/confirmation", new AccessApi.Confirmation(AccessCommands.password("Code"), null));
        System.err.println("Confirmed for ten minutes.");
        return Entente.DONE;
    }
}
