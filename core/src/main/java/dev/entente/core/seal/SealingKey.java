package dev.entente.core.seal;

import java.time.Duration;
import java.time.Instant;
import java.util.UUID;

/**
 * A short-lived public key to seal passwords to, signed by the identity key of the steward that holds its private half.
 *
 * @param v format version, 1
 * @param steward whose key it is
 * @param directory the one directory it serves
 * @param key to encrypt to, ECDH-ES on P-256
 * @param notBefore milliseconds since 1970
 * @param notAfter milliseconds since 1970, at most 24 hours after {@code notBefore}
 */
public record SealingKey(int v, UUID steward, UUID directory, EcKey key, long notBefore, long notAfter) {
    /** No sealing key lives longer, so that an old backup opens nothing. */
    public static final Duration MAX_LIFE = Duration.ofHours(24);

    private static final String TYP = "entente-sealing-key+jwt";

    /** @throws InvalidDocument if it claims to live longer than {@link #MAX_LIFE} */
    public SealingKey {
        if (v != 1 || notAfter <= notBefore || notAfter - notBefore > MAX_LIFE.toMillis()) {
            throw new InvalidDocument("format", "a sealing key lives at most 24 hours");
        }
    }

    /** The signed text. */
    public String sign(SigningKey identityKey) {
        return Jws.sign(identityKey, TYP, this);
    }

    /**
     * Reads a signed statement.
     *
     * @throws InvalidDocument if another steward signed it, or it is not in force at {@code now}
     */
    public static SealingKey verify(String signed, Roster.Member steward, UUID directory, Instant now) {
        var statement = Jws.verify(signed, steward.key(), TYP, SealingKey.class);
        if (!statement.steward.equals(steward.id()) || !statement.directory.equals(directory)) {
            throw new InvalidDocument("sealing-key", "the sealing key is of another steward or directory");
        }
        if (now.toEpochMilli() < statement.notBefore - Duration.ofMinutes(5).toMillis()
                || now.toEpochMilli() >= statement.notAfter) {
            throw new InvalidDocument("expired", "the sealing key is not in force");
        }
        return statement;
    }
}
