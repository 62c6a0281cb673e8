package dev.entente.core.audit;

import dev.entente.core.seal.OrNull;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.Map;
import java.util.UUID;

/**
 * One record of the audit trail, as it is hashed.
 *
 * <p>Personal values are not in it: each stands beside it in an erasable place with a salt of 16 bytes, and only the salted
 * commitment enters the leaf, so that erasing the value leaves the hash as it was and the commitment says nothing about it.
 *
 * @param id the event
 * @param at milliseconds since 1970
 * @param kind what happened, such as {@code attempt.started}
 * @param attempt the attempt, or null
 * @param ordinal position within the attempt from 1, or 0 without an attempt
 * @param revision the configuration in force, 0 before the first
 * @param data facts that name nobody: strings, integers, booleans, lists and maps of them
 * @param commitments for each personal value its name and {@link #commit}
 */
public record AuditEvent(
        UUID id,
        long at,
        String kind,
        @OrNull UUID attempt,
        int ordinal,
        int revision,
        Map<String, Object> data,
        Map<String, String> commitments) {
    /** Length of the salt beside each personal value. Bytes. */
    public static final int SALT_LENGTH = 16;

    /** The bytes that are hashed: {@link CanonicalJson} with the format version first among its members. */
    public byte[] canonical() {
        var all = new HashMap<String, Object>();
        all.put("v", 1);
        all.put("id", id.toString());
        all.put("at", at);
        all.put("kind", kind);
        all.put("attempt", attempt == null ? null : attempt.toString());
        all.put("ordinal", ordinal);
        all.put("revision", revision);
        all.put("data", data);
        all.put("personal", commitments);
        return CanonicalJson.bytes(all);
    }

    /**
     * The canonical form before and behind the digits of the ordinal, for whoever numbers events where they are stored.
     *
     * @param before ends with the ordinal's name and a colon
     * @param after begins with a comma
     */
    public record Around(byte[] before, byte[] after) {}

    /** What stands around the ordinal in {@link #canonical}: names are in order there, and the ordinal's is in the middle. */
    public Around around() {
        var before = new HashMap<String, Object>();
        before.put("id", id.toString());
        before.put("at", at);
        before.put("kind", kind);
        before.put("attempt", attempt == null ? null : attempt.toString());
        before.put("data", data);
        var after = new HashMap<String, Object>();
        after.put("v", 1);
        after.put("revision", revision);
        after.put("personal", commitments);
        var first = new String(CanonicalJson.bytes(before), StandardCharsets.UTF_8);
        var last = new String(CanonicalJson.bytes(after), StandardCharsets.UTF_8);
        return new Around(
                (first.substring(0, first.length() - 1) + ",\"ordinal\":").getBytes(StandardCharsets.UTF_8),
                ("," + last.substring(1)).getBytes(StandardCharsets.UTF_8));
    }

    /** The leaf hash of RFC 9162 section 2.1.1: SHA-256 of a zero byte and the canonical form. */
    public byte[] leafHash() {
        return MerkleFrontier.leafHash(canonical());
    }

    /**
     * The commitment to a personal value: SHA-256 of salt, name, a zero byte and value, in hexadecimal.
     *
     * @param salt {@link #SALT_LENGTH} random bytes
     */
    public static String commit(byte[] salt, String name, String value) {
        try {
            var digest = MessageDigest.getInstance("SHA-256");
            digest.update(salt);
            digest.update(name.getBytes(StandardCharsets.UTF_8));
            digest.update((byte) 0);
            digest.update(value.getBytes(StandardCharsets.UTF_8));
            return HexFormat.of().formatHex(digest.digest());
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("the JDK has no SHA-256", e);
        }
    }
}
