package dev.entente.e2e;

import dev.entente.core.seal.Credential;
import dev.entente.core.seal.Proof;
import dev.entente.core.verify.Page;
import dev.entente.core.verify.passkey.PasskeyChallenge;
import dev.entente.wire.PortalApi;
import java.io.ByteArrayOutputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.math.BigInteger;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.KeyPair;
import java.security.KeyPairGenerator;
import java.security.MessageDigest;
import java.security.PrivateKey;
import java.security.SecureRandom;
import java.security.Signature;
import java.security.interfaces.ECPublicKey;
import java.security.spec.ECGenParameterSpec;
import java.util.Arrays;
import java.util.Base64;
import java.util.Map;
import tools.jackson.databind.json.JsonMapper;

/**
 * An authenticator in software, written from WebAuthn level 2 (sections 6.1, 6.5 and 7) and COSE (RFC 9053) without the library that
 * the service uses. It can be told to lie.
 */
final class SoftPasskey {
    private static final Base64.Encoder TEXT = Base64.getUrlEncoder().withoutPadding();
    private static final int PRESENT = 1;
    private static final int VERIFIED = 4;
    private static final int ATTESTED = 64;

    private final byte[] id = new byte[16];
    private final KeyPair pair;
    private String handle = "aGFuZGxl";
    String origin;
    String relyingParty = "localhost";
    long counter;
    /** Which authenticator it says that it is (AAGUID), 16 bytes. */
    byte[] model = new byte[16];

    /** Vouches for it when it registers; null if nobody does. */
    Maker maker;

    /** Who made it: a key, and the certificate for it (DER). */
    record Maker(PrivateKey key, byte[] certificate) {}

    boolean verifiesUser = true;

    SoftPasskey(String origin) throws GeneralSecurityException {
        this.origin = origin;
        new SecureRandom().nextBytes(id);
        var generator = KeyPairGenerator.getInstance("EC");
        generator.initialize(new ECGenParameterSpec("secp256r1"));
        pair = generator.generateKeyPair();
    }

    /** @param verifiesUser whether it says that its user unlocked it */
    SoftPasskey(String origin, boolean verifiesUser) throws GeneralSecurityException {
        this(origin);
        this.verifiesUser = verifiesUser;
    }

    /** As it calls itself (base64url). */
    String id() {
        return TEXT.encodeToString(id);
    }

    /** RegistrationResponseJSON for what was offered. */
    PortalApi.Answer register(PortalApi.OfferedEnrolment offered) throws IOException, GeneralSecurityException {
        handle = offered.parts().get("user");
        var client = client("webauthn.create", offered.parts().get("challenge"));
        var object = new ByteArrayOutputStream();
        var data = authenticator(true);
        // {"fmt": "none", "attStmt": {}, "authData": …} in CBOR (RFC 8949).
        object.write(0xa3);
        text(object, "fmt");
        text(object, maker == null ? "none" : "packed");
        text(object, "attStmt");
        if (maker == null) {
            object.write(0xa0);
        } else {
            // {"alg": -7, "sig": …, "x5c": [certificate]} (section 8.2)
            object.write(0xa3);
            text(object, "alg");
            object.write(0x26);
            text(object, "sig");
            bytes(object, signature(maker.key(), data, client));
            text(object, "x5c");
            object.write(0x81);
            bytes(object, maker.certificate());
        }
        text(object, "authData");
        bytes(object, data);
        return answer(Map.of(
                "clientDataJSON",
                TEXT.encodeToString(client),
                "attestationObject",
                TEXT.encodeToString(object.toByteArray())));
    }

    /** Its public half, as stewards keep it. */
    Credential credential() throws IOException, GeneralSecurityException {
        var data = authenticator(true);
        return Credential.passkey(
                TEXT.encodeToString(id),
                TEXT.encodeToString(Arrays.copyOfRange(data, 37, data.length)),
                origin,
                relyingParty,
                false);
    }

    /** What it signs for a page now, as it travels with an order. */
    Proof proof(Page page) throws IOException, GeneralSecurityException {
        return proof(page, System.currentTimeMillis());
    }

