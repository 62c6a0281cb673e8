package dev.entente.service.attempt;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.attempt.Reference;
import dev.entente.core.policy.Action;
import dev.entente.core.policy.Policy;
import dev.entente.core.policy.Requirement;
import dev.entente.core.policy.Terms;
import dev.entente.core.seal.EcKey;
import dev.entente.core.verify.Method;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.service.policy.Configurations;
import jakarta.persistence.LockModeType;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/**
 * Attempts as they are: who holds them, which policy decided, which terms are to be accepted. {@link Admission} starts them,
 * {@link Challenges} have them proved, {@link Conclusion} ends them, and {@link Continuation} goes on after an end.
 */
@Component
public class Attempts {
    private final Session database;
    private final Configurations configurations;
    private final AttemptCookies cookies;
    private final EventLog events;

    Attempts(Session database, Configurations configurations, AttemptCookies cookies, EventLog events) {
        this.database = database;
        this.configurations = configurations;
        this.cookies = cookies;
        this.events = events;
    }

    /**
     * An attempt as other features see it.
     *
     * @param person empty for a decoy
     * @param network the address that it was started from
     * @param browser keyed hash of what that browser is known by
     * @param mailed whether the person is told of the outcome by mail
     */
    public record Attempt(
            UUID id,
            Reference reference,
            Optional<UUID> person,
            String decoy,
            Action action,
            AttemptState state,
            int revision,
            String policy,
            EcKey key,
            int challenges,
            List<Method> proved,
            Optional<Requirement> required,
            String termsAccepted,
            String language,
            int sealings,
            String network,
            byte[] browser,
            Instant createdAt,
            Instant expiresAt,
            Instant endedAt,
            boolean mailed) {}

    /** An attempt and the cookie that holds it from now on, for the browser. */
    public record Holding(Attempt attempt, String cookie) {}

    /** The attempt that a cookie holds. */
    @Transactional(readOnly = true)
    public Optional<Attempt> held(String cookie) {
        return cookies.row(cookie, LockModeType.NONE).map(Attempts::running);
    }

    /** The same, locked for what changes it in this transaction. */
    @Transactional(propagation = Propagation.MANDATORY)
    public Optional<Attempt> heldForChange(String cookie) {
        return cookies.row(cookie, LockModeType.PESSIMISTIC_WRITE).map(Attempts::running);
    }

    /** The person accepts the terms of the policy. */
    @Transactional
    public Attempt accept(String cookie, String terms) {
        var row = cookies.row(cookie, LockModeType.PESSIMISTIC_WRITE).orElseThrow(Attempts::gone);
        var wanted = terms(running(row)).orElseThrow(() -> Problem.of("no-terms"));
        if (!wanted.name().equals(terms)) {
            throw Problem.of("other-terms");
        }
        row.termsAccepted = terms;
        events.write(NewEvent.of("terms.accepted", row.id, row.revision).with("terms", terms));
        return running(row);
    }

    /** The terms that the person has to accept before anything is done; empty if there are none, or they are accepted. */
    public Optional<Terms> terms(Attempt attempt) {
        if (attempt.state() != AttemptState.PROVED || attempt.policy() == null) {
            return Optional.empty();
        }
        return policy(attempt)
                .terms()
                .value()
                .filter(name -> !name.equals(attempt.termsAccepted()))
                .map(name -> configurations.revision(attempt.revision()).terms().get(name));
    }

    /** Differs when where an attempt stands may be told otherwise; by attempt. */
    @Transactional(readOnly = true)
    public Map<UUID, String> stamps(Collection<UUID> ids) {
        // While a steward is waited for, how long it takes is told, too.
        return ids.isEmpty()
                ? Map.of()
                : Sql.rows(database, """
                                SELECT id, concat_ws(' ', xmin, CASE WHEN state = 'delivering' THEN extract(epoch FROM entente_now()) END)
                                    AS stamp FROM attempt WHERE id IN (:ids)""", Stamp.class)
                        .setParameter("ids", ids)
                        .getResultStream()
                        .collect(Collectors.toMap(Stamp::id, Stamp::stamp));
    }

    private record Stamp(UUID id, String stamp) {}

    /** By its id. */
    @Transactional(readOnly = true)
    public Attempt get(UUID id) {
        return running(database.find(AttemptRow.class, id));
    }

    /** Several, locked in one order, so that two transactions that lock the same never wait in a circle. */
    @Transactional(propagation = Propagation.MANDATORY)
    public Map<UUID, Attempt> lock(Collection<UUID> ids) {
        return ids.isEmpty()
                ? Map.of()
                : Sql.among(database, "FROM AttemptRow WHERE id IN (:ids) ORDER BY id", AttemptRow.class, "ids", ids)
                        .setLockMode(LockModeType.PESSIMISTIC_WRITE)
                        .getResultStream()
                        .collect(Collectors.toMap(row -> row.id, Attempts::running));
    }

    /** The policy that decided about an attempt, as it was then. */
    public Policy policy(Attempt attempt) {
        return configurations.policy(attempt.revision(), attempt.policy());
    }

    static Problem gone() {
        return Problem.of("attempt-gone");
    }

    static Attempt running(AttemptRow row) {
        return new Attempt(
                row.id,
                new Reference(row.reference),
                row.decoy == null ? Optional.ofNullable(row.person) : Optional.empty(),
                row.decoy,
                Action.labelled(row.action).orElseThrow(),
                row.state,
                row.revision,
                row.policy,
                row.key,
                row.challenges,
                row.provedMethods(),
                Optional.ofNullable(row.required),
                row.termsAccepted,
                row.language,
                row.sealings,
                row.network,
                row.device,
                row.createdAt,
                row.expiresAt,
                row.endedAt,
                row.mailed);
    }
}
