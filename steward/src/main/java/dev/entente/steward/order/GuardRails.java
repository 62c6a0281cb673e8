package dev.entente.steward.order;

import com.unboundid.ldap.sdk.DN;
import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPException;
import dev.entente.core.attempt.Cause;
import dev.entente.steward.directory.DirectoryAdapter;
import dev.entente.steward.settings.StewardFile;
import java.time.Duration;
import java.time.InstantSource;
import java.util.Optional;

/** What the steward's own file forbids, whatever the service asks. Fails closed: what cannot be looked up is forbidden. */
final class GuardRails {
    private final StewardFile.Guard guard;
    private final DirectoryAdapter adapter;
    private final String base;
    private final Journal journal;
    private final InstantSource clock;

    GuardRails(StewardFile.Guard guard, DirectoryAdapter adapter, String base, Journal journal, InstantSource clock) {
        this.guard = guard;
        this.adapter = adapter;
        this.base = base;
        this.journal = journal;
        this.clock = clock;
    }

    /** A rail that stands in the way. */
    record Forbidden(Cause cause, String detail) {}

    /** Looks at everything about an entry; looked up in the directory now, not remembered. */
    Optional<Forbidden> forbid(LDAPConnection connection, DirectoryAdapter.Entry entry) {
        try {
            var dn = new DN(entry.dn());
            if (guard.bases().stream().noneMatch(b -> below(dn, b))) {
                return Optional.of(new Forbidden(
                        Cause.PROTECTED, "the entry is not below any base that the steward's file allows"));
            }
            if (guard.protectedAccounts().stream().anyMatch(a -> same(dn, a))) {
                return Optional.of(new Forbidden(Cause.PROTECTED, "the account is protected by name"));
            }
            if (adapter.memberOf(connection, base, entry, guard.protectedGroups())) {
                return Optional.of(new Forbidden(Cause.PROTECTED, "the account is in a protected group"));
            }
        } catch (LDAPException e) {
            return Optional.of(new Forbidden(
                    Cause.PROTECTED,
                    "whether the account is protected could not be looked up: "
                            + e.getResultCode().intValue()));
        }
        var now = clock.instant();
        if (journal.writesSince(now.minus(Duration.ofMinutes(1))) >= guard.writesPerMinute()) {
            return Optional.of(new Forbidden(Cause.GUARD_RAIL, guard.writesPerMinute() + " writes in this minute"));
        }
        if (journal.writesSince(now.minus(Duration.ofDays(1))) >= guard.writesPerDay()) {
            return Optional.of(new Forbidden(Cause.GUARD_RAIL, guard.writesPerDay() + " writes in this day"));
        }
        return Optional.empty();
    }

    /** The longest that a seal may be valid. */
    Duration sealAge() {
        return guard.sealAge();
    }

    private static boolean below(DN dn, String base) {
        try {
            return dn.isDescendantOf(base, false);
        } catch (LDAPException e) {
            return false;
        }
    }

    private static boolean same(DN dn, String other) {
        try {
            return dn.equals(new DN(other));
        } catch (LDAPException e) {
            // A name that cannot be read protects everything rather than nothing.
            return true;
        }
    }
}
