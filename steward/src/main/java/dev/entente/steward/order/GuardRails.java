package dev.entente.steward.order;

import com.unboundid.ldap.sdk.DN;
import com.unboundid.ldap.sdk.LDAPException;
import dev.entente.core.attempt.Cause;
import dev.entente.steward.settings.StewardFile;
import dev.entente.steward.target.Target.Entry;
import dev.entente.steward.target.Target.Lost;
import dev.entente.steward.target.Target.Refused;
import dev.entente.steward.target.Target.Visit;
import java.time.Duration;
import java.time.InstantSource;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;

/** What the steward's own file forbids, whatever the service asks. Fails closed: what cannot be looked up is forbidden. */
final class GuardRails {
    private static final int JUDGINGS_OF_ONE_ACCOUNT = 6;

    private final StewardFile.Guard guard;
    private final Journal journal;
    private final InstantSource clock;

    GuardRails(StewardFile.Guard guard, Journal journal, InstantSource clock) {
        this.guard = guard;
        this.journal = journal;
        this.clock = clock;
    }

    /** A rail that stands in the way. */
    record Forbidden(Cause cause, String detail) {}

    /** Whether this steward does such a thing at all. To retire a temporary password goes with setting one. */
    Optional<Forbidden> forbid(String action) {
        return guard.actions().contains(action.equals("retire") ? "temporary" : action)
                ? Optional.empty()
                : Optional.of(new Forbidden(
                        Cause.NOT_SWITCHED_ON, action + " is not among guard.actions in the steward's file"));
    }

    /** What is missing of the proof that is demanded, to follow "the steward demands a proof"; empty if nothing is. */
    interface Proven {
        Optional<String> missing(Set<String> demanded);
    }

    /** Whether a proof is demanded of this entry; what cannot be looked up counts as demanded. */
    boolean demands(Visit visit, Entry entry) {
        try {
            return demandedByGroup(visit, entry)
                    || guard.demand().bases().stream().anyMatch(b -> below(entry, b));
        } catch (Refused | Lost e) {
            return true;
        }
    }

    private boolean demandedByGroup(Visit visit, Entry entry) throws Refused, Lost {
        return !guard.demand().groups().isEmpty()
                && visit.memberOf(entry, guard.demand().groups());
    }

    /** Which proofs count where one is demanded. */
    Set<String> demanded() {
        return guard.demand().proof();
    }

    /**
     * Looks at everything about an entry; looked up in the directory now, not remembered.
     *
     * @param proven what the order shows, asked where a proof is demanded
     */
    Optional<Forbidden> forbid(Visit visit, Entry entry, UUID order, Proven proven) {
        if (guard.bases().stream().noneMatch(b -> below(entry, b))) {
            return Optional.of(
                    new Forbidden(Cause.PROTECTED, "the entry is not below any base that the steward's file allows"));
        }
        if (guard.protectedAccounts().stream().anyMatch(a -> same(entry, a))) {
            return Optional.of(new Forbidden(Cause.PROTECTED, "the account is protected by name"));
        }
        if (demands(visit, entry)) {
            var missing = proven.missing(guard.demand().proof());
            if (missing.isPresent()) {
                return Optional.of(new Forbidden(
                        Cause.PROOF_DEMANDED, "the steward demands a proof of the person's own, " + missing.get()));
            }
        }
        try {
            // Who is demanded of by a group and shows it was recognised by us: that is what protection is about.
            if (!demandedByGroup(visit, entry) && visit.memberOf(entry, guard.protectedGroups())) {
                return Optional.of(new Forbidden(Cause.PROTECTED, "the account is in a protected group"));
            }
        } catch (Refused | Lost e) {
            return Optional.of(new Forbidden(
                    Cause.PROTECTED, "whether the account is protected could not be looked up: " + e.getMessage()));
        }
        return pace(entry, order);
    }

    /** Notes a write that is about to be sent, unless orders beside it used up what was left since the look. */
    Optional<Forbidden> note(Entry entry, UUID order, Map<String, Object> also) {
        return journal.writing(order, entry.id(), also, () -> pace(entry, order));
    }

    /** Notes that a password is about to be tried without a write, unless it was tried too often. */
    Optional<Forbidden> noteJudging(Entry entry, UUID order, Map<String, Object> also) {
        return journal.judging(order, entry.id(), also, () -> judgingPace(entry));
    }

    /** Without this a service that was taken over could guess passwords by asking for looks. */
    private Optional<Forbidden> judgingPace(Entry entry) {
        var now = clock.instant();
        if (journal.judgingsSince(now.minus(Duration.ofHours(1)), entry.id()) >= JUDGINGS_OF_ONE_ACCOUNT) {
            return Optional.of(new Forbidden(
                    Cause.GUARD_RAIL,
                    JUDGINGS_OF_ONE_ACCOUNT + " passwords were tried for this account in the last hour"));
        }
        if (journal.judgingsSince(now.minus(Duration.ofMinutes(1)), null) >= guard.writesPerMinute()
                || journal.judgingsSince(now.minus(Duration.ofDays(1)), null) >= guard.writesPerDay()) {
            return Optional.of(new Forbidden(
                    Cause.GUARD_RAIL, "as many passwords were tried as may be written in a minute or a day"));
        }
        return Optional.empty();
    }

    private Optional<Forbidden> pace(Entry entry, UUID order) {
        var now = clock.instant();
        if (journal.writesSince(now.minus(Duration.ofMinutes(1))) >= guard.writesPerMinute()) {
            return Optional.of(new Forbidden(Cause.GUARD_RAIL, guard.writesPerMinute() + " writes in this minute"));
        }
        if (journal.writesSince(now.minus(Duration.ofDays(1))) >= guard.writesPerDay()) {
            return Optional.of(new Forbidden(Cause.GUARD_RAIL, guard.writesPerDay() + " writes in this day"));
        }
        var last = journal.lastWrite(entry.id(), order);
        if (last.isPresent() && last.get().plus(guard.pausePerAccount()).isAfter(now)) {
            return Optional.of(new Forbidden(
                    Cause.GUARD_RAIL,
                    "this account was written less than "
                            + guard.pausePerAccount().toSeconds() + " s ago"));
        }
        return Optional.empty();
    }

    /** The longest that a seal may be valid. */
    Duration sealAge() {
        return guard.sealAge();
    }

    /** Places without distinguished names know one base, {@code *}: everything. */
    private static boolean below(Entry entry, String base) {
        try {
            return base.equals("*") || new DN(entry.dn()).isDescendantOf(base, false);
        } catch (LDAPException e) {
            return false;
        }
    }

    private static boolean same(Entry entry, String other) {
        if (entry.login().equalsIgnoreCase(other)) {
            return true;
        }
        try {
            return new DN(entry.dn()).equals(new DN(other));
        } catch (LDAPException e) {
            // A login name is not a distinguished name; anything else that cannot be read protects all.
            return other.contains("=");
        }
    }
}
