package dev.entente.core.audit;

import dev.entente.core.seal.OrNull;
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
        var out = new CanonicalJson();
        toOrdinal(out).member(',', "ordinal", ordinal).member(',', "personal", commitments);
        if (v > 1) {
            out.member(',', "reference", reference);
        }
        return toEnd(out);
    }

    /**
     * The canonical form around the digits of the ordinal and the reference, for code that learns these two only while storing the event.
     *
     * @param before ends with the ordinal's name and a colon
     * @param between begins with a comma, and ends with the reference's name and a colon
     * @param after begins with a comma
     */
    public record Around(byte[] before, byte[] between, byte[] after) {}

    /** What stands around them in {@link #canonical}. */
    public Around around() {
        var out = new CanonicalJson();
        return new Around(
                toOrdinal(out).name(',', "ordinal").written(),
                out.member(',', "personal", commitments).name(',', "reference").written(),
                toEnd(out));
    }

    /** Names are in order. */
    private CanonicalJson toOrdinal(CanonicalJson out) {
        out.member('{', "at", at)
                .member(',', "attempt", attempt == null ? null : attempt.toString())
                .member(',', "data", data)
                .member(',', "id", id.toString());
        if (v > 1) {
            out.member(',', "kept", kept);
        }
        return out.member(',', "kind", kind);
    }

    private byte[] toEnd(CanonicalJson out) {
        return out.member(',', "revision", revision)
                .member(',', "v", v)
                .put('}')
                .written();
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
        return HexFormat.of()
                .formatHex(Sha256.of(salt, CanonicalJson.utf8(name), new byte[1], CanonicalJson.utf8(value)));
    }
}
