package dev.entente.service.verify;

import dev.entente.core.seal.Credential;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.service.platform.Problem;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.UUID;

/**
 * How people set up a method by themselves. Every method whose facts say that they can has one; whatever shows or changes what
 * people have knows this interface alone. Called inside the caller's transaction.
 */
public interface Enroller {
    /** Which method. */
    Method method();

    /** How many one person may have. */
    int most();

    /** What it is called until the person gives it a name. */
    String usualName();

    /**
     * Begins, or does all of it at once.
     *
     * @param id of the enrolment, which counts for nothing yet
     * @param login by which the person signs in, for what their device shows
     */
    Offered offer(UUID id, UUID person, String login);

    /**
     * The person, or their device, shows that it has what was offered.
     *
     * @throws Problem 422 if the answer does not show it
     */
    void confirm(UUID id, UUID person, Answer answer);

    /** Forgets every secret of one that was removed. */
    void forget(UUID id);

    /** The public halves by which a steward could recognise people by itself; those that have none are left out. */
    default Map<UUID, Credential> credentials(Collection<UUID> ids) {
        return Map.of();
    }

    /** How many uses are left; null where they are not counted. */
    default Integer left(UUID id) {
        return null;
    }

    /**
     * What is offered.
     *
     * @param complete whether it counts already, without a confirmation; those of before count no more then
     * @param parts what the browser or the device needs, by name, as the method's page describes them
     * @param lines what is shown this once, such as recovery codes
     */
    record Offered(boolean complete, Map<String, String> parts, List<String> lines) {}
}
