package dev.entente.service.notification;

import jakarta.mail.MessagingException;
import jakarta.mail.internet.MimeMessage;
import java.io.IOException;
import java.io.OutputStream;
import java.security.GeneralSecurityException;
import java.security.KeyFactory;
import java.security.KeyPairGenerator;
import java.security.interfaces.RSAPrivateCrtKey;
import java.security.spec.PKCS8EncodedKeySpec;
import java.security.spec.RSAPublicKeySpec;
import java.util.Base64;
import java.util.concurrent.atomic.AtomicBoolean;
import org.simplejavamail.utils.mail.dkim.Canonicalization;
import org.simplejavamail.utils.mail.dkim.DkimException;
import org.simplejavamail.utils.mail.dkim.DkimMessage;
import org.simplejavamail.utils.mail.dkim.DkimSigner;
import org.simplejavamail.utils.mail.dkim.SigningAlgorithm;

/** Signs mail for the sender's domain (DKIM, RFC 6376): {@code rsa-sha256}, both parts relaxed. */
final class MailSignature {
    /** What every receiver has to check (RFC 8301, section 3.2). */
    private static final int BITS = 2048;

    private final String domain;
    private final String selector;
    private final RSAPrivateCrtKey key;

    MailSignature(String domain, String selector, RSAPrivateCrtKey key) {
        this.domain = domain;
        this.selector = selector;
        this.key = key;
    }

    /** A new private key, PKCS #8 in Base64. */
    static String newKey() {
        try {
            var generator = KeyPairGenerator.getInstance("RSA");
            generator.initialize(BITS);
            return Base64.getEncoder()
                    .encodeToString(generator.generateKeyPair().getPrivate().getEncoded());
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    static RSAPrivateCrtKey key(String pkcs8) {
        try {
            return (RSAPrivateCrtKey) KeyFactory.getInstance("RSA")
                    .generatePrivate(new PKCS8EncodedKeySpec(Base64.getDecoder().decode(pkcs8)));
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    /** What the domain has to say of the key (RFC 6376, section 3.6.1). */
    static String record(RSAPrivateCrtKey key) {
        try {
            var open = KeyFactory.getInstance("RSA")
                    .generatePublic(new RSAPublicKeySpec(key.getModulus(), key.getPublicExponent()));
            return "v=DKIM1; k=rsa; p=" + Base64.getEncoder().encodeToString(open.getEncoded());
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    /**
     * The same message with its signature.
     *
     * @param given becomes true as soon as it was written whole
     */
    MimeMessage sign(MimeMessage message, AtomicBoolean given) throws MessagingException {
        try {
            // One for each message: a signer is no good for two at once.
            var signer = new DkimSigner(domain, selector, key);
            signer.setSigningAlgorithm(SigningAlgorithm.SHA256_WITH_RSA);
            signer.setHeaderCanonicalization(Canonicalization.RELAXED);
            signer.setBodyCanonicalization(Canonicalization.RELAXED);
            signer.setCheckDomainKey(false);
            return new DkimMessage(message, signer) {
                @Override
                public void writeTo(OutputStream out, String[] without) throws IOException, MessagingException {
                    super.writeTo(out, without);
                    given.set(true);
                }
            };
        } catch (DkimException e) {
            throw new MessagingException("the message could not be signed", e);
        }
    }
}
