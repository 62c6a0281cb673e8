package dev.entente.steward.directory;

import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.ModifyRequest;
import dev.entente.core.attempt.Cause;
import dev.entente.wire.AdminApi.Finding;
import dev.entente.wire.StewardApi;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Consumer;

/**
 * What differs between the kinds of directory. Holds no connection and no state. What each answer means was measured on real
 * servers; docs/directories.md has the table.
 */
public interface DirectoryAdapter {
    /** An entry that can be written. */
    record Entry(UUID id, String dn, String login, List<String> details) {}

    /** What a bind with a password tells about that password. */
    enum Proof {
        RIGHT,
        WRONG,
        SAYS_NOTHING
    }

    /** A proof and the code that led to it. */
    record Judged(Proof proof, String code) {}

    /** Why a write was refused: the cause, and what the directory said. */
    record Refusal(Cause cause, String detail) {}

    /** The kind with this name. */
    static DirectoryAdapter of(String kind) {
        return kind.equals("ldap") ? new StandardLdap() : new ActiveDirectory();
    }

    /** The entry with an immutable id below a base. */
    Optional<Entry> find(LDAPConnection connection, String base, UUID id) throws LDAPException;

    /** The version that moves with every change of the password; on the standard kind with every change of the entry. */
    String version(LDAPConnection connection, Entry entry) throws LDAPException;

    /** The write; on the standard kind it fails unless the entry still has this version. */
    ModifyRequest write(Entry entry, String version, String password, boolean clearLockout, boolean mustChange);

    /** What an error of the write means. */
    Refusal refusal(LDAPException error);

    /** Judges a password by a bind. */
    Judged judge(LDAPException error);

    /** Whether an entry is in any of these groups, at any depth, looked up now. */
    boolean memberOf(LDAPConnection connection, String base, Entry entry, List<String> groups) throws LDAPException;

    /** Reads everybody, in batches. */
    void read(LDAPConnection connection, String base, String correlation, Consumer<StewardApi.Batch> batches)
            throws LDAPException;

    /** What is right and what is wrong with this directory, beyond reaching it. */
    List<Finding> examine(LDAPConnection connection, String base, String serviceAccount, String probe)
            throws LDAPException;
}
