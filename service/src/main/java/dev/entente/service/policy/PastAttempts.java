package dev.entente.service.policy;

import dev.entente.core.attempt.Reference;
import dev.entente.core.policy.Action;
import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.Decision;
import dev.entente.service.people.People;
import dev.entente.wire.AdminApi;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Attempts that were made, decided again: by people as they are now, from where and when they came then. */
@Component
@Transactional(readOnly = true)
class PastAttempts {
    private static final int MOST = 5000;
    /** Said by limits over time, which a draft does not change. */
    private static final Set<String> LIMITS = Set.of("reset-limit", "reset-wait", "tries-limit");

    private final Session database;
    private final People people;
    private final InstantSource clock;

    PastAttempts(Session database, People people, InstantSource clock) {
        this.database = database;
        this.people = people;
        this.clock = clock;
    }

    List<AdminApi.RehearsedAttempt> otherwise(Configuration configuration, int days) {
        var graph = people.groups();
        var changed = new ArrayList<AdminApi.RehearsedAttempt>();
        for (var row : database.createNativeQuery("""
                        SELECT reference, person, action, network, created_at, decoy, policy, state FROM attempt
                        WHERE person IS NOT NULL AND created_at > :since AND action <> 'temporary'
                        ORDER BY created_at DESC LIMIT :most""", Object[].class)
                .setParameter("since", clock.instant().minus(Duration.ofDays(days)))
                .setParameter("most", MOST)
                .getResultList()) {
            var person = people.find((UUID) row[1]);
            var decoy = (String) row[5];
            if (person.isEmpty() || LIMITS.contains(decoy == null ? "" : decoy)) {
                continue;
            }
            var then = new dev.entente.core.policy.Circumstances((Instant) row[4], (String) row[3], null, Set.of());
            var decision = Decision.of(
                    configuration,
                    graph,
                    people.facts(person.get()),
                    Action.labelled((String) row[2]).orElseThrow(),
                    then,
                    List.of());
            var policy = decision.policy().map(p -> p.name()).orElse(null);
            if ((decoy == null) != decision.possible()) {
                changed.add(new AdminApi.RehearsedAttempt(
                        new Reference((String) row[0]).toString(),
                        person.get().name(),
                        (String) row[2],
                        (Instant) row[4],
                        decoy == null ? "could go on (" + row[7] + ")" : "could not: " + decoy.replace('-', ' '),
                        decision.possible() ? "could go on" : "could not",
                        policy,
                        decision.possible()
                                ? "To prove: "
                                        + decision.required()
                                                .orElseThrow()
                                                .requirement()
                                                .words() + "."
                                : decision.obstacles().get(0).cause()));
            }
        }
        return changed;
    }
}
