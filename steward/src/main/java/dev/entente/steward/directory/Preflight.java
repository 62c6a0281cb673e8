package dev.entente.steward.directory;

import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.LDAPURL;
import com.unboundid.ldap.sdk.ResultCode;
import dev.entente.steward.settings.StewardFile.Guard;
import dev.entente.steward.settings.TargetPart;
import dev.entente.wire.DirectoryApi.Finding;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.Socket;
import java.net.UnknownHostException;
import java.security.cert.CertificateParsingException;
import java.security.cert.X509Certificate;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/** Looks at every server, and at what the service account may do; tells all findings, not only the first. */
final class Preflight {
    private static final int SOON_DAYS = 30;

    private final Servers servers;
    private final DirectoryAdapter adapter;
    private final TargetPart.Ldap part;
    private final Guard guard;

    /** @param part what the steward's file says about the directory */
    Preflight(Servers servers, DirectoryAdapter adapter, TargetPart.Ldap part, Guard guard) {
        this.guard = guard;
        this.servers = servers;
        this.adapter = adapter;
        this.part = part;
    }

    /** Runs everything, over connections that are made anew, so that new rights and passwords count. */
    List<Finding> run(boolean mailNeeded) {
        var findings = new ArrayList<Finding>();
        var examined = false;
        for (var url : servers.urls()) {
            if (!reachable(url, findings)) {
                continue;
            }
            certificate(url, findings);
            try (var connection = servers.connectTo(url)) {
                findings.add(LdapText.ok("bind", "The service account signs in.", url + " as " + servers.account()));
                if (!examined) {
                    examined = true;
                    connection.close();
                    findings.addAll(examine(url, mailNeeded));
                }
            } catch (LDAPException e) {
                findings.add(connecting(url, e));
            }
        }
        if (servers.urls().size() == 1) {
            findings.add(new Finding(
                    "info",
                    "one-server",
                    "Only one server is listed. If it's down, nobody can recover.",
                    servers.urls().get(0),
                    "List a second one under directory.servers in the steward's file."));
        }
        return findings;
    }

    private List<Finding> examine(String url, boolean mailNeeded) {
        try (var lent = servers.fresh(url)) {
            if (lent.connection().getEntry(part.base(), "1.1") == null) {
                return List.of(new Finding(
                        "error",
                        "base",
                        "The base doesn't exist, or the service account isn't allowed to read it.",
                        part.base(),
                        "Correct directory.base in the steward's file, or grant read access."));
            }
            var findings = new ArrayList<Finding>();
            var unresolved = RailsLookedUp.of(part, guard, lent.connection());
            unresolved.forEach(rail -> findings.add(new Finding(
                    "error",
                    "guard-rails",
                    "A guard rail in the steward's file can't be resolved, so the steward won't start with it.",
                    rail,
                    "Correct it in the steward's file.")));
            if (unresolved.isEmpty()) {
                findings.add(LdapText.ok(
                        "guard-rails",
                        "Everything named in the guard rails exists.",
                        guard.bases().size() + " bases, "
                                + guard.protectedGroups().size() + " protected groups, "
                                + guard.protectedAccounts().size() + " protected accounts"));
            }
            findings.addAll(adapter.examine(lent.patient(), guard, servers.account(), mailNeeded));
            return findings;
        } catch (LDAPException e) {
            return List.of(new Finding(
                    "error",
                    "reading",
                    "The directory answered preflight with an error.",
                    e.getResultCode().intValue() + " " + LdapText.bounded(e.getDiagnosticMessage()),
                    "Check the directory's own log for this time."));
        }
    }

