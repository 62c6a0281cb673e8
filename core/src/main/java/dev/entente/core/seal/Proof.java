package dev.entente.core.seal;

import com.fasterxml.jackson.annotation.JsonInclude;

/**
 * What a person's own credential signed in an attempt, unchanged: a steward that knows the credential can verify it again. It commits
 * to the attempt's key, and so is worth nothing with any other key's evidence; and to when it was made, so that it has an age.
 *
 * @param v format version: 2, or 1 from older pages, which has no time and is no longer accepted
 * @param method {@code passkey}; {@code push} in version 1
 * @param credential id of the credential, as {@link Credential#id}
 * @param nonce of a passkey: the 32 bytes that its challenge was made of beside the rest, base64url; absent for a device
 * @param signed AuthenticationResponseJSON of a passkey; the signed answer of a device
 * @param at when the page made the challenge, in milliseconds since 1970 by its own clock; absent in version 1
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record Proof(int v, String method, String credential, String nonce, String signed, Long at) {
    private static final int LONGEST = 20_000;

    /** @throws InvalidDocument if a part is missing or too long */
    public Proof {
        if (v != 1 && v != 2
                || method == null
                || credential == null
                || signed == null
                || signed.length() > LONGEST
                || v == 2 && !"passkey".equals(method)
                || v == 2 != (at != null)
                || "passkey".equals(method) != (nonce != null)) {
            throw new InvalidDocument("format", "this proof has a format that is not known here");
        }
    }

    /** What a passkey signed. */
    public static Proof passkey(String credential, String nonce, long at, String signed) {
        return new Proof(2, "passkey", credential, nonce, signed, at);
    }
}
