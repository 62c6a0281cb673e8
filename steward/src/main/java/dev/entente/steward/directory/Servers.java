package dev.entente.steward.directory;

import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPConnectionOptions;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.LDAPURL;
import com.unboundid.ldap.sdk.ResultCode;
import com.unboundid.util.ssl.HostNameSSLSocketVerifier;
import com.unboundid.util.ssl.PEMFileTrustManager;
import com.unboundid.util.ssl.SSLUtil;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.GeneralSecurityException;
import java.security.KeyStoreException;
import java.time.Duration;
import java.util.List;
import javax.net.ssl.SSLSocketFactory;

/** Protected connections to the servers of one directory, the first that answers in the order of preference. */
public final class Servers {
    private final List<String> urls;
    private final Path ca;
    private final String bind;
    private final Path passwordFile;
    private final Duration timeout;

    /** @param passwordFile read anew for each connection, so that a changed password needs no restart */
    public Servers(List<String> urls, Path ca, String bind, Path passwordFile, Duration timeout) {
        this.urls = List.copyOf(urls);
        this.ca = ca;
        this.bind = bind;
        this.passwordFile = passwordFile;
        this.timeout = timeout;
    }

    /** How long a server may take to answer. */
    public Duration timeout() {
        return timeout;
    }

    /** In the order of preference. */
    public List<String> urls() {
        return urls;
    }

    /** A connection as the service account, to the first server that answers. */
    public LDAPConnection connect() throws LDAPException {
        LDAPException last = null;
        for (var url : urls) {
            try {
                return connectTo(url);
            } catch (LDAPException e) {
                if (e.getResultCode().equals(ResultCode.INVALID_CREDENTIALS)) {
                    throw e;
                }
                last = e;
            }
        }
        throw last == null ? new LDAPException(ResultCode.PARAM_ERROR, "no server is configured") : last;
    }

    /** A connection as the service account to one server. */
    public LDAPConnection connectTo(String url) throws LDAPException {
        var connection = open(url);
        try {
            connection.bind(bind, Files.readString(passwordFile).strip());
            return connection;
        } catch (IOException e) {
            connection.close();
            throw new LDAPException(
                    ResultCode.LOCAL_ERROR, "the service account's password file cannot be read: " + passwordFile, e);
        } catch (LDAPException e) {
            connection.close();
            throw e;
        }
    }

    /** A connection as nobody, to judge a password by a bind. */
    public LDAPConnection open(String url) throws LDAPException {
        var where = new LDAPURL(url);
        var options = new LDAPConnectionOptions();
        options.setConnectTimeoutMillis((int) Math.min(5000, timeout.toMillis()));
        options.setResponseTimeoutMillis(timeout.toMillis());
        options.setSSLSocketVerifier(new HostNameSSLSocketVerifier(true));
        options.setFollowReferrals(false);
        options.setUseSchema(false);
        return new LDAPConnection(factory(), options, where.getHost(), where.getPort());
    }

    private SSLSocketFactory factory() throws LDAPException {
        try {
            return new SSLUtil(new PEMFileTrustManager(ca.toFile())).createSSLSocketFactory("TLSv1.3");
        } catch (KeyStoreException e) {
            throw new LDAPException(ResultCode.LOCAL_ERROR, "the directory's CA certificate cannot be read: " + ca, e);
        } catch (GeneralSecurityException e) {
            throw new LDAPException(ResultCode.LOCAL_ERROR, "TLS is not available", e);
        }
    }
}