    /** The same at another time. */
    Proof proof(Page page, long at) throws IOException, GeneralSecurityException {
        var nonce = new byte[32];
        new SecureRandom().nextBytes(nonce);
        var challenge = new PasskeyChallenge(TEXT.encodeToString(nonce), page, at);
        return Proof.passkey(
                TEXT.encodeToString(id),
                challenge.nonce(),
                at,
                sign(challenge).parts().get("credential"));
    }

    /** What it answers to a challenge: AuthenticationResponseJSON, and when the page made that. */
    PortalApi.Answer sign(PasskeyChallenge challenge) throws IOException, GeneralSecurityException {
        counter++;
        var client = client("webauthn.get", challenge.text());
        var data = authenticator(false);
        var answer = answer(Map.of(
                "clientDataJSON",
                TEXT.encodeToString(client),
                "authenticatorData",
                TEXT.encodeToString(data),
                "signature",
                TEXT.encodeToString(signature(pair.getPrivate(), data, client)),
                "userHandle",
                handle));
        return new PortalApi.Answer(
                null, Map.of("credential", answer.parts().get("credential"), "at", String.valueOf(challenge.at())));
    }

    private static byte[] signature(PrivateKey key, byte[] data, byte[] client) throws GeneralSecurityException {
        var signature = Signature.getInstance("SHA256withECDSA");
        signature.initSign(key);
        signature.update(data);
        signature.update(sha256(client));
        return signature.sign();
    }

    private PortalApi.Answer answer(Map<String, String> response) {
        var text = TEXT.encodeToString(id);
        return new PortalApi.Answer(
                null,
                Map.of(
                        "credential",
                        JsonMapper.shared()
                                .writeValueAsString(Map.of(
                                        "id",
                                        text,
                                        "rawId",
                                        text,
                                        "type",
                                        "public-key",
                                        "clientExtensionResults",
                                        Map.of(),
                                        "response",
                                        response))));
    }

    private byte[] client(String type, String challenge) {
        return JsonMapper.shared()
                .writeValueAsString(
                        Map.of("type", type, "challenge", challenge, "origin", origin, "crossOrigin", false))
                .getBytes(StandardCharsets.UTF_8);
    }

    private byte[] authenticator(boolean attested) throws IOException, GeneralSecurityException {
        var out = new ByteArrayOutputStream();
        var data = new DataOutputStream(out);
        data.write(sha256(relyingParty.getBytes(StandardCharsets.UTF_8)));
        data.write(PRESENT | (verifiesUser ? VERIFIED : 0) | (attested ? ATTESTED : 0));
        data.writeInt((int) counter);
        if (attested) {
            data.write(model);
            data.writeShort(id.length);
            data.write(id);
            var point = ((ECPublicKey) pair.getPublic()).getW();
            // {1: 2 (EC2), 3: -7 (ES256), -1: 1 (P-256), -2: x, -3: y}
            out.write(new byte[] {(byte) 0xa5, 1, 2, 3, 0x26, 0x20, 1, 0x21});
            bytes(out, coordinate(point.getAffineX()));
            out.write(0x22);
            bytes(out, coordinate(point.getAffineY()));
        }
        return out.toByteArray();
    }

    private static byte[] coordinate(BigInteger number) {
        var bytes = number.toByteArray();
        var out = new byte[32];
        var from = Math.max(0, bytes.length - 32);
        System.arraycopy(bytes, from, out, 32 - (bytes.length - from), bytes.length - from);
        return out;
    }

    private static void text(ByteArrayOutputStream out, String text) throws IOException {
        out.write(0x60 + text.length());
        out.write(text.getBytes(StandardCharsets.US_ASCII));
    }

    private static void bytes(ByteArrayOutputStream out, byte[] bytes) throws IOException {
        if (bytes.length > 255) {
            out.write(new byte[] {0x59, (byte) (bytes.length >> 8)});
        } else {
            out.write(0x58);
        }
        out.write(bytes.length & 0xff);
        out.write(bytes);
    }

    private static byte[] sha256(byte[] bytes) throws GeneralSecurityException {
        return MessageDigest.getInstance("SHA-256").digest(bytes);
    }

    @Override
    public String toString() {
        return "passkey " + Arrays.toString(id);
    }
}
