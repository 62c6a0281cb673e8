package dev.entente.cli;

import dev.entente.wire.MailApi;
import java.util.List;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** The mail channel. */
@Command(name = "mail", addMethodSubcommands = false, description = "Set up and test how mail is sent.")
final class MailCommands {
    @ParentCommand
    private Entente entente;

    @Command(name = "show", description = "How mail is sent, and whether it works.")
    int show() {
        var channel = entente.api().get("/channels/mail", MailApi.MailChannel.class);
        entente.printer().one(channel, () -> {
            System.out.println("Mail goes through " + channel.host() + ":" + channel.port() + " ("
                    + channel.security() + "), from " + channel.sender()
                    + (channel.login() == null ? "" : ", signed in as " + channel.login()) + ".");
            System.out.println(
                    channel.administrators().isEmpty()
                            ? "No shared address is told what concerns administrators. Each chooses: entente notification choose."
                            : "Administrators are told at " + String.join(", ", channel.administrators()) + ".");
            System.out.println("At most " + channel.newsPerMinute() + " messages without a code go in a minute.");
            System.out.println(
                    channel.dkimRecord() == null
                            ? "Mail isn't signed; set --dkim-selector, and the domain's record is shown here."
                            : "Mail is signed. The sender's domain needs this record:\n  " + channel.dkimRecord());
            System.out.println(
                    channel.works() == null
                            ? "It hasn't been tested yet: entente mail test ADDRESS"
                            : channel.works()
                                    ? "It has worked since " + Printer.time(channel.since()) + "."
                                    : "It has NOT worked since " + Printer.time(channel.since()) + ": "
                                            + channel.why());
        });
        return Boolean.FALSE.equals(channel.works()) ? Entente.REFUSED : Entente.DONE;
    }

    @Command(
            name = "set",
            description = "Set how mail is sent. With --login, the password is asked for or read from standard input.")
    int set(
            @Option(names = "--host", required = true) String host,
            @Option(names = "--port", required = true) int port,
            @Option(
                            names = "--security",
                            required = true,
                            description = "tls, starttls, or none (only for a server on the service's own machine)")
                    String security,
            @Option(names = "--login") String login,
            @Option(names = "--sender", required = true, paramLabel = "ADDRESS") String sender,
            @Option(
                            names = "--administrators",
                            split = ",",
                            paramLabel = "ADDRESS",
                            description =
                                    "shared addresses that are told what concerns administrators; separate several with commas")
                    List<String> administrators,
            @Option(
                            names = "--news-per-minute",
                            paramLabel = "N",
                            description = "how many messages without a code go in a minute; as before if omitted")
                    Integer newsPerMinute,
            @Option(
                            names = "--dkim-selector",
                            paramLabel = "NAME",
                            description =
                                    "sign mail under this name (DKIM) with a key that is made for it; \"\" for no signature, as before if omitted")
                    String dkimSelector) {
        var password = login == null ? null : AccessCommands.password("Password of " + login);
        entente.api()
                .put(
                        "/channels/mail",
                        new MailApi.MailSettings(
                                host,
                                port,
                                security,
                                login,
                                password,
                                sender,
                                administrators,
                                newsPerMinute,
                                dkimSelector));
        System.err.println("Saved. Test it: entente mail test ADDRESS");
        return Entente.DONE;
    }

    @Command(
            name = "test",
            description = "Send a test message and show the whole conversation. Exits with 1 if it fails.")
    int test(
            @Parameters(paramLabel = "ADDRESS", description = "where to send it, such as your own address")
                    String address) {
        var tried = entente.api().post("/channels/mail/test", new MailApi.MailTest(address), MailApi.MailTried.class);
        entente.printer().one(tried, () -> {
            tried.conversation().forEach(System.out::println);
            System.out.println(tried.sent() ? "The server took the message." : "NOT SENT: " + tried.why());
        });
        return tried.sent() ? Entente.DONE : Entente.REFUSED;
    }

    @Command(
            name = "bounces",
            description = {
                "From which mailbox is read what comes back, by IMAP: that of the sender's address.",
                "With --host, names it; the password is asked for or read from standard input."
            })
    int bounces(
            @Option(names = "--host") String host,
            @Option(names = "--port", defaultValue = "993", description = "${DEFAULT-VALUE} if omitted") int port,
            @Option(
                            names = "--security",
                            defaultValue = "tls",
                            description =
                                    "tls, starttls, or none (only for a mailbox on the service's own machine); ${DEFAULT-VALUE} if omitted")
                    String security,
            @Option(names = "--login") String login,
            @Option(names = "--off", description = "don't read any more what comes back") boolean off) {
        if (off) {
            entente.api().delete("/channels/mail/bounces", null);
            return Entente.DONE;
        }
        if (host != null) {
            var password = AccessCommands.password("Password of " + login);
            var made = entente.api()
                    .put(
                            "/channels/mail/bounces",
                            new MailApi.BounceSettings(host, port, security, login, password),
                            MailApi.BounceMailbox.class);
            if (made != null) {
                System.err.println("Saved. It's read within a minute; see entente mail bounces.");
            }
            return Entente.DONE;
        }
        var box = entente.api().get("/channels/mail/bounces", MailApi.BounceMailbox.class);
        entente.printer().one(box, () -> {
            System.out.println("What comes back is read from " + box.host() + ":" + box.port() + " (" + box.security()
                    + "), signed in as " + box.login() + ".");
            System.out.println(
                    box.why() != null
                            ? "It could NOT be read: " + box.why()
                            : box.lookedAt() == null
                                    ? "It hasn't been read yet."
                                    : "It was read " + Printer.time(box.lookedAt()) + ".");
        });
        return box.why() == null ? Entente.DONE : Entente.REFUSED;
    }
}
