package dev.entente.steward.directory;

import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.LDAPURL;
import com.unboundid.ldap.sdk.ResultCode;
import dev.entente.wire.AdminApi.Finding;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.Socket;
import java.net.UnknownHostException;
import java.util.ArrayList;
import java.util.List;

/** Looks at every server, and at what the service account may do; tells all findings, not only the first. */
public final class Preflight {
    private final Servers servers;
    private final DirectoryAdapter adapter;
    private final String base;
    private final String serviceAccount;
    private final String probe;

    /** @param probe a dedicated account to try rights on, or null */
    public Preflight(Servers servers, DirectoryAdapter adapter, String base, String serviceAccount, String probe) {
        this.servers = servers;
        this.adapter = adapter;
        this.base = base;
        this.serviceAccount = serviceAccount;
        this.probe = probe;
    }

    /** Runs everything. */
    public List<Finding> run() {
        var findings = new ArrayList<Finding>();
        var examined = false;
        for (var url : servers.urls()) {
            if (!reachable(url, findings)) {
                continue;
            }
            try (var connection = servers.connectTo(url)) {
                findings.add(new Finding(
                        "ok",
                        "bind",
                        "The certificate is trusted and the service account signs in.",
                        url + " as " + serviceAccount,
                        ""));
                if (!examined) {
                    examined = true;
                    findings.addAll(examine(connection));
                }
            } catch (LDAPException e) {
                findings.add(connecting(url, e));
            }
        }
        return findings;
    }

    private List<Finding> examine(LDAPConnection connection) {
        try {
            if (connection.getEntry(base, "1.1") == null) {
                return List.of(new Finding(
                        "error",
                        "base",
                        "The base does not exist, or the service account may not read it.",
                        base,
                        "Correct directory.base in the steward's file, or grant read access."));
            }
            return adapter.examine(connection, base, serviceAccount, probe);
        } catch (LDAPException e) {
            return List.of(new Finding(
                    "error",
                    "reading",
                    "The directory answered a question of preflight with an error.",
                    e.getResultCode().intValue() + " " + LdapText.bounded(e.getDiagnosticMessage()),
                    "Look at the directory's own log for this moment."));
        }
    }

    private static boolean reachable(String url, List<Finding> findings) {
        try {
            var where = new LDAPURL(url);
            var address = InetAddress.getByName(where.getHost());
            try (var socket = new Socket()) {
                socket.connect(new InetSocketAddress(address, where.getPort()), 4000);
            }
            findings.add(new Finding(
                    "ok", "reachable", "The server can be reached.", url + " at " + address.getHostAddress(), ""));
            return true;
        } catch (UnknownHostException e) {
            findings.add(new Finding(
                    "error",
                    "name",
                    "The server's name is not known here.",
                    url,
                    "Correct the name, or let this machine use the directory's name service."));
        } catch (IOException e) {
            findings.add(new Finding(
                    "error",
                    "reachable",
                    "The server cannot be reached.",
                    url + ": " + LdapText.bounded(e.getMessage()),
                    "Check that it runs and that a firewall lets this machine reach the port."));
        } catch (LDAPException e) {
            findings.add(new Finding(
                    "error", "address", "This is not an LDAP address.", url, "Write it as ldaps://host:port."));
        }
        return false;
    }

    private static Finding connecting(String url, LDAPException e) {
        var evidence = url + ": " + LdapText.bounded(e.getMessage());
        if (e.getResultCode().equals(ResultCode.INVALID_CREDENTIALS)) {
            return new Finding(
                    "error",
                    "bind",
                    "The service account cannot sign in: name or password is wrong, or it is locked or disabled.",
                    url + ": " + LdapText.bounded(e.getDiagnosticMessage()),
                    "Check directory.bind and the password file of the steward.");
        }
        if (String.valueOf(e.getMessage()).contains("SSL")
                || String.valueOf(e.getMessage()).contains("certificate")
                || String.valueOf(e.getMessage()).contains("trust")) {
            return new Finding(
                    "error",
                    "certificate",
                    "The server's certificate is not trusted, or is for another name.",
                    evidence,
                    "Give the CA certificate that signed it as directory.ca, and use the name in the certificate.");
        }
        return new Finding(
                "error", "connect", "No protected connection could be made.", evidence, "Look at the server's log.");
    }
}
