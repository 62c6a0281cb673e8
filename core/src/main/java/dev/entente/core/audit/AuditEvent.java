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
 * One record of the audit trail, as it is hashed. The leaf of version 2 holds the reference that a person reads out and how long the
 * event is kept as well; events of before are hashed as they were.
 *
 * <p>Personal values are not in it: each stands beside it in an erasable place with a salt of 16 bytes, and only the salted
 * commitment enters the leaf, so that erasing the value leaves the hash as it was and the commitment says nothing about it.
 *
 * @param v version of the leaf; null is read as 1
 * @param id the event
 * @param at milliseconds since 1970
 * @param kind what happened, such as {@code attempt.started}
 * @param kept its class, which says for how long; null in version 1
 * @param attempt the attempt, or null
 * @param reference digits of the attempt's reference; null without one and in version 1
 * @param ordinal position within the attempt from 1, or 0 without an attempt
 * @param revision the configuration in force, 0 before the first
 * @param data facts that name nobody: strings, integers, booleans, lists and maps of them
 * @param commitments for each personal value its name and {@link #commit}
 */
public record AuditEvent(
        Integer v,
        UUID id,
        long at,
        String kind,
        @OrNull String kept,
        @OrNull UUID attempt,
        @OrNull String reference,
        int ordinal,
        int revision,
        Map<String, Object> data,
        Map<String, String> commitments) {
    /** Length of the salt beside each personal value. Bytes. */
    public static final int SALT_LENGTH = 16;

    /** The version of the leaf that is written. */
    public static final int VERSION = 2;

    public AuditEvent {
        v = v == null ? 1 : v;
    }

    /**
     * The bytes that are hashed: {@link CanonicalJson}.
     *
     * @throws IllegalArgumentException with a sentence if it is of no known version, lacks something, or has what its version doesn't
     */
    public byte[] canonical() {
        if (v < 1 || v > VERSION) {
            throw new IllegalArgumentException("it is of version " + v + ", which this version doesn't support");
        }
        if (id == null || kind == null || data == null || commitments == null || v > 1 && kept == null) {
            throw new IllegalArgumentException("a member is missing");
        }
        if (v == 1 && (kept != null || reference != null)) {
            throw new IllegalArgumentException("it has a member that events of version 1 don't have");
        }
        var all = new HashMap<String, Object>();
        all.put("v", v);
        all.put("id", id.toString());
        all.put("at", at);
        all.put("kind", kind);
        all.put("attempt", attempt == null ? null : attempt.toString());
        all.put("ordinal", ordinal);
        all.put("revision", revision);
        all.put("data", data);
        all.put("personal", commitments);
        if (v > 1) {
            all.put("kept", kept);
            all.put("reference", reference);
        }
        return CanonicalJson.bytes(all);
    }

    /**
     * The canonical form around the digits of the ordinal and the reference, for code that learns these two only while storing the event.
     *
     * @param before ends with the ordinal's name and a colon
     * @param between begins with a comma, and ends with the reference's name and a colon
     * @param after begins with a comma
     */
    public record Around(byte[] before, byte[] between, byte[] after) {}

    /** What stands around them in {@link #canonical}, where names are in order. */
    public Around around() {
        var before = new HashMap<String, Object>();
        before.put("id", id.toString());
        before.put("at", at);
        before.put("kind", kind);
        before.put("kept", kept);
        before.put("attempt", attempt == null ? null : attempt.toString());
        before.put("data", data);
        var after = new HashMap<String, Object>();
        after.put("v", v);
        after.put("revision", revision);
        return new Around(
                open(before, ",\"ordinal\":"),
                (",\"personal\":" + text(commitments) + ",\"reference\":").getBytes(StandardCharsets.UTF_8),
                ("," + text(after).substring(1)).getBytes(StandardCharsets.UTF_8));
    }

    private static byte[] open(Map<String, Object> members, String then) {
        var text = text(members);
        return (text.substring(0, text.length() - 1) + then).getBytes(StandardCharsets.UTF_8);
    }

    private static String text(Object value) {
        return new String(CanonicalJson.bytes(value), StandardCharsets.UTF_8);
    }

    /** The leaf hash of RFC 9162 section 2.1.1: SHA-256 of a zero byte and the canonical form. */
    public byte[] leafHash() {
        return MerkleFrontier.leafHash(canonical());
    }

    /**
     * The commitment to a personal value: SHA-256 of salt, name, a zero byte and value, in hexadecimal.
     *
     * @param salt {@link #SALT_LENGTH} random bytes
     * @throws IllegalArgumentException if the text is none that UTF-8 can say
     */
    public static String commit(byte[] salt, String name, String value) {
        try {
            var digest = MessageDigest.getInstance("SHA-256");
            digest.update(salt);
            digest.update(CanonicalJson.utf8(name));
            digest.update((byte) 0);
            digest.update(CanonicalJson.utf8(value));
            return HexFormat.of().formatHex(digest.digest());
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("the JDK has no SHA-256", e);
        }
    }
}
