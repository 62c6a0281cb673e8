package dev.entente.steward.directory;

import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.Modification;
import com.unboundid.ldap.sdk.ResultCode;
import dev.entente.wire.AdminApi.Finding;
import java.util.List;
import java.util.Locale;

/** Findings that both kinds share, and texts of servers made safe to show. */
final class LdapText {
    private static final String POLICY_HINTS = "1.2.840.113556.1.4.2239";

    private LdapText() {}

    /** A server's diagnostic, on one line and at most 200 characters long. */
    static String bounded(String diagnostic) {
        var line = diagnostic == null
                ? ""
                : diagnostic.replaceAll("[\\p{Cntrl}]+", " ").strip();
        return line.length() > 200 ? line.substring(0, 200) + "…" : line;
    }

    static Finding noProbe(String probe) {
        return new Finding(
                "error",
                "probe-missing",
                "The dedicated account to try rights on does not exist, or cannot be read.",
                probe,
                "Make the account, or correct directory.probe in the steward's file.");
    }

    /** Tries the right to set passwords with a modification that cannot succeed. */
    static Finding resetRight(
            LDAPConnection connection, String probe, Modification harmless, int held, String delegation)
            throws LDAPException {
        try {
            connection.modify(probe, harmless);
            throw new LDAPException(ResultCode.OTHER, "the harmless probe was accepted, which no known server does");
        } catch (LDAPException e) {
            var code = e.getResultCode().intValue();
            if (code == held) {
                return new Finding("ok", "right-reset", "The service account may set passwords.", "code " + code, "");
            }
            if (code == 50) {
                return new Finding(
                        "error",
                        "right-reset",
                        "The service account may not set passwords.",
                        "code 50 " + bounded(e.getDiagnosticMessage()),
                        "Grant " + delegation + " on the base where people are. New rights can take minutes to be in"
                                + " force; run preflight again.");
            }
            throw e;
        }
    }

    static Finding attributeRight(List<String> writable, String attribute, String purpose) {
        return writable.contains(attribute.toLowerCase(Locale.ROOT))
                ? new Finding("ok", "right-" + attribute, "The service account may " + purpose + ".", attribute, "")
                : new Finding(
                        "error",
                        "right-" + attribute,
                        "The service account may not " + purpose + ".",
                        attribute + " is not writable on the probe account",
                        "Grant write access to " + attribute + " where people are, for the service account alone.");
    }

    static Finding policyHints(LDAPConnection connection) throws LDAPException {
        return connection.getRootDSE().supportsControl(POLICY_HINTS)
                ? new Finding("ok", "history", "The server can enforce its history on resets.", POLICY_HINTS, "")
                : new Finding(
                        "warning",
                        "history",
                        "The directory does not enforce its history and minimum age when a password is reset.",
                        "the server does not offer " + POLICY_HINTS,
                        "Nothing can be done on this server; people may choose a password that they had before.");
    }
}
