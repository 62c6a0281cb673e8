package dev.entente.service.notification;

import dev.entente.core.verify.Channel;
import dev.entente.service.audit.EventLog;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.WakeUps;
import dev.entente.service.platform.WhenDue;
import java.time.InstantSource;
import java.util.Set;
import org.hibernate.Session;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.databind.json.JsonMapper;

/** Sends text messages and has calls made. */
@Component
class PhoneWorker extends MessageWorker<PhoneChannel.InForce> {
    private static final int AT_ONCE = 4;
    private static final int NEWS_A_MINUTE = 60;

    private final PhoneChannel phone;

    PhoneWorker(
            Session database,
            EventLog events,
            KeyRing keys,
            PhoneChannel phone,
            JsonMapper json,
            InstantSource clock,
            TransactionTemplate transaction) {
        super(database, events, keys, json, clock, transaction, Set.of(Channel.TEXT, Channel.VOICE), AT_ONCE);
        this.phone = phone;
    }

    /** A wake-up may get lost, and what is tried again waits for its time. */
    @WhenDue("""
            SELECT FROM notification WHERE state = 'queued' AND next_try <= entente_now() AND expires_at > entente_now()
            AND channel IN ('text', 'voice')""")
    void look() {
        sendWaiting();
    }

    @EventListener
    void wake(WakeUps.MessageWaits waits) {
        if (waits.phone()) {
            wake();
        }
    }

    @Override
    PhoneChannel.InForce by() {
        return phone.inForce();
    }

    /** Text messages cost money, and gateways count them. */
    @Override
    int pace(PhoneChannel.InForce by) {
        return NEWS_A_MINUTE;
    }

    @Override
    Taken send(PhoneChannel.InForce by, Claimed claimed, Outbox.Letter letter) throws NotSent {
        return phone.send(
                by,
                Channel.labelled(claimed.channel()).orElseThrow(),
                claimed.id(),
                letter.to(),
                letter.text(),
                letter.language());
    }
}
