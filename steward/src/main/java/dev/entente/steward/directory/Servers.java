package dev.entente.steward.directory;

import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPConnectionOptions;
import com.unboundid.ldap.sdk.LDAPConnectionPool;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.LDAPURL;
import com.unboundid.ldap.sdk.ResultCode;
import com.unboundid.ldap.sdk.RootDSE;
import com.unboundid.ldap.sdk.ServerSet;
import com.unboundid.ldap.sdk.extensions.StartTLSExtendedRequest;
import com.unboundid.util.ssl.HostNameSSLSocketVerifier;
import com.unboundid.util.ssl.PEMFileKeyManager;
import com.unboundid.util.ssl.PEMFileTrustManager;
import com.unboundid.util.ssl.SSLUtil;
import com.unboundid.util.ssl.TrustAllSSLSocketVerifier;
import dev.entente.steward.settings.TargetPart;
import dev.entente.steward.settings.TargetPart.Authorities;
import dev.entente.steward.settings.TargetPart.CertificateAccount;
import dev.entente.steward.settings.TargetPart.Pin;
import java.security.GeneralSecurityException;
import java.security.KeyStoreException;
import java.security.cert.X509Certificate;
import java.time.Duration;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import javax.net.ssl.KeyManager;
import javax.net.ssl.SSLContext;
import javax.net.ssl.TrustManager;

/**
 * Protected connections to the servers of one directory, kept open between orders.
 *
 * <p>The first server in the order of preference that works is used. One that does not answer rests; a look at it every few
 * seconds brings the work back when it does. Every move is told to a listener. {@code ldaps} addresses are protected from
 * the first byte, {@code ldap} ones by StartTLS (RFC 4511 section 4.14) before anything is sent; there is no unprotected way.
 */
final class Servers implements AutoCloseable {
    private static final Duration LOOK_AGAIN = Duration.ofSeconds(5);
    private static final Duration OLDEST_CONNECTION = Duration.ofMinutes(10);
    private static final Duration READING = Duration.ofMinutes(1);
    private static final Duration RESTED = Duration.ofSeconds(3);

    private final TargetPart.Ldap settings;
    private final SignIn signIn;
    private final LdapTarget.Listener listener;
    private final Map<String, Server> servers = new LinkedHashMap<>();
    private final Map<String, RootDSE> capabilities = new ConcurrentHashMap<>();
    private volatile String current;
    private volatile boolean closed;

    private static final class Server {
        private final String url;
        private final LDAPConnectionPool working;
        private final LDAPConnectionPool judging;
        private volatile String resting;

        Server(String url, LDAPConnectionPool working, LDAPConnectionPool judging) {
            this.url = url;
            this.working = working;
            this.judging = judging;
        }
    }

    /** A connection that goes back to where it came from when closed, unless it was found broken. */
    public static final class Lent implements AutoCloseable {
        private final LDAPConnectionPool pool;
        private final LDAPConnection connection;
        private final String url;
        private final long patience;
        private boolean broken;

        private Lent(LDAPConnectionPool pool, LDAPConnection connection, String url) {
            this.pool = pool;
            this.connection = connection;
            this.url = url;
            this.patience = connection.getConnectionOptions().getResponseTimeoutMillis();
        }

        /** The connection. */
        public LDAPConnection connection() {
            return connection;
        }

        /** Address of its server, as in the file. */
        public String url() {
            return url;
        }

        /**
         * Waits longer for each answer while it is lent: a page of a large directory takes a server longer than one entry,
         * and nobody stands before a screen meanwhile.
         */
        Lent patient() {
            var options = connection.getConnectionOptions();
            options.setResponseTimeoutMillis(Math.max(patience, READING.toMillis()));
            return this;
        }

        /** It is not used again if this error made it unusable. */
        public void failed(LDAPException error) {
            broken |= !error.getResultCode().isConnectionUsable();
        }

        @Override
        public void close() {
            if (broken) {
                pool.releaseDefunctConnection(connection);
            } else {
                connection.getConnectionOptions().setResponseTimeoutMillis(patience);
                pool.releaseConnection(connection);
            }
        }
    }

