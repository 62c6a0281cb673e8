package dev.entente.cli;

import dev.entente.wire.AdminApi;
import java.util.List;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** The mail channel. */
@Command(name = "mail", description = "Set up and try how mail is sent.")
final class MailCommands {
    @ParentCommand
    private Entente entente;

    @Command(name = "show", description = "How mail is sent, and whether it works.")
    int show() {
        var channel = entente.api().get("/channels/mail", AdminApi.MailChannel.class);
        entente.printer().one(channel, () -> {
            System.out.println("Mail goes through " + channel.host() + ":" + channel.port() + " ("
                    + channel.security() + "), from " + channel.sender()
                    + (channel.login() == null ? "" : ", signed in as " + channel.login()) + ".");
            System.out.println(
                    channel.administrators().isEmpty()
                            ? "Nobody is told of what concerns administrators; say --administrators."
                            : "Administrators are told at " + String.join(", ", channel.administrators()) + ".");
            System.out.println(
                    channel.works() == null
                            ? "It was not tried yet: entente mail test ADDRESS"
                            : channel.works()
                                    ? "It works since " + Printer.time(channel.since()) + "."
                                    : "It does NOT work since " + Printer.time(channel.since()) + ": " + channel.why());
        });
        return Boolean.FALSE.equals(channel.works()) ? Entente.REFUSED : Entente.DONE;
    }

    @Command(
            name = "set",
            description = "Set how mail is sent; the password, if there is a login, is read from standard input.")
    int set(
            @Option(names = "--host", required = true) String host,
            @Option(names = "--port", required = true) int port,
            @Option(
                            names = "--security",
                            required = true,
                            description = "tls from the first byte, starttls, or none (on this machine only)")
                    String security,
            @Option(names = "--login") String login,
            @Option(names = "--sender", required = true, paramLabel = "ADDRESS") String sender,
            @Option(
                            names = "--administrators",
                            split = ",",
                            paramLabel = "ADDRESS",
                            description = "where administrators are told of privileged accounts; several with commas")
                    List<String> administrators) {
        var password = login == null ? null : AccessCommands.password("Password of " + login);
        entente.api()
                .put(
                        "/channels/mail",
                        new AdminApi.MailSettings(host, port, security, login, password, sender, administrators));
        System.err.println("Set. Try it: entente mail test ADDRESS");
        return Entente.DONE;
    }

    @Command(name = "test", description = "Send a test message and show the whole conversation. Exit 1 if it fails.")
    int test(@Parameters(paramLabel = "ADDRESS", description = "your own") String address) {
        var tried = entente.api().post("/channels/mail/test", new AdminApi.MailTest(address), AdminApi.MailTried.class);
        entente.printer().one(tried, () -> {
            tried.conversation().forEach(System.out::println);
            System.out.println(tried.sent() ? "The server took the message." : "NOT SENT: " + tried.why());
        });
        return tried.sent() ? Entente.DONE : Entente.REFUSED;
    }
}
