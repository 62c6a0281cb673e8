package dev.entente.service.notification;

import dev.entente.core.audit.EventKind;
import dev.entente.service.approval.Approvals;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WhenDue;
import dev.entente.wire.MailApi;
import jakarta.mail.Flags;
import jakarta.mail.Folder;
import jakarta.mail.Message;
import jakarta.mail.MessagingException;
import jakarta.mail.internet.MimeMessage;
import jakarta.mail.search.FlagTerm;
import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import org.hibernate.Session;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.databind.json.JsonMapper;

/**
 * Reads what comes back (RFC 3464) from the mailbox of the sender, where one is named: a message that a server took and could not deliver
 * in the end is {@code bounced}. What was read is marked as seen, and nothing is removed.
 */
@Component
public class Bounces {
    private static final Logger log = LoggerFactory.getLogger(Bounces.class);
    private static final String CONTEXT = "password of the mailbox for bounces v1";
    private static final Duration EVERY = Duration.ofMinutes(1);
    /** Messages of one look, and octets of each; a larger one is no report. */
    private static final int AT_ONCE = 100;

    private static final int LARGEST = 1024 * 1024;
    private static final int LONGEST = 255;
    /** Looks that fail in a row before that needs attention. */
    private static final int TOLD_AFTER = 3;

    private static final String KIND = "bounces";

    private final Session database;
    private final EventLog events;
    private final Approvals approvals;
    private final AllowedMailboxes allowed;
    private final JsonMapper json;
    private final KeyRing keys;
    private final TransactionTemplate transaction;
    private final InstantSource clock;

    Bounces(
            Session database,
            EventLog events,
            Approvals approvals,
            AllowedMailboxes allowed,
            JsonMapper json,
            KeyRing keys,
            TransactionTemplate transaction,
            InstantSource clock) {
        this.database = database;
        this.events = events;
        this.approvals = approvals;
        this.allowed = allowed;
        this.json = json;
        this.keys = keys;
        this.transaction = transaction;
        this.clock = clock;
    }

    private record Box(String host, int port, String security, String login, byte[] password) {}

    private record Shown(
            String host, int port, String security, String login, Instant lookedAt, String why, int failures) {}

    private Optional<Shown> stored() {
        return Sql.rows(
                        database,
                        "SELECT host, port, security, login, looked_at, why, failures FROM bounce_mailbox",
                        Shown.class)
                .getResultStream()
                .findFirst();
    }

    /** @throws Problem 404 if none is named */
    @Transactional(readOnly = true)
    public MailApi.BounceMailbox shown() {
        return stored().map(one -> new MailApi.BounceMailbox(
                        one.host(), one.port(), one.security(), one.login(), one.lookedAt(), one.why()))
                .orElseThrow(() -> Problem.of("bounce-mailbox-not-found"));
    }

    /** Why it cannot be read for a while now; empty if it can, or none is named. */
    @Transactional(readOnly = true)
    public Optional<String> trouble() {
        return stored().filter(one -> one.failures() >= TOLD_AFTER).map(Shown::why);
    }

    /**
     * Names the mailbox, or proposes it.
     *
     * @return whether it is named
     */
    @Transactional
    public boolean set(MailApi.BounceSettings wanted, String administrator) {
        if (blank(wanted.host()) || blank(wanted.login()) || wanted.port() < 1 || wanted.port() > 65_535) {
            throw Problem.of("bounce-mailbox");
        }
        if (wanted.security() == null || !List.of("tls", "starttls", "none").contains(wanted.security())) {
            throw Problem.of("mail-security");
        }
        if (wanted.security().equals("none")
                && !List.of("127.0.0.1", "localhost").contains(wanted.host())) {
            throw Problem.of("mail-security/elsewhere");
        }
        if (blank(wanted.password())) {
            throw Problem.of("bounce-password");
        }
        allowed.check(wanted.host().strip(), wanted.port());
        var before = stored().map(one -> one.login() + " at " + one.host() + ":" + one.port() + ", " + one.security());
        var after = wanted.login().strip() + " at " + wanted.host().strip() + ":" + wanted.port() + ", "
                + wanted.security();
        return approvals.make(
                KIND,
                "",
                before.filter(after::equals).isPresent()
                        ? List.of()
                        : List.of(
                                "The mailbox for bounces: " + before.orElse("none") + " before, " + after + " after."),
                wanted,
                administrator);
    }

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void make(Approvals.Approved change) {
        if (!change.kind().equals(KIND)) {
            return;
        }
        change.handled().set(true);
        var wanted = json.readValue(change.wanted(), MailApi.BounceSettings.class);
        allowed.check(wanted.host().strip(), wanted.port());
        Sql.change(database, """
                        INSERT INTO bounce_mailbox (host, port, security, login, password, next_at)
                        VALUES (:host, :port, :security, :login, :password, :now)
                        ON CONFLICT (id) DO UPDATE SET host = excluded.host, port = excluded.port,
                            security = excluded.security, login = excluded.login, password = excluded.password,
                            next_at = excluded.next_at, looked_at = NULL, why = NULL, failures = 0""")
                .setParameter("host", wanted.host().strip())
                .setParameter("port", wanted.port())
                .setParameter("security", wanted.security())
                .setParameter("login", wanted.login().strip())
                .setParameter("password", keys.encrypt(CONTEXT, wanted.password()))
                .setParameter("now", clock.instant())
                .executeUpdate();
        events.write(NewEvent.administration("bounces.set", change.author())
                .with("host", wanted.host().strip() + ":" + wanted.port()));
    }

