package dev.entente.steward.directory;

import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPConnectionOptions;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.LDAPURL;
import com.unboundid.ldap.sdk.ResultCode;
import com.unboundid.ldap.sdk.extensions.StartTLSExtendedRequest;
import com.unboundid.util.ssl.SSLUtil;
import com.unboundid.util.ssl.TrustAllSSLSocketVerifier;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.cert.CertificateException;
import java.security.cert.X509Certificate;
import java.time.Duration;
import java.util.Base64;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicReference;
import javax.net.ssl.X509TrustManager;

/**
 * Trusts one key and nothing else: SHA-256 of the SubjectPublicKeyInfo of the server's own certificate, base64 (the form of
 * RFC 7469 section 2.4). A renewed certificate with the same key stays trusted.
 */
final class PinnedKey implements X509TrustManager {
    private final String pin;

    PinnedKey(String pin) {
        this.pin = pin;
    }

    static String of(X509Certificate certificate) {
        try {
            return Base64.getEncoder()
                    .encodeToString(MessageDigest.getInstance("SHA-256")
                            .digest(certificate.getPublicKey().getEncoded()));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("SHA-256 is part of every Java", e);
        }
    }

    @Override
    public void checkServerTrusted(X509Certificate[] chain, String type) throws CertificateException {
        if (chain.length == 0
                || !MessageDigest.isEqual(
                        of(chain[0]).getBytes(StandardCharsets.US_ASCII), pin.getBytes(StandardCharsets.US_ASCII))) {
            throw new CertificateException("the server's key is not the pinned one");
        }
    }

    @Override
    public void checkClientTrusted(X509Certificate[] chain, String type) throws CertificateException {
        throw new CertificateException("nobody connects to a steward");
    }

    @Override
    public X509Certificate[] getAcceptedIssuers() {
        return new X509Certificate[0];
    }

    /** Shakes hands without trusting anything, to see what is shown; nothing is sent over such a connection. */
    static Optional<X509Certificate> look(LDAPURL where, Duration timeout) throws LDAPException {
        var seen = new AtomicReference<X509Certificate>();
        var looking = new X509TrustManager() {
            @Override
            public void checkServerTrusted(X509Certificate[] chain, String type) {
                seen.set(chain[0]);
            }

            @Override
            public void checkClientTrusted(X509Certificate[] chain, String type) throws CertificateException {
                throw new CertificateException("nobody connects to a steward");
            }

            @Override
            public X509Certificate[] getAcceptedIssuers() {
                return new X509Certificate[0];
            }
        };
        var options = new LDAPConnectionOptions();
        options.setConnectTimeoutMillis((int) Math.min(5000, timeout.toMillis()));
        options.setResponseTimeoutMillis(timeout.toMillis());
        options.setSSLSocketVerifier(TrustAllSSLSocketVerifier.getInstance());
        try {
            var context = new SSLUtil(looking).createSSLContext();
            if (where.getScheme().equals("ldaps")) {
                new LDAPConnection(context.getSocketFactory(), options, where.getHost(), where.getPort()).close();
            } else {
                try (var connection = new LDAPConnection(options, where.getHost(), where.getPort())) {
                    connection.processExtendedOperation(new StartTLSExtendedRequest(context));
                }
            }
        } catch (GeneralSecurityException e) {
            throw new LDAPException(ResultCode.LOCAL_ERROR, "TLS is not available", e);
        }
        return Optional.ofNullable(seen.get());
    }
}