    /** @param listener called by whichever thread notices */
    public Servers(TargetPart.Ldap settings, LdapTarget.Listener listener) {
        this.settings = settings;
        this.signIn = SignIn.of(settings);
        this.listener = listener;
        for (var url : settings.servers()) {
            servers.put(url, new Server(url, pool(url, true), pool(url, false)));
        }
        this.current = settings.servers().isEmpty() ? null : settings.servers().get(0);
        var looking = new Thread(this::lookAgain, "servers");
        looking.setDaemon(true);
        looking.start();
    }

    /** In the order of preference. */
    public List<String> urls() {
        return settings.servers();
    }

    /** Where the work is done now. */
    public String current() {
        return current;
    }

    /** Who this steward is to the directory, for people. */
    public String account() {
        return signIn.account();
    }

    /** Whether a server said that it takes this control. */
    public boolean offers(Lent lent, String control) throws LDAPException {
        var known = capabilities.get(lent.url());
        if (known == null) {
            known = lent.connection().getRootDSE();
            if (known == null) {
                return false;
            }
            capabilities.put(lent.url(), known);
        }
        return known.supportsControl(control);
    }

    /**
     * A connection as the service account to the first server that works.
     *
     * @throws LDAPException of the last one tried; at once if the service account is refused, so that tries on all servers
     *     do not lock it
     */
    public Lent lend() throws LDAPException {
        LDAPException last = null;
        var allRest = servers.values().stream().allMatch(s -> s.resting != null);
        for (var server : servers.values()) {
            if (server.resting != null && !allRest) {
                continue;
            }
            try {
                var lent = lend(server.working, server.url);
                server.resting = null;
                moveTo(server.url, last == null ? "it is preferred and answers again" : said(last));
                return lent;
            } catch (LDAPException e) {
                if (e.getResultCode().equals(ResultCode.INVALID_CREDENTIALS)) {
                    throw e;
                }
                server.resting = said(e);
                last = e;
            }
        }
        throw last == null ? new LDAPException(ResultCode.PARAM_ERROR, "no server is configured") : last;
    }

    /** A connection as the service account to one server, whatever is preferred. */
    public Lent lendFrom(String url) throws LDAPException {
        var server = server(url);
        return lend(server.working, url);
    }

    /** A connection as the service account that nobody used before, to see rights and passwords as they are now. */
    public Lent fresh(String url) throws LDAPException {
        var server = server(url);
        server.working.shrinkPool(0);
        return lendFrom(url);
    }

    /** A connection as nobody, to judge a password by a bind; it stays bound to whoever it judged until the next bind. */
    public Lent judge(String url) throws LDAPException {
        var server = server(url);
        return lend(server.judging, url);
    }

    /** One that rested may have been closed by the server meanwhile: it is tried before anybody relies on it. */
    private static Lent lend(LDAPConnectionPool pool, String url) throws LDAPException {
        var connection = pool.getConnection();
        if (System.currentTimeMillis() - connection.getLastCommunicationTime() > RESTED.toMillis()) {
            try {
                connection.getEntry("", "1.1");
            } catch (LDAPException e) {
                // Any answer shows that it is there; a new one tells whether the server is.
                if (!e.getResultCode().isConnectionUsable()) {
                    pool.releaseDefunctConnection(connection);
                    pool.shrinkPool(0);
                    connection = pool.getConnection();
                }
            }
        }
        return new Lent(pool, connection, url);
    }

    /** A server stopped answering in the middle: work moves away from it until it answers again. */
    public void suspect(String url, LDAPException error) {
        var server = servers.get(url);
        if (server != null && !error.getResultCode().isConnectionUsable()) {
            server.working.shrinkPool(0);
            server.judging.shrinkPool(0);
            server.resting = said(error);
        }
    }

    private Server server(String url) throws LDAPException {
        var server = servers.get(url);
        if (server == null) {
            throw new LDAPException(ResultCode.PARAM_ERROR, "this server is not in the steward's file");
        }
        return server;
    }

    private synchronized void moveTo(String url, String why) {
        if (!url.equals(current)) {
            var from = current;
            current = url;
            listener.moved(from, url, why);
        }
    }

    private void lookAgain() {
        while (!closed) {
            try {
                Thread.sleep(LOOK_AGAIN.toMillis());
            } catch (InterruptedException e) {
                return;
            }
            for (var server : servers.values()) {
                if (server.resting == null) {
                    continue;
                }
                try (var connection = connectTo(server.url)) {
                    connection.getRootDSE();
                    capabilities.remove(server.url);
                    server.resting = null;
                } catch (LDAPException e) {
                    server.resting = said(e);
                    if (e.getResultCode().equals(ResultCode.INVALID_CREDENTIALS)) {
                        // No more tries than needed: they count towards the service account's lockout.
                        break;
                    }
                }
            }
        }
    }

