package dev.entente.core.notice;

import dev.entente.core.audit.EventCatalogue;
import java.util.Arrays;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * What an administrator can choose to be told of. It is told from the record: from events of some kinds, and from {@link Finding}s that
 * appeared. What is in several belongs to the first.
 */
public enum Concern {
    ATTACK(
            "Someone may be attacked: alarms, denied requests, guessing, far more failures than usual, copied keys",
            Pace.AT_ONCE,
            "alarm.raised",
            "challenge.denied",
            "guesses.noticed",
            "passkey.cloned",
            "staff.denied",
            "steward.key-copied",
            "selfservice.closed"),
    PRIVILEGED_ACCOUNTS("A privileged account has a new password", Pace.AT_ONCE, "privileged.reset"),
    APPROVALS("A change waits for approval", Pace.AT_ONCE, "draft.submitted", "setting.proposed"),
    RECORD("The record is in doubt, or an erasure is late", Pace.AT_ONCE, "record.doubted"),
    CHECKPOINTS("Checkpoints of the record, to be kept where nobody here can reach them", Pace.OFF, "record.signed"),
    STEWARDS("A steward is away, or was refused", Pace.AT_ONCE, "steward.join-refused", "steward.receipt-refused"),
    DIRECTORIES(
            "Something is wrong with a directory, or its preflight finds something else",
            Pace.AT_ONCE,
            "preflight.changed",
            "sync.held",
            "directory.suspended",
            "directory.resumed",
            "directory.removed"),
    CHANNELS("Mail, telephones or an outlet don’t work", Pace.AT_ONCE, "channel.broken", "outlet.stopped"),
    WAYS_IN("One thing alone is enough to get into a privileged account", Pace.DAILY),
    POLICIES(
            "Policies were published or stopped",
            Pace.DAILY,
            "configuration.published",
            "publication.not-done",
            "stop.started",
            "stop.ended"),
    ADMINISTRATORS(
            "Who administers, or a setting, was changed",
            Pace.DAILY,
            "administrator.made",
            "administrator.removed",
            "administrator.suspended",
            "administrator.resumed",
            "administrator.second-factor-removed",
            "setting.changed");

    /** The event that something needs attention. */
    public static final String APPEARED = "attention.appeared";

    private static final Set<String> KINDS = Stream.concat(
                    Stream.of(APPEARED), Arrays.stream(values()).flatMap(concern -> concern.kinds.stream()))
            .collect(Collectors.toUnmodifiableSet());

    private final String words;
    private final Pace usual;
    private final Set<String> kinds;

    Concern(String words, Pace usual, String... kinds) {
        this.words = words;
        this.usual = usual;
        this.kinds = Set.of(kinds);
        for (var kind : kinds) {
            EventCatalogue.toWrite(kind);
        }
    }

    /** What it is, in words. */
    public String words() {
        return words;
    }

    /** The same in a few words, such as for a subject. */
    public String title() {
        return words.replaceAll("[:,].*", "");
    }

    /** When somebody is told of it who did not choose. */
    public Pace usual() {
        return usual;
    }

    /** The name in files and interfaces. */
    public String label() {
        return name().toLowerCase(Locale.ROOT).replace('_', '-');
    }

    /** The one with this name. */
    public static Optional<Concern> labelled(String label) {
        return Arrays.stream(values()).filter(c -> c.label().equals(label)).findFirst();
    }

    /** Every kind of event that can belong to a concern. */
    public static Set<String> allKinds() {
        return KINDS;
    }

    /**
     * To which an event belongs.
     *
     * @param data facts of the event
     */
    public static Optional<Concern> of(String kind, Map<String, Object> data) {
        if (kind.equals(APPEARED)) {
            return Finding.labelled(String.valueOf(data.get("what")))
                    .filter(Finding::told)
                    .map(Finding::concern);
        }
        return Arrays.stream(values()).filter(c -> c.kinds.contains(kind)).findFirst();
    }
}
