package dev.entente.steward.directory;

import com.unboundid.ldap.sdk.EXTERNALBindRequest;
import com.unboundid.ldap.sdk.GSSAPIBindRequest;
import com.unboundid.ldap.sdk.GSSAPIBindRequestProperties;
import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.ResultCode;
import dev.entente.steward.settings.TargetPart;
import dev.entente.steward.settings.TargetPart.CertificateAccount;
import dev.entente.steward.settings.TargetPart.KerberosAccount;
import dev.entente.steward.settings.TargetPart.PasswordAccount;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import javax.security.auth.login.LoginException;
import org.ietf.jgss.GSSException;

/** How the steward signs in to its directory. */
sealed interface SignIn {
    void bind(LDAPConnection connection) throws LDAPException;

    /** The account, for people. */
    String account();

    static SignIn of(TargetPart.Ldap settings) {
        if (settings.account() instanceof KerberosAccount kerberos) {
            return new Ticket(kerberos);
        }
        return settings.account() instanceof PasswordAccount password
                ? new Password(password.name(), password.file(), password.nextFile())
                : new Certificate(((CertificateAccount) settings.account()).certificate());
    }

    /**
     * A distinguished name and a password. Files are read anew for each connection. While the account's password is being
     * changed, both the old and the next one may be named: whichever bound last is tried first, so that the change leaves no
     * gap and costs at most one wrong try.
     */
    final class Password implements SignIn {
        private final String name;
        private final Path file;
        private final Path nextFile;
        private volatile String boundLast;

        Password(String name, Path file, Path nextFile) {
            this.name = name;
            this.file = file;
            this.nextFile = nextFile;
        }

        @Override
        public void bind(LDAPConnection connection) throws LDAPException {
            var passwords = new ArrayList<String>();
            passwords.add(read(file));
            if (nextFile != null && Files.exists(nextFile)) {
                passwords.add(read(nextFile));
            }
            passwords.sort((a, b) -> Boolean.compare(b.equals(boundLast), a.equals(boundLast)));
            LDAPException refused = null;
            for (var password : passwords) {
                try {
                    connection.bind(name, password);
                    boundLast = password;
                    return;
                } catch (LDAPException e) {
                    refused = e;
                    if (!e.getResultCode().equals(ResultCode.INVALID_CREDENTIALS)) {
                        break;
                    }
                }
            }
            throw refused;
        }

        private static String read(Path file) throws LDAPException {
            try {
                return Files.readString(file).strip();
            } catch (IOException e) {
                throw new LDAPException(
                        ResultCode.LOCAL_ERROR, "the service account's password file cannot be read: " + file, e);
            }
        }

        @Override
        public String account() {
            return name;
        }
    }

    /** SASL EXTERNAL (RFC 4422 appendix A): the client certificate of the TLS connection says who it is. */
    record Certificate(Path file) implements SignIn {
        @Override
        public void bind(LDAPConnection connection) throws LDAPException {
            // With an empty authorisation identity: some servers wait for a second message where there is none.
            connection.bind(new EXTERNALBindRequest(""));
        }

        @Override
        public String account() {
            return "the certificate " + file.getFileName();
        }
    }

    /** SASL GSSAPI (RFC 4752) with a keytab, so that a machine or managed account can be used. */
    record Ticket(KerberosAccount settings) implements SignIn {
        @Override
        public void bind(LDAPConnection connection) throws LDAPException {
            var properties = new GSSAPIBindRequestProperties(settings.principal(), (String) null);
            properties.setUseKeyTab(true);
            properties.setKeyTabPath(settings.keytab().toString());
            properties.setRealm(settings.realm());
            properties.setKDCAddress(settings.kdc());
            properties.setRefreshKrb5Config(true);
            properties.setUseTicketCache(false);
            if (settings.server() != null) {
                properties.setSASLClientServerName(settings.server());
            }
            try {
                connection.bind(new GSSAPIBindRequest(properties));
            } catch (LDAPException e) {
                throw e.getCause() == null ? e : new LDAPException(ResultCode.AUTH_UNKNOWN, said(e), e);
            }
        }

        /** What Kerberos itself said stands below several layers that only say that it failed. */
        private static String said(Throwable e) {
            var deepest = e.getMessage();
            for (var cause = e.getCause(); cause != null; cause = cause.getCause()) {
                if (cause instanceof GSSException || cause instanceof LoginException) {
                    deepest = cause.getMessage();
                }
            }
            return deepest;
        }

        @Override
        public String account() {
            return settings.principal();
        }
    }
}
