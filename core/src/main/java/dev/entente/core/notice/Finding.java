package dev.entente.core.notice;

import java.util.Arrays;
import java.util.Locale;
import java.util.Optional;

/** What can need attention, as Today shows it; it is on record when it appears, and when it is settled. */
public enum Finding {
    ALARM(Concern.ATTACK, false),
    SELF_SERVICE_CLOSED(Concern.ATTACK, false),
    UNUSUAL(Concern.ATTACK),
    STOPPED(Concern.POLICIES, false),
    NOTHING_PUBLISHED(Concern.POLICIES),
    NAMES_WHAT_IS_GONE(Concern.POLICIES),
    ONE_THING_IS_ENOUGH(Concern.WAYS_IN),
    NO_DIRECTORY(Concern.DIRECTORIES),
    /** Anything about one directory that has no finding of its own. */
    DIRECTORY(Concern.DIRECTORIES),
    STEWARD_AWAY(Concern.STEWARDS),
    STEWARD_IN_DOUBT(Concern.STEWARDS),
    DELIVERIES_FAIL(Concern.DIRECTORIES),
    RECORD_IN_DOUBT(Concern.RECORD, false),
    ERASURE_LATE(Concern.RECORD),
    OUTLET(Concern.CHANNELS),
    MAIL(Concern.CHANNELS),
    BOUNCES(Concern.CHANNELS),
    NOBODY_TO_TELL(Concern.CHANNELS),
    APPROVAL_WAITS(Concern.APPROVALS, false),
    OUT_OF_STEP(Concern.DIRECTORIES);

    private final Concern concern;
    private final boolean told;

    Finding(Concern concern) {
        this(concern, true);
    }

    Finding(Concern concern, boolean told) {
        this.concern = concern;
        this.told = told;
    }

    /** Whether administrators are told of it when it appears; otherwise what brought it about is told. */
    public boolean told() {
        return told;
    }

    /** To what it belongs. */
    public Concern concern() {
        return concern;
    }

    /** The name in interfaces and events. */
    public String label() {
        return name().toLowerCase(Locale.ROOT).replace('_', '-');
    }

    /** The one with this name. */
    public static Optional<Finding> labelled(String label) {
        return Arrays.stream(values()).filter(f -> f.label().equals(label)).findFirst();
    }
}
