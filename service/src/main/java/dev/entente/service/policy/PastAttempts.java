package dev.entente.service.policy;

import dev.entente.core.attempt.Reference;
import dev.entente.core.policy.Action;
import dev.entente.core.policy.Circumstances;
import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.Decision;
import dev.entente.service.people.DirectoryGroups;
import dev.entente.service.people.People;
import dev.entente.service.platform.Sql;
import dev.entente.wire.DraftApi;
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
    private final DirectoryGroups groups;

    PastAttempts(Session database, People people, InstantSource clock, DirectoryGroups groups) {
        this.database = database;
        this.people = people;
        this.clock = clock;
        this.groups = groups;
    }

    private record Past(
            String reference,
            UUID person,
            String action,
            String network,
            Instant createdAt,
            String decoy,
            String policy,
            String state) {}

    List<DraftApi.RehearsedAttempt> otherwise(Configuration configuration, int days) {
        var graph = groups.groups();
        var changed = new ArrayList<DraftApi.RehearsedAttempt>();
        for (var past : Sql.rows(database, """
                        SELECT reference, person, action, network, created_at, decoy, policy, state FROM personal_attempt
                        WHERE created_at > :since AND action <> 'temporary'
                        ORDER BY created_at DESC LIMIT :most""", Past.class)
                .setParameter("since", clock.instant().minus(Duration.ofDays(days)))
                .setParameter("most", MOST)
                .getResultList()) {
            var person = people.find(past.person());
            var decoy = past.decoy();
            if (person.isEmpty() || LIMITS.contains(decoy == null ? "" : decoy)) {
                continue;
            }
            var then = new Circumstances(past.createdAt(), past.network(), null, Set.of());
            var decision = Decision.of(
                    configuration,
                    graph,
                    people.facts(person.get()),
                    Action.labelled(past.action()).orElseThrow(),
                    then,
                    List.of());
            var policy = decision.policy().map(p -> p.name()).orElse(null);
            if ((decoy == null) != decision.possible()) {
                changed.add(new DraftApi.RehearsedAttempt(
                        new Reference(past.reference()).toString(),
                        person.get().name(),
                        past.action(),
                        past.createdAt(),
                        decoy == null ? "could go on (" + past.state() + ")" : "could not: " + decoy.replace('-', ' '),
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
