package dev.entente.steward.directory;

import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.ModifyRequest;
import dev.entente.core.attempt.Cause;
import dev.entente.steward.directory.Servers.Lent;
import dev.entente.steward.settings.StewardFile.Guard;
import dev.entente.steward.settings.TargetPart;
import dev.entente.steward.target.Target.Entry;
import dev.entente.steward.target.Target.Judged;
import dev.entente.steward.target.Target.Reading;
import dev.entente.steward.target.Target.Sink;
import dev.entente.steward.target.Target.StaleCursor;
import dev.entente.wire.DirectoryApi.Finding;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.UUID;

/**
 * What differs between kinds of directories. Holds no connection: each call is given one. Promises that no error carries a
 * password.
 */
interface DirectoryAdapter {
    /** Why a write was refused: the cause, and what the directory said. */
    record Refusal(Cause cause, String detail) {}

    /** The kind that a file names. */
    static DirectoryAdapter of(TargetPart.Ldap part, Servers servers) {
        return part.activeDirectory() ? new ActiveDirectory(part, servers) : new StandardLdap(part);
    }

    /**
     * The entry with an immutable id below the base.
     *
     * @throws LDAPException also if its version cannot be read, without which no write is judged
     */
    Optional<Entry> find(Lent lent, UUID id) throws LDAPException;

    /** Sets a password; on the standard kind the write fails unless the entry still has its version. */
    ModifyRequest reset(Lent lent, Entry entry, String password, boolean clearLockout, boolean mustChange)
            throws LDAPException;

    /** Changes a password that the person knows. The directory's rules for changes apply, minimum age among them. */
    ModifyRequest change(Entry entry, String old, String password);

    /** Clears a lockout and nothing else; sending it twice does no harm. */
    ModifyRequest unlock(Entry entry);

    /**
     * How many more wrong passwords the directory takes before it locks; a large number if it never does, and the strictest
     * guess if that cannot be read.
     */
    int triesLeft(Lent lent, Entry entry) throws LDAPException;

    /** From when the directory takes another password, where it has a minimum age that can be read. */
    Optional<Instant> earliestChange(Lent lent, Entry entry) throws LDAPException;

    /** Whether the kind judges the old password by a bind before a change, rather than in the change itself. */
    boolean bindsBeforeChange();

    /** What an error of a write means. */
    Refusal refusal(LDAPException error);

    /** Judges a password by a bind. */
    Judged judge(LDAPException error);

    /** Whether an entry is in any of these groups, at any depth, looked up now. */
    boolean memberOf(Lent lent, Entry entry, List<String> groups) throws LDAPException;

    /**
     * Reads everybody, then groups with their members, then OUs; or, with a cursor, what changed since.
     *
     * @return the cursor to go on from
     */
    String read(Lent lent, Reading reading, Sink sink) throws LDAPException, StaleCursor;

    /** What is right and what is wrong with this directory, beyond reaching it. */
    List<Finding> examine(Lent lent, Guard guard, String account, boolean mailNeeded) throws LDAPException;
}
