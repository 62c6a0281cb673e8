package dev.entente.service.outlet;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.KeyStore;
import java.security.cert.CertificateFactory;
import javax.net.ssl.SSLContext;
import javax.net.ssl.TrustManagerFactory;

/** Whose certificates an outlet believes. */
final class Tls {
    private Tls() {}

    /**
     * @param authority PEM of the authorities to believe; null for those of the system
     * @throws IllegalArgumentException if it holds no certificate
     */
    static SSLContext trusting(String authority) {
        try {
            var context = SSLContext.getInstance("TLS");
            context.init(null, authority == null ? null : believing(authority).getTrustManagers(), null);
            return context;
        } catch (GeneralSecurityException | IOException e) {
            throw new IllegalArgumentException("no certificate can be read", e);
        }
    }

    private static TrustManagerFactory believing(String authority) throws GeneralSecurityException, IOException {
        var store = KeyStore.getInstance(KeyStore.getDefaultType());
        store.load(null, null);
        var number = 0;
        for (var certificate : CertificateFactory.getInstance("X.509")
                .generateCertificates(new ByteArrayInputStream(authority.getBytes(StandardCharsets.US_ASCII)))) {
            store.setCertificateEntry("authority " + number++, certificate);
        }
        if (number == 0) {
            throw new IllegalArgumentException("no certificate is there");
        }
        var factory = TrustManagerFactory.getInstance(TrustManagerFactory.getDefaultAlgorithm());
        factory.init(store);
        return factory;
    }
}