    private static boolean blank(String text) {
        return text == null || text.isBlank() || text.length() > LONGEST;
    }

    /** Nothing that comes back is read any more. */
    @Transactional
    public void remove(String administrator) {
        if (Sql.change(database, "DELETE FROM bounce_mailbox").executeUpdate() > 0) {
            events.write(NewEvent.administration("bounces.removed", administrator));
        }
    }

    // A clock that was set back makes nobody wait for the time it showed before.
    @WhenDue("""
            SELECT FROM bounce_mailbox WHERE next_at <= entente_now() OR next_at > entente_now() + interval '2 minutes'""")
    void look() {
        var now = clock.instant();
        transaction.execute(status -> claim(now)).ifPresent(box -> {
            String why = null;
            try {
                read(box);
            } catch (MessagingException | IOException e) {
                why = EventKind.withoutAddresses(String.valueOf(e.getMessage()));
                log.warn("what came back can't be read: {}", why);
            }
            looked(now, why);
        });
    }

    private Optional<Box> claim(Instant now) {
        return Sql.rows(database, """
                        UPDATE bounce_mailbox SET next_at = :next WHERE next_at <= :now OR next_at > :far
                        RETURNING host, port, security, login, password""", Box.class)
                .setParameter("now", now)
                .setParameter("next", now.plus(EVERY))
                .setParameter("far", now.plus(EVERY.multipliedBy(2)))
                .getResultStream()
                .findFirst();
    }

    private void looked(Instant now, String why) {
        transaction.executeWithoutResult(status -> Sql.change(database, """
                        UPDATE bounce_mailbox SET looked_at = CASE WHEN cast(:why AS text) IS NULL THEN :now ELSE looked_at END,
                            why = :why, failures = CASE WHEN cast(:why AS text) IS NULL THEN 0 ELSE failures + 1 END""")
                .setParameter("why", why)
                .setParameter("now", now)
                .executeUpdate());
    }

    private void read(Box box) throws MessagingException, IOException {
        try {
            allowed.check(box.host(), box.port());
        } catch (Problem e) {
            throw new IOException("the operator doesn't let the service read mail there");
        }
        try (var store = MailProtocol.session("imap", box.security(), true).getStore()) {
            store.connect(box.host(), box.port(), box.login(), keys.decrypt(CONTEXT, box.password()));
            try (var inbox = store.getFolder("INBOX")) {
                inbox.open(Folder.READ_WRITE);
                var unseen = inbox.search(new FlagTerm(new Flags(Flags.Flag.SEEN), false));
                for (var mail : List.of(unseen).subList(0, Math.min(AT_ONCE, unseen.length))) {
                    var report = report(mail);
                    // Written down first: what is read twice is told once.
                    report.ifPresent(this::cameBack);
                    mail.setFlag(Flags.Flag.SEEN, true);
                }
            }
        }
    }

    /** Whatever somebody sent there may be broken, and is no report then. */
    private static Optional<DeliveryReport> report(Message mail) {
        try {
            if (mail.getSize() > LARGEST) {
                return Optional.empty();
            }
            // Whole and as it was sent: how servers take messages apart differs.
            var whole = new ByteArrayOutputStream();
            mail.writeTo(whole);
            return DeliveryReport.read(new MimeMessage(null, new ByteArrayInputStream(whole.toByteArray())));
        } catch (MessagingException | IOException | RuntimeException e) {
            log.info("a message in the mailbox for bounces is no report that can be read");
            return Optional.empty();
        }
    }

    private void cameBack(DeliveryReport report) {
        transaction.executeWithoutResult(status -> {
            var returned = Sql.rows(database, """
                            UPDATE notification SET state = 'bounced', why = :why
                            WHERE id = :id AND channel = 'mail' AND state IN ('sent', 'uncertain')
                            RETURNING\s""" + MessageFate.COLUMNS, MessageFate.class)
                    .setParameter("id", report.message())
                    .setParameter("why", report.why())
                    .getResultList();
            for (var one : returned) {
                events.write(one.event("notification.bounced").with("why", report.why()));
            }
        });
    }
}
