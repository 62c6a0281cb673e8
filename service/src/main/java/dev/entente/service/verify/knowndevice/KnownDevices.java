package dev.entente.service.verify.knowndevice;

import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Verifier;
import dev.entente.core.verify.knowndevice.KnownDeviceMethod;
import dev.entente.core.verify.knowndevice.KnownDeviceVerifier;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.Sql;
import dev.entente.service.verify.Enroller;
import dev.entente.service.verify.EnrolmentTable;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.context.annotation.Bean;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/** Browsers on which people got a new password. */
@Component
public class KnownDevices implements Enroller, KnownDeviceVerifier.Store {
    private static final int MOST = 20;

    private final Session database;
    private final EnrolmentTable enrolments;
    private final EventLog events;
    private final ApplicationEventPublisher publisher;

    KnownDevices(Session database, EnrolmentTable enrolments, EventLog events, ApplicationEventPublisher publisher) {
        this.database = database;
        this.enrolments = enrolments;
        this.events = events;
        this.publisher = publisher;
    }

    @Bean
    static Verifier knownDevice(KnownDevices devices) {
        return new KnownDeviceVerifier(devices);
    }

    /**
     * A device isn't one of the person's any more; published in the transaction that notes it.
     *
     * @param browser keyed hash of what it is known by
     */
    public record Forgotten(UUID person, byte[] browser) {}

    @Override
    public Method method() {
        return Method.of(KnownDeviceMethod.LABEL);
    }

    @Override
    public int most() {
        return MOST;
    }

    @Override
    public String usualName() {
        return "A browser";
    }

    @Override
    public Offered offer(UUID id, UUID person, String login) {
        throw new IllegalStateException("a device is known by use");
    }

    @Override
    public void confirm(UUID id, UUID person, Answer answer) {
        throw new IllegalStateException("a device is known by use");
    }

    /** Keeps by what a device is known that came by use. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void keep(UUID enrolment, UUID person, byte[] browser) {
        Sql.change(database, "INSERT INTO known_device (enrolment, person, browser) VALUES (:id, :person, :browser)")
                .setParameter("id", enrolment)
                .setParameter("person", person)
                .setParameter("browser", browser)
                .executeUpdate();
    }

    /** One that was not used for long, or was used by somebody else, is none of the person's any more. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void end(UUID person, byte[] browser) {
        enrolment(person, browser).ifPresent(id -> {
            enrolments.end(id);
            events.write(NewEvent.operation("device.forgotten").with("person", person.toString()));
            Sql.change(database, "DELETE FROM known_device WHERE enrolment = :id")
                    .setParameter("id", id)
                    .executeUpdate();
        });
    }

    private record Device(UUID person, byte[] browser) {}

    @Override
    public void forget(UUID id) {
        Sql.rows(database, "DELETE FROM known_device WHERE enrolment = :id RETURNING person, browser", Device.class)
                .setParameter("id", id)
                .getResultList()
                .forEach(device -> publisher.publishEvent(new Forgotten(device.person(), device.browser())));
    }

    private Optional<UUID> enrolment(UUID person, byte[] browser) {
        return Sql.values(
                        database,
                        "SELECT enrolment FROM known_device WHERE person = :person AND browser = :browser",
                        UUID.class)
                .setParameter("person", person)
                .setParameter("browser", browser)
                .getResultStream()
                .findFirst();
    }

    @Override
    @Transactional(readOnly = true)
    public boolean known(UUID person, byte[] browser) {
        return enrolment(person, browser).isPresent();
    }

    @Override
    public void used(UUID person, byte[] browser) {
        enrolment(person, browser).ifPresent(enrolments::used);
    }
}
