package dev.entente.core.seal;

import com.fasterxml.jackson.annotation.JsonInclude;

/**
 * What a person's own credential signed in an attempt, as it was signed: whoever knows the credential can judge it again. It commits
 * to the attempt's key, and so is worth nothing with any other key's evidence.
 *
 * @param v format version, 1
 * @param method {@code passkey} or {@code push}
 * @param credential id of the credential, as {@link Credential#id}
 * @param nonce of a passkey: the 32 bytes that its challenge was made of beside the key, base64url; absent for a device
 * @param signed AuthenticationResponseJSON of a passkey; the signed answer of a device
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record Proof(int v, String method, String credential, String nonce, String signed) {
    private static final int LONGEST = 20_000;

    /** @throws InvalidDocument if a part is missing or too long */
    public Proof {
        if (v != 1
                || method == null
                || credential == null
                || signed == null
                || signed.length() > LONGEST
                || "passkey".equals(method) != (nonce != null)) {
            throw new InvalidDocument("format", "this proof has a format that is not known here");
        }
    }
}
