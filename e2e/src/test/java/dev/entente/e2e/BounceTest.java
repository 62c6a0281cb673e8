package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.icegreen.greenmail.user.GreenMailUser;
import com.icegreen.greenmail.util.GreenMail;
import com.icegreen.greenmail.util.ServerSetup;
import dev.entente.wire.MailApi;
import dev.entente.wire.NotificationApi;
import jakarta.mail.Flags;
import jakarta.mail.MessagingException;
import jakarta.mail.Session;
import jakarta.mail.internet.MimeMessage;
import java.io.ByteArrayInputStream;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Properties;
import java.util.function.BooleanSupplier;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** What mail servers took and sent back is known, and nobody can make anything up about it. */
class BounceTest {
    private static final Duration SOON = Duration.ofSeconds(30);
    private static final Pattern ID = Pattern.compile("(?im)^Message-ID: <([^>]+)>");

    private final ServiceWorld world = ServiceWorld.get();
    private final ConsoleApi api = ConsoleApi.signedIn(world);
    private int port;
    private GreenMail server;
    private GreenMailUser box;
    private int minutes;

    @BeforeEach
    void start() {
        port = World.freePort();
        server = new GreenMail(new ServerSetup(port, "127.0.0.1", ServerSetup.PROTOCOL_IMAP));
        server.start();
        box = server.setUser("no-reply@skerry.test", "no-reply", "Bounce-Quay-9");
        name("Bounce-Quay-9");
    }

    @AfterEach
    void end() {
        world.entente("mail", "bounces", "--off").expect(0);
        server.stop();
        world.later(Duration.ZERO);
    }

    private void name(String password) {
        var set = api.put(
                "/channels/mail/bounces", new MailApi.BounceSettings("127.0.0.1", port, "none", "no-reply", password));
        assertThat(set.statusCode()).as(set.body()).isEqualTo(200);
        assertThat(set.body()).doesNotContain(password);
    }

    /** The next look comes when a minute has passed. */
    private void looked() {
        minutes += 2;
        world.later(Duration.ofMinutes(minutes));
    }

    private void waitFor(String what, BooleanSupplier condition) {
        World.waitUntil(SOON, what, condition);
    }

    private void comes(String text) throws MessagingException {
        box.deliver(new MimeMessage(
                Session.getInstance(new Properties()),
                new ByteArrayInputStream(text.replace("\n", "\r\n").getBytes(StandardCharsets.UTF_8))));
    }

    private static String report(String action, String messageId, String said) {
        return """
                From: Mail Delivery System <MAILER-DAEMON@mx.skerry.test>
                To: no-reply@skerry.test
                Subject: Undelivered Mail Returned to Sender
                MIME-Version: 1.0
                Content-Type: multipart/report; report-type=delivery-status; boundary="b"

                --b
                Content-Type: text/plain

                I'm sorry to have to inform you.

                --b
                Content-Type: message/delivery-status

                Reporting-MTA: dns; mx.skerry.test

                Final-Recipient: rfc822; somebody@skerry.test
                Action: %s
                Status: 5.1.1
                Diagnostic-Code: smtp; %s

                --b
                Content-Type: message/rfc822

                Message-ID: <%s>
                Subject: Skerry Line: your password was reset

                Hello
                --b--
                """.formatted(action, said, messageId);
    }

    private boolean allSeen() {
        try {
            var inbox = server.getManagers().getImapHostManager().getInbox(box);
            return inbox.getMessages().stream().allMatch(m -> m.getFlags().contains(Flags.Flag.SEEN));
        } catch (com.icegreen.greenmail.store.FolderException e) {
            throw new IllegalStateException(e);
        }
    }

    private List<NotificationApi.Notification> news(String reference) {
        var found = new ArrayList<NotificationApi.Notification>();
        ApiPerson.JSON
                .readTree(api.get("/notifications?kind=password-reset&reference=" + reference.replaceAll("\\D", ""))
                        .body())
                .path("items")
                .forEach(one -> found.add(ApiPerson.JSON.treeToValue(one, NotificationApi.Notification.class)));
        return found;
    }

