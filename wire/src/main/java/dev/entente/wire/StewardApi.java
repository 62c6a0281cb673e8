package dev.entente.wire;

import dev.entente.core.audit.KeyChange;
import dev.entente.core.audit.RecordExtension;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.OrNull;
import java.util.List;
import java.util.Map;
import java.util.UUID;

/** Bodies of the stewards' API under {@code /api/v1/steward}; each call is signed, see {@link StewardCall}. */
public final class StewardApi {
    /** How long a steward asks to wait for work, seconds. */
    public static final int USUAL_WAIT = 12;

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
     * @param room how many orders it can take, at least 1
     * @param instance random, made when the process starts: two processes with one key are told apart by it
     * @param server the directory's server that it works with
     * @param certificateEnds when the certificate of that server ends, milliseconds since 1970, or null
     * @param latencyMillis how long the service took to answer its last short call
     * @param moved what happened to servers since it asked last, oldest first, at most 20
     * @param demand for whom it wants a proof that it can check by itself; null if of nobody
     */
    public record AskForWork(
            String version,
            int waitSeconds,
            int room,
            String instance,
            String server,
            @OrNull Long certificateEnds,
            int latencyMillis,
            List<Move> moved,
            @OrNull Demand demand) {}

    /**
     * For whom a steward demands a proof that it checks by itself; said so that people are told before they try.
     *
     * @param groups members, nested
     * @param bases entries below these
     * @param proof {@code passkey}, {@code push}
     */
    public record Demand(List<String> groups, List<String> bases, List<String> proof) {}

    /** Work moved from one server of the directory to another. */
    public record Move(String from, String to, String why, long at) {}

    /** Signed orders, or a task; one of the two is empty. */
    public record Work(List<String> orders, Task task) {}

    /**
     * A job: {@code preflight}, {@code sync} or {@code changes}.
     *
     * @param id of the job; of the directory for {@code changes}, which is no job of its own
     * @param loginAttributes attributes whose values are login names too
     * @param attributes further attributes to read, for scopes
     * @param cursor where the last read of changes ended, for {@code changes}
     * @param mailNeeded whether policies need an e-mail address, for {@code preflight}
     * @param watchSeconds for {@code changes}: how long to go on looking while nothing has changed, before that is told
     * @param everySeconds for {@code changes}: how long after one look the next follows
     */
    public record Task(
            UUID id,
            String kind,
            String correlation,
            List<String> loginAttributes,
            List<String> attributes,
            String cursor,
            boolean mailNeeded,
            int watchSeconds,
            int everySeconds) {}

    /** Noted before the write. */
    public record Begin(UUID order, int epoch, String server, String version) {}

    /** Several at once, at most 64. */
    public record Begins(List<Begin> begins) {}

    /** Which of them may be written: an order that is not listed is another's now. */
    public record Begun(List<UUID> orders) {}

    /** A signed receipt. */
    public record ReceiptStatement(UUID order, String receipt) {}

    /** Several at once, at most 64. */
    public record Receipts(List<ReceiptStatement> receipts) {}

    /** Which of them were taken, whether they changed anything or not; others were refused and are not sent again. */
    public record ReceiptsTaken(List<UUID> orders) {}

    /** A batch of what a sync read; at most 500 people and OUs, 50 groups and 10,000 ids that are gone. */
    public record Batch(List<Person> people, List<Group> groups, List<String> ous, List<UUID> gone) {
        /** People only. */
        public static Batch people(List<Person> people) {
            return new Batch(people, List.of(), List.of(), List.of());
        }

        /** One group only. */
        public static Batch group(Group group) {
            return new Batch(List.of(), List.of(group), List.of(), List.of());
        }

        /** OUs only. */
        public static Batch ous(List<String> ous) {
            return new Batch(List.of(), List.of(), ous, List.of());
        }
    }

    /**
     * One account as the directory has it. Times are milliseconds since 1970, null where the directory does not say.
     *
     * @param logins login names besides {@code login}
     * @param mail the address that the directory names first
     * @param moreMail its other ones; null from a steward that does not read them
     * @param phone the number of a telephone of the person's own, as the directory writes it
     * @param rules name of the directory's rules for this account alone, or null
     */
    public record Person(
            UUID id,
            String dn,
            String login,
            List<String> logins,
            String displayName,
            String correlation,
            String department,
            String mail,
            @OrNull List<String> moreMail,
            String phone,
            String manager,
            boolean disabled,
            boolean locked,
            Long expiresAt,
            boolean mustChange,
            Long lastSignIn,
            Long passwordSetAt,
            Long passwordEndsAt,
            @OrNull String rules,
            Map<String, List<String>> attributes) {}

    /**
     * One group, or a part of a large one.
     *
     * @param members names of people and groups, at most 2,000 in one part
     * @param first whether members known before are forgotten: the first part of a group
     */
    public record Group(String dn, String name, List<String> members, boolean first) {}

    /**
     * How a job ended.
     *
     * @param cursor where reading changes goes on from, for a sync
     */
    public record JobEnd(boolean done, String message, List<DirectoryApi.Finding> findings, String cursor) {}

    /**
     * What changed since a cursor.
     *
     * @param from the cursor that was read from
     * @param to the next one; null if everything has to be read again
     * @param why why everything has to be read again, or null
     * @param last false while more batches follow under the same cursor
     */
    public record Changes(
            String from, @OrNull String to, @OrNull String why, Batch batch, boolean last) {}

    /**
     * Asks for the state, and tells what the steward knows of the record.
     *
     * @param kept how many events its checkpoint covers; null from one that keeps none
     * @param doubt what is wrong with the record by that checkpoint, at most 300 characters; null if nothing is
     */
    public record AskForState(@OrNull Long kept, @OrNull String doubt) {}

    /**
     * What was signed.
     *
     * @param roster in force; null before the first
     * @param record how the record goes on from the kept checkpoint
     * @param recordKey which signs checkpoints now
     * @param keyChanges how the record's keys led to it, oldest first; null if it was never changed
     */
    public record State(
            @OrNull String roster,
            RecordExtension record,
            EcKey recordKey,
            @OrNull List<KeyChange> keyChanges) {}
}
