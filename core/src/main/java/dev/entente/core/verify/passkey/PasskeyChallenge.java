package dev.entente.core.verify.passkey;

import dev.entente.core.verify.Page;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.Base64;

/**
 * What an authenticator signs. The page computes it from its own key; the service only chooses the nonce. So an assertion made for one
 * attempt or one key is worthless with another, and a verifier sees when it was made and for which action.
 *
 * @param nonce 32 bytes that count once, base64url
 * @param page whose key it is made for, in which attempt, for what
 * @param at when, in milliseconds since 1970, by the clock of the device that the page is on
 */
public record PasskeyChallenge(String nonce, Page page, long at) {
    private static final String PURPOSE = "entente passkey v2";
    /** Of 32 bytes, base64url. */
    private static final int NONCE = 43;

    /** @throws IllegalArgumentException if the nonce has another length */
    public PasskeyChallenge {
        if (nonce.length() != NONCE) {
            throw new IllegalArgumentException("a nonce has 32 bytes");
        }
    }

    /** SHA-256 of the purpose and all parts, with a space between; none of them can hold one. */
    public byte[] bytes() {
        var text = String.join(" ", PURPOSE, nonce, page.key(), page.reference(), page.action(), String.valueOf(at));
        try {
            return MessageDigest.getInstance("SHA-256").digest(text.getBytes(StandardCharsets.UTF_8));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("the JDK has no SHA-256", e);
        }
    }

    /** As browsers are given it: base64url. */
    public String text() {
        return Base64.getUrlEncoder().withoutPadding().encodeToString(bytes());
    }
}