    private static boolean reachable(String url, List<Finding> findings) {
        try {
            var where = new LDAPURL(url);
            var address = InetAddress.getByName(where.getHost());
            try (var socket = new Socket()) {
                socket.connect(new InetSocketAddress(address, where.getPort()), 4000);
            }
            findings.add(
                    LdapText.ok("reachable", "The server can be reached.", url + " at " + address.getHostAddress()));
            return true;
        } catch (UnknownHostException e) {
            findings.add(new Finding(
                    "error",
                    "name",
                    "The server's name can't be resolved.",
                    url,
                    "Correct the name, or have this machine use the directory's name service."));
        } catch (IOException e) {
            findings.add(new Finding(
                    "error",
                    "reachable",
                    "The server can't be reached.",
                    url + ": " + LdapText.bounded(e.getMessage()),
                    "Check that it's running and that no firewall blocks the port from this machine."));
        } catch (LDAPException e) {
            findings.add(new Finding(
                    "error", "address", "This is not an LDAP address.", url, "Write it as ldaps://host:port."));
        }
        return false;
    }

    /** What the server shows, whether it is trusted or not. */
    private void certificate(String url, List<Finding> findings) {
        Optional<X509Certificate> shown;
        try {
            shown = servers.shownCertificate(url);
        } catch (LDAPException e) {
            findings.add(connecting(url, e));
            return;
        }
        if (shown.isEmpty()) {
            return;
        }
        var certificate = shown.get();
        var days = Duration.between(Instant.now(), certificate.getNotAfter().toInstant())
                .toDays();
        var evidence = url + ": " + certificate.getSubjectX500Principal().getName() + ", for " + names(certificate)
                + ", until " + certificate.getNotAfter().toInstant() + ", key " + PinnedKey.of(certificate);
        if (certificate.getNotAfter().toInstant().isBefore(Instant.now())) {
            findings.add(new Finding(
                    "error",
                    "certificate-ends",
                    "The server's certificate has expired.",
                    evidence,
                    "Install a new one on the server. Nothing is delivered until then."));
        } else if (days <= SOON_DAYS) {
            findings.add(new Finding(
                    "warning",
                    "certificate-ends",
                    "The server's certificate ends in " + days + " days.",
                    evidence,
                    "Install a new one on the server before then."));
        } else {
            findings.add(LdapText.ok(
                    "certificate-ends", "The server's certificate is good for " + days + " more days.", evidence));
        }
    }

    private static String names(X509Certificate certificate) {
        try {
            var names = certificate.getSubjectAlternativeNames();
            return names == null
                    ? "no name"
                    : String.join(
                            ", ",
                            names.stream().map(n -> String.valueOf(n.get(1))).toList());
        } catch (CertificateParsingException e) {
            return "names that cannot be read";
        }
    }

    private static Finding connecting(String url, LDAPException e) {
        var evidence = url + ": " + LdapText.bounded(e.getMessage());
        if (e.getResultCode().equals(ResultCode.INVALID_CREDENTIALS)) {
            return new Finding(
                    "error",
                    "bind",
                    "The service account can't sign in: its name or password is wrong, or it's locked or disabled.",
                    url + ": " + LdapText.bounded(e.getDiagnosticMessage()),
                    "Check how it signs in, in the steward's file: bind and password-file, certificate, or kerberos.");
        }
        if (e.getResultCode().equals(ResultCode.AUTH_UNKNOWN)) {
            return new Finding(
                    "error",
                    "bind",
                    "The service account can't sign in with Kerberos.",
                    evidence,
                    "Check directory.kerberos in the steward's file: the keytab must belong to the principal, kdc must answer, and"
                            + " server is the name for which the server is registered as ldap/NAME.");
        }
        var message = String.valueOf(e.getMessage());
        if (message.contains("SSL") || message.contains("certificate") || message.contains("trust")) {
            return new Finding(
                    "error",
                    "certificate",
                    "The server's certificate isn't trusted, or it's for another name.",
                    evidence,
                    "Give the CA certificate that signed it as directory.ca and use the name in the certificate; or pin"
                            + " its key as directory.pin.");
        }
        return new Finding(
                "error", "connect", "No protected connection could be made.", evidence, "Look at the server's log.");
    }
}
