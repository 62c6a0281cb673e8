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
import java.util.concurrent.atomic.AtomicBoolean;
import org.eclipse.angus.mail.smtp.SMTPAddressFailedException;
import org.eclipse.angus.mail.smtp.SMTPSendFailedException;
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
    Taken send(MailChannel.By by, Claimed claimed, Outbox.Letter letter) throws NotSent {
        var given = new AtomicBoolean();
        try {
            mail.send(by, claimed.id(), letter, given);
            if (!by.works()) {
                mail.showed(true, null);
            }
            return null;
        } catch (MessagingException | IOException e) {
            if (e instanceof MailConnectException || e instanceof AuthenticationFailedException) {
                mail.showed(false, MailChannel.reason(e));
            }
            throw new NotSent(MailChannel.reason(e), fate(e, given.get()));
        }
    }

    /**
     * What the server's answer means (RFC 5321, section 4.2.1), or that there was none.
     *
     * @param given whether it has the whole message: then it may have taken it although it never said so
     */
    private static NotSent.Fate fate(Exception e, boolean given) {
        for (var cause = e; cause instanceof MessagingException inner; cause = inner.getNextException()) {
            // Of a recipient or a message only: what is wrong with the sender is put right, and then all can be sent.
            var code = cause instanceof SMTPAddressFailedException address
                    ? address.getReturnCode()
                    : cause instanceof SMTPSendFailedException message ? message.getReturnCode() : 0;
            if (code >= 400 && code < 600) {
                return code >= 500 ? NotSent.Fate.NEVER : NotSent.Fate.LATER;
            }
        }
        return given ? NotSent.Fate.UNCERTAIN : NotSent.Fate.LATER;
    }

    @Override
    int pace(MailChannel.By by) {
        return by.set().newsPerMinute();
    }
}
