package dev.entente.service.notification;

import dev.entente.core.verify.Channel;
import dev.entente.service.audit.EventLog;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.WakeUps;
import dev.entente.service.platform.WhenDue;
import jakarta.mail.AuthenticationFailedException;
import jakarta.mail.MessagingException;
import java.io.IOException;
import java.time.InstantSource;
import java.util.Set;
import org.eclipse.angus.mail.util.MailConnectException;
import org.hibernate.Session;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.databind.json.JsonMapper;

/** Sends mail that is queued. */
@Component
class MailWorker extends MessageWorker<MailChannel.By> {
    private static final int AT_ONCE = 6;

    private final MailChannel mail;

    MailWorker(
            Session database,
            EventLog events,
            KeyRing keys,
            MailChannel mail,
            JsonMapper json,
            InstantSource clock,
            TransactionTemplate transaction) {
        super(database, events, keys, json, clock, transaction, Set.of(Channel.MAIL), AT_ONCE);
        this.mail = mail;
    }

    /** A wake-up may get lost, and what is tried again waits for its time. */
    @WhenDue("""
            SELECT FROM notification WHERE state = 'queued' AND next_try <= entente_now() AND expires_at > entente_now()
            AND channel = 'mail'""")
    void look() {
        sendWaiting();
    }

    @EventListener
    void wake(WakeUps.MessageWaits waits) {
        if (!waits.phone()) {
            wake();
        }
    }

    @Override
    MailChannel.By by() {
        return mail.by();
    }

    @Override
    Taken send(MailChannel.By by, Claimed claimed, Notifications.Letter letter) throws NotSent {
        try {
            mail.send(by, claimed.id(), letter.to(), letter.subject(), letter.text());
            if (!by.works()) {
                mail.showed(true, null);
            }
            return null;
        } catch (MessagingException | IOException e) {
            if (e instanceof MailConnectException || e instanceof AuthenticationFailedException) {
                mail.showed(false, MailChannel.reason(e));
            }
            throw new NotSent(e.getClass().getSimpleName(), afterData(e));
        }
    }

    /** Whether the server may have taken the message although it never said so. */
    private static boolean afterData(Exception e) {
        return e instanceof MessagingException messaging
                && messaging.getNextException() instanceof IOException
                && !(messaging instanceof MailConnectException);
    }
}
