package dev.entente.service.policy;

import dev.entente.core.policy.Decision;
import dev.entente.service.people.Person;
import java.util.List;

/** What stands in somebody's way beside the configuration: each feature says what it knows. */
public interface Hindrance {
    /**
     * What is found for one person.
     *
     * @param obstacles as {@link Decision} has them
     * @param notes what holds only elsewhere or in part, a sentence each
     */
    record Found(List<Decision.Obstacle> obstacles, List<String> notes) {}

    /**
     * Looks for one person and a decision that a policy made.
     *
     * @param address from where the person comes; null if that is not known
     */
    Found of(Person person, Decision decision, String address);
}
