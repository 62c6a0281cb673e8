package dev.entente.service.attempt;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.attempt.Reference;
import dev.entente.core.policy.Action;
import dev.entente.core.seal.EcKey;
import dev.entente.service.attempt.Attempts.Attempt;
import dev.entente.service.audit.AttemptReferences;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.people.Person;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.policy.Configurations;
import dev.entente.service.policy.Stops;
import java.time.InstantSource;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/** Attempts that nobody proves: an administrator sets a temporary password. */
@Component
public class TemporaryAttempts {
    private final Session database;
    private final Configurations configurations;
    private final References references;
    private final AttemptCookies cookies;
    private final Stops stops;
    private final EventLog events;
    private final ServiceSettings settings;
    private final InstantSource clock;
    private final AttemptReferences kept;

    TemporaryAttempts(
            Session database,
            Configurations configurations,
            References references,
            AttemptCookies cookies,
            Stops stops,
            EventLog events,
            ServiceSettings settings,
            InstantSource clock,
            AttemptReferences kept) {
        this.database = database;
        this.configurations = configurations;
        this.references = references;
        this.cookies = cookies;
        this.stops = stops;
        this.events = events;
        this.settings = settings;
        this.clock = clock;
        this.kept = kept;
    }

    /** One on the administrator's account, proved from its start. */
    @Transactional(propagation = Propagation.MANDATORY)
    public Attempt start(Person person, EcKey key, String administrator, String network) {
        var decision = configurations.decide(person, Action.RESET, configurations.now(network, null));
        var policy =
                decision.policy().orElseThrow(() -> Problem.of("not-covered").with("name", person.name()));
        stops.check(Action.TEMPORARY, policy.name());
        var row = new AttemptRow();
        row.id = UUID.randomUUID();
        row.reference = references.free();
        row.person = person.id();
        row.action = Action.TEMPORARY.label();
        row.state = AttemptState.PROVED;
        row.revision = configurations.current().revision();
        row.policy = policy.name();
        row.key = key;
        cookies.renew(row);
        row.network = network;
        row.createdAt = clock.instant();
        row.expiresAt = row.createdAt.plus(settings.attemptLife());
        database.persist(row);
        database.flush();
        kept.keep(row.id, new Reference(row.reference));
        events.write(NewEvent.of("temporary.started", row.id, row.revision)
                .withPersonal("administrator", administrator)
                .withPersonal("login", person.login()));
        return Attempts.running(row);
    }
}
