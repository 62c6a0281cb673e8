package dev.entente.service.policy;

import dev.entente.core.policy.Circumstances;
import dev.entente.core.policy.Decision;
import dev.entente.core.verify.Method;
import dev.entente.service.people.Person;
import java.util.List;
import java.util.Map;

/** What stands in somebody's way beside the configuration: each feature says what it knows. */
public interface Hindrance {
    /**
     * What is found for one person.
     *
     * @param obstacles as {@link Decision} has them
     * @param notes what holds only elsewhere or in part, a sentence each
     * @param closed methods that can't be used there now, and why, to follow the method's name
     */
    record Found(List<Decision.Obstacle> obstacles, List<String> notes, Map<Method, String> closed) {}

    /**
     * Looks for one person and a decision that a policy made.
     *
     * @param circumstances from where the person comes, and whether on a device of theirs, as far as that is known
     */
    Found of(Person person, Decision decision, Circumstances circumstances);
}
