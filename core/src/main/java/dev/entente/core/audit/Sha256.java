package dev.entente.core.audit;

import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;

/** SHA-256 of many short things, with one digest for each thread. */
final class Sha256 {
    private static final ThreadLocal<MessageDigest> DIGEST = ThreadLocal.withInitial(() -> {
        try {
            return MessageDigest.getInstance("SHA-256");
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("the JDK has no SHA-256", e);
        }
    });

    private Sha256() {}

    /** Of these, one after the other. 32 bytes. */
    static byte[] of(byte[]... parts) {
        var digest = DIGEST.get();
        // What was left behind by a call that ended early is no part of this one.
        digest.reset();
        for (var part : parts) {
            digest.update(part);
        }
        return digest.digest();
    }
}
