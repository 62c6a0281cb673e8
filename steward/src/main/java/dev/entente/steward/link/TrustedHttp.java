package dev.entente.steward.link;

import java.io.IOException;
import java.io.InputStream;
import java.net.ProxySelector;
import java.net.http.HttpClient;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.GeneralSecurityException;
import java.security.KeyStore;
import java.security.cert.CertificateFactory;
import java.time.Duration;
import javax.net.ssl.SSLContext;
import javax.net.ssl.TrustManagerFactory;

/** Dials out over HTTP: through the proxy of the Java runtime, trusting the system's authorities or one that a file names. */
public final class TrustedHttp {
    static {
        // Proxies and firewalls close idle connections, or forget them. A call that meets one of these can't simply be
        // repeated, since it may have changed something. Java would keep connections for twenty minutes.
        var kept = "jdk.httpclient.keepalive.timeout";
        if (System.getProperty(kept) == null) {
            System.setProperty(kept, "10");
        }
    }

    private TrustedHttp() {}

    /**
     * @param ca certificate authorities in PEM form, or null for the system's
     * @throws IOException if they cannot be used
     */
    public static HttpClient client(Path ca) throws IOException {
        var builder = HttpClient.newBuilder()
                .version(HttpClient.Version.HTTP_1_1)
                .proxy(ProxySelector.getDefault())
                .connectTimeout(Duration.ofSeconds(5));
        if (ca != null) {
            builder.sslContext(trusting(ca));
        }
        return builder.build();
    }

    private static SSLContext trusting(Path ca) throws IOException {
        try (InputStream pem = Files.newInputStream(ca)) {
            var store = KeyStore.getInstance(KeyStore.getDefaultType());
            store.load(null);
            var number = 0;
            for (var certificate : CertificateFactory.getInstance("X.509").generateCertificates(pem)) {
                store.setCertificateEntry("ca" + number++, certificate);
            }
            var trust = TrustManagerFactory.getInstance(TrustManagerFactory.getDefaultAlgorithm());
            trust.init(store);
            var context = SSLContext.getInstance("TLS");
            context.init(null, trust.getTrustManagers(), null);
            return context;
        } catch (GeneralSecurityException e) {
            throw new IOException(
                    "the CA certificates in " + ca + " can't be used; check that it holds PEM certificates: "
                            + e.getMessage(),
                    e);
        }
    }
}
