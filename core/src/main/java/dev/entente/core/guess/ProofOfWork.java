package dev.entente.core.guess;

import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.security.SecureRandom;
import java.time.Duration;
import java.time.Instant;
import java.util.Arrays;
import java.util.Base64;
import java.util.Optional;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;

/**
 * Work that a browser does before it may start when somebody starts very many attempts: to find a nonce with which SHA-256 begins
 * with so many zero bits. Nothing of it is kept until it was done: the seed says by itself until when, for whom, and how hard.
 */
public final class ProofOfWork {
    /** At most; 2^24 hashes take a telephone half a minute. */
    public static final int MOST_BITS = 24;

    private static final Duration LIFE = Duration.ofMinutes(5);
    private static final int RANDOM = 12;
    private static final int MARK = 16;
    private static final int HEAD = Long.BYTES + 1 + RANDOM;
    private static final int LONGEST_NONCE = 20;

    private final byte[] key;
    private final SecureRandom random;

    /** @param key secret, 32 bytes; the same on every node */
    public ProofOfWork(byte[] key, SecureRandom random) {
        this.key = key.clone();
        this.random = random;
    }

    /**
     * What is asked for.
     *
     * @param seed base64url without padding
     * @param bits zero bits that SHA-256 of the seed, a dot and the nonce has to begin with, all as ASCII
     */
    public record Wanted(String seed, int bits) {}

    /** @param whom it is asked of, such as a network; work done by one counts for no other */
    public Wanted ask(String whom, int bits, Instant now) {
        if (bits < 1 || bits > MOST_BITS) {
            throw new IllegalArgumentException("1 to " + MOST_BITS + " bits are possible");
        }
        var salt = new byte[RANDOM];
        random.nextBytes(salt);
        var head = ByteBuffer.allocate(HEAD)
                .putLong(now.plus(LIFE).toEpochMilli())
                .put((byte) bits)
                .put(salt)
                .array();
        var seed =
                ByteBuffer.allocate(HEAD + MARK).put(head).put(mark(head, whom)).array();
        return new Wanted(Base64.getUrlEncoder().withoutPadding().encodeToString(seed), bits);
    }

    /**
     * Whether it was done.
     *
     * @param nonce as sent, at most 20 characters
     * @return until when the seed has to be remembered, so that it counts once; empty if it was not done, not here, or too late
     */
    public Optional<Instant> done(String seed, String nonce, String whom, Instant now) {
        if (seed == null || nonce == null || nonce.length() > LONGEST_NONCE || seed.length() > 2 * (HEAD + MARK)) {
            return Optional.empty();
        }
        byte[] bytes;
        try {
            bytes = Base64.getUrlDecoder().decode(seed);
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
        // One way to write it, or one seed would count as often as it can be written.
        if (bytes.length != HEAD + MARK
                || !Base64.getUrlEncoder()
                        .withoutPadding()
                        .encodeToString(bytes)
                        .equals(seed)) {
            return Optional.empty();
        }
        var head = Arrays.copyOf(bytes, HEAD);
        if (!MessageDigest.isEqual(mark(head, whom), Arrays.copyOfRange(bytes, HEAD, bytes.length))) {
            return Optional.empty();
        }
        var until = Instant.ofEpochMilli(ByteBuffer.wrap(head).getLong());
        return now.isBefore(until) && zeroBits(sha256(seed + "." + nonce)) >= head[Long.BYTES]
                ? Optional.of(until)
                : Optional.empty();
    }

    private byte[] mark(byte[] head, String whom) {
        try {
            var mac = Mac.getInstance("HmacSHA256");
            mac.init(new SecretKeySpec(key, "HmacSHA256"));
            mac.update(head);
            return Arrays.copyOf(mac.doFinal(whom.getBytes(StandardCharsets.UTF_8)), MARK);
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("the JDK has no HMAC-SHA-256", e);
        }
    }

    private static byte[] sha256(String text) {
        try {
            return MessageDigest.getInstance("SHA-256").digest(text.getBytes(StandardCharsets.UTF_8));
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("the JDK has no SHA-256", e);
        }
    }

    private static int zeroBits(byte[] hash) {
        var zero = 0;
        for (var part : hash) {
            if (part != 0) {
                return zero + Integer.numberOfLeadingZeros(part & 0xff) - 24;
            }
            zero += 8;
        }
        return zero;
    }
}