    @Test
    void what_came_back_is_told_once_and_nothing_else_is_believed() throws Exception {
        var crew = world.crew();
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        person.choose("Bounce-Quay-" + System.nanoTime()).waitForOutcome(SOON);
        var reference = person.attempt.reference();
        waitFor(
                "it was sent",
                () -> news(reference).stream().anyMatch(n -> n.state().equals("sent")));
        waitFor(
                "it came",
                () -> world.mailbox.to(crew.address()).stream()
                        .anyMatch(m -> m.subject().equals("Skerry Line: your password was reset")));
        var mail = world.mailbox.to(crew.address()).stream()
                .filter(m -> m.subject().equals("Skerry Line: your password was reset"))
                .findFirst()
                .orElseThrow();
        var found = ID.matcher(new String(world.mailbox.raw(mail), StandardCharsets.UTF_8));
        assertThat(found.find()).isTrue();
        var id = found.group(1);

        // None of these is a report about a message of ours that failed.
        comes(report("delayed", id, "450 4.2.0 try again later"));
        comes(report("failed", "12345678-1234-4123-8123-123456789012@skerry.test", "550 5.1.1 no such user"));
        comes(report("failed", "' OR 1=1 --@skerry.test", "550 5.1.1 no such user"));
        comes("From: a@b.test\nSubject: I am out of office\n\nBack in May.\n");
        comes(
                "From: a@b.test\nContent-Type: multipart/report; boundary=\"b\"\n\n--b\nContent-Type: message/delivery-status\n\nAction: failed\n");
        looked();
        waitFor("all are seen", this::allSeen);
        assertThat(news(reference).get(0).state()).isEqualTo("sent");

        comes(report("failed", id, "550 5.1.1 <" + crew.address() + ">: no such user here"));
        comes(report("failed", id, "550 5.1.1 said twice"));
        looked();
        waitFor("it is known", () -> news(reference).get(0).state().equals("bounced"));
        waitFor("all are seen", this::allSeen);
        assertThat(news(reference))
                .hasSize(1)
                .first()
                .satisfies(one -> assertThat(one.why())
                        .startsWith("it came back: 5.1.1 550 5.1.1 <")
                        .endsWith("no such user here")
                        .doesNotContain(crew.address()));
        assertThat(world.entente("notification", "list", "--state", "bounced", "--reference", reference)
                        .expect(0)
                        .out())
                .contains("password-reset", "bounced");
        var told = world.entente("event", "list", "--kind", "notification.bounced", "--reference", reference)
                .expect(0)
                .out();
        assertThat(told).containsPattern("A message to .…@\\S+ came back: password-reset, it came back: 5.1.1");
        assertThat(told.lines().filter(l -> l.contains("notification.bounced"))).hasSize(1);
        assertThat(world.entente("mail", "bounces").expect(0).out()).contains("It was read");
    }

    @Test
    void a_mailbox_that_cannot_be_read_is_told_and_a_password_goes_nowhere_in_the_clear() {
        name("another password");
        for (var look = 0; look < 3; look++) {
            looked();
            var failures = look + 1;
            waitFor(
                    "it failed " + failures,
                    () -> Integer.parseInt(world.query("SELECT failures FROM bounce_mailbox")) >= failures);
        }
        assertThat(world.entente("mail", "bounces").expect(1).out()).contains("could NOT be read");
        world.onStatus("What comes back can't be read from its mailbox", true);
        name("Bounce-Quay-9");
        world.onStatus("What comes back can't be read", false);

        for (var wrong : List.of(
                new MailApi.BounceSettings("mail.skerry.test", 143, "none", "a", "b"),
                new MailApi.BounceSettings("127.0.0.1", 143, "plain", "a", "b"),
                new MailApi.BounceSettings("", 143, "tls", "a", "b"),
                new MailApi.BounceSettings("127.0.0.1", 0, "tls", "a", "b"),
                new MailApi.BounceSettings("127.0.0.1", 143, "tls", "a", null))) {
            assertThat(api.put("/channels/mail/bounces", wrong).statusCode()).isEqualTo(422);
        }
        assertThat(api.put(
                                "/channels/mail/bounces",
                                new MailApi.BounceSettings("mail.skerry.test", 993, "tls", "no-reply", "Bounce-Quay-9"))
                        .body())
                .as("where the operator doesn't let it")
                .contains("bounce-mailbox-not-allowed");
        world.onRecord("ingeborg had what comes back read from a mailbox at 127.0.0.1:" + port + ".");
    }
}