    private static String said(LDAPException e) {
        return e.getResultCode().intValue() + " " + e.getResultCode().getName();
    }

    private LDAPConnectionPool pool(String url, boolean signedIn) {
        try {
            var pool = new LDAPConnectionPool(new Source(url, signedIn), null, 0, settings.connections() + 1);
            pool.setMaxConnectionAgeMillis(OLDEST_CONNECTION.toMillis());
            pool.setRetryFailedOperationsDueToInvalidConnections(false);
            pool.setCreateIfNecessary(true);
            pool.setMaxWaitTimeMillis(settings.timeout().toMillis());
            return pool;
        } catch (LDAPException e) {
            throw new IllegalStateException("an empty pool needs no server", e);
        }
    }

    private final class Source extends ServerSet {
        private final String url;
        private final boolean signedIn;

        Source(String url, boolean signedIn) {
            this.url = url;
            this.signedIn = signedIn;
        }

        /** Signs in by itself: the pool could only repeat one fixed bind, not read a password anew. */
        @Override
        public LDAPConnection getConnection() throws LDAPException {
            return signedIn ? connectTo(url) : open(url);
        }
    }

    /** A new connection as the service account to one server; the caller closes it. */
    public LDAPConnection connectTo(String url) throws LDAPException {
        var connection = open(url);
        try {
            signIn.bind(connection);
            return connection;
        } catch (LDAPException e) {
            connection.close();
            throw e;
        }
    }

    /** A new protected connection as nobody; the caller closes it. */
    public LDAPConnection open(String url) throws LDAPException {
        var where = new LDAPURL(url);
        var options = new LDAPConnectionOptions();
        options.setConnectTimeoutMillis((int) Math.min(5000, settings.timeout().toMillis()));
        options.setResponseTimeoutMillis(settings.timeout().toMillis());
        // A pinned key says more than any name.
        options.setSSLSocketVerifier(
                settings.trust() instanceof Pin
                        ? TrustAllSSLSocketVerifier.getInstance()
                        : new HostNameSSLSocketVerifier(true));
        options.setFollowReferrals(false);
        options.setUseSchema(false);
        options.setAbandonOnTimeout(false);
        var context = context();
        if (where.getScheme().equals("ldaps")) {
            return new LDAPConnection(
                    new BoundedHandshake(context.getSocketFactory(), settings.timeout()),
                    options,
                    where.getHost(),
                    where.getPort());
        }
        var connection = new LDAPConnection(options, where.getHost(), where.getPort());
        try {
            var answer = connection.processExtendedOperation(new StartTLSExtendedRequest(context));
            if (!answer.getResultCode().equals(ResultCode.SUCCESS)) {
                throw new LDAPException(answer);
            }
            return connection;
        } catch (LDAPException e) {
            connection.close();
            throw e;
        }
    }

    private SSLContext context() throws LDAPException {
        try {
            KeyManager key = settings.account() instanceof CertificateAccount own
                    ? new PEMFileKeyManager(
                            own.certificate().toFile(), own.key().toFile())
                    : null;
            TrustManager trust = settings.trust() instanceof Pin pin
                    ? new PinnedKey(pin.key())
                    : new PEMFileTrustManager(
                            ((Authorities) settings.trust()).file().toFile());
            return new SSLUtil(key, trust).createSSLContext("TLSv1.3");
        } catch (KeyStoreException e) {
            throw new LDAPException(
                    ResultCode.LOCAL_ERROR,
                    "a certificate or key file of the steward's file cannot be read: " + e.getMessage(),
                    e);
        } catch (GeneralSecurityException e) {
            throw new LDAPException(ResultCode.LOCAL_ERROR, "TLS is not available", e);
        }
    }

    /** The certificate chain that a server shows, whether it is trusted or not. */
    public Optional<X509Certificate> shownCertificate(String url) throws LDAPException {
        return PinnedKey.look(new LDAPURL(url), settings.timeout());
    }

    @Override
    public void close() {
        closed = true;
        servers.values().forEach(server -> {
            server.working.close();
            server.judging.close();
        });
    }
}
