package dev.entente.core.seal;

import com.fasterxml.jackson.annotation.JsonInclude;

/**
 * A credential by which a steward recognises somebody by itself: the public half of a passkey, or of a registered device's key.
 *
 * @param v format version, 1
 * @param method {@code passkey} or {@code push}
 * @param id of a passkey as its authenticator calls it, base64url; of a device its UUID
 * @param data of a passkey: attested credential data (WebAuthn level 2, section 6.5.2), base64url; absent for a device
 * @param origin of a passkey: the origin of the pages that it is used on (RFC 6454); absent for a device
 * @param relyingParty of a passkey: a host (section 5.1.2); absent for a device
 * @param synced of a passkey: whether it may be on more than one device (section 6.1.3); absent for a device
 * @param key of a device: its public key; absent for a passkey
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record Credential(
        int v,
        String method,
        String id,
        @OrNull String data,
        @OrNull String origin,
        @OrNull String relyingParty,
        @OrNull Boolean synced,
        @OrNull EcKey key) {
    /** The longest of its texts, in characters. */
    private static final int LONGEST = 4096;

    private static final String PASSKEY = "passkey";
    private static final String PUSH = "push";

    /** @throws InvalidDocument if a part is missing or too long */
    public Credential {
        if (v != 1 || id == null || id.isEmpty() || id.length() > LONGEST) {
            throw new InvalidDocument("format", "this credential has a format that is not known here");
        }
        var whole = PASSKEY.equals(method)
                ? data != null && origin != null && relyingParty != null && synced != null && key == null
                : PUSH.equals(method)
                        && data == null
                        && origin == null
                        && relyingParty == null
                        && synced == null
                        && key != null;
        if (!whole || data != null && data.length() + origin.length() + relyingParty.length() > LONGEST) {
            throw new InvalidDocument("format", "this credential lacks a part, or has one too many");
        }
    }

    /** A passkey. */
    public static Credential passkey(String id, String data, String origin, String relyingParty, boolean synced) {
        return new Credential(1, PASSKEY, id, data, origin, relyingParty, synced, null);
    }

    /** A registered device. */
    public static Credential device(String id, EcKey key) {
        return new Credential(1, PUSH, id, null, null, null, null, key);
    }

    /** What people compare: SHA-256 of all its parts, base64url. */
    public String thumbprint() {
        return EcKey.digest(method + " " + id + " "
                + (key == null ? data + " " + origin + " " + relyingParty + " " + synced : key.thumbprint()));
    }
}
