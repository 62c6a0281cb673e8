package dev.entente.wire;

import dev.entente.core.seal.EcKey;
import java.util.List;
import java.util.UUID;

/** Bodies of the stewards' API under {@code /api/v1/steward}; each call is signed, see {@link StewardCall}. */
public final class StewardApi {
    private StewardApi() {}

    /** Public keys handed in with a join code. */
    public record Join(String code, EcKey identityKey, String version) {}

    /** What the steward now is; both keys have to match what the join code pinned. */
    public record Joined(UUID steward, UUID directory, String directoryName, EcKey serviceKey, EcKey operatorKey) {}

    /** A signed sealing key. */
    public record SealingKeyStatement(String statement) {}

    /**
     * What is wanted when a steward asks for work, and how it is doing.
     *
     * @param waitSeconds how long the answer may be held back, at most 25
     */
    public record AskForWork(String version, int waitSeconds) {}

    /** Exactly one of the two is set. */
    public record Work(String order, Task task) {}

    /** A job: {@code preflight} or {@code sync}. */
    public record Task(UUID id, String kind, String correlation, String base) {}

    /** Noted before the write. */
    public record Begin(int epoch, String server, String version) {}

    /** A signed receipt. */
    public record ReceiptStatement(String receipt) {}

    /** A batch of what a sync read; at most 500 of each. */
    public record Batch(List<Person> people, List<Group> groups, List<String> ous) {}

    /** One account as the directory has it. */
    public record Person(
            UUID id,
            String dn,
            String login,
            List<String> logins,
            String displayName,
            String correlation,
            String department,
            String mail,
            boolean disabled,
            boolean locked,
            List<String> groups) {}

    /** One group; {@code parents} are the groups that list it. */
    public record Group(String dn, String name, List<String> parents) {}

    /** How a job ended. */
    public record JobEnd(boolean done, String message, List<AdminApi.Finding> findings) {}

    /** The roster in force and the latest signed checkpoint; either may be null. */
    public record State(String roster, String checkpoint, EcKey recordKey) {}
}
