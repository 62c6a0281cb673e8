package dev.entente.steward.directory;

import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.Modification;
import com.unboundid.ldap.sdk.ResultCode;
import com.unboundid.ldap.sdk.SearchResultEntry;
import dev.entente.wire.DirectoryApi.Finding;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/** Findings that both kinds share, and texts of servers made safe to show. */
final class LdapText {
    static final String POLICY_HINTS = "1.2.840.113556.1.4.2239";
    /** Names that a finding lists at most. */
    static final int SHOWN = 8;

    private LdapText() {}

    /** A server's diagnostic, on one line and at most 200 characters long. */
    static String bounded(String diagnostic) {
        var line = diagnostic == null
                ? ""
                : diagnostic.replaceAll("[\\p{Cntrl}]+", " ").strip();
        return line.length() > 200 ? line.substring(0, 200) + "…" : line;
    }

    static List<String> values(SearchResultEntry entry, String attribute) {
        var values = entry.getAttributeValues(attribute);
        return values == null ? List.of() : List.of(values);
    }

    static Long millis(Instant at) {
        return at == null ? null : at.toEpochMilli();
    }

    static Finding ok(String code, String cause, String evidence) {
        return new Finding("ok", code, cause, evidence, "");
    }

    static Finding noProbe() {
        return new Finding(
                "warning",
                "no-probe",
                "The right to set passwords wasn't tried, because no dedicated account is named for it.",
                "directory.probe is not set in the steward's file",
                "Create an account that nobody uses, where people are, and name it as directory.probe in the steward's"
                        + " file. Never a person's.");
    }

    static Finding probeMissing(String probe) {
        return new Finding(
                "error",
                "probe-missing",
                "The dedicated account for trying rights doesn't exist or can't be read.",
                probe,
                "Create the account, or correct directory.probe in the steward's file.");
    }

    /**
     * Tries a right with a modification that cannot succeed, on a dedicated account.
     *
     * @param held the code that shows that the right is held
     * @param grant the exact delegation to apply where it is not
     */
    static Finding tried(
            LDAPConnection connection,
            String probe,
            Modification harmless,
            int held,
            String code,
            String purpose,
            String grant)
            throws LDAPException {
        try {
            connection.modify(probe, harmless);
        } catch (LDAPException e) {
            var answer = e.getResultCode().intValue();
            if (answer == held) {
                return ok(
                        code,
                        "The service account is allowed to " + purpose + ".",
                        "tried on " + probe + ", code " + answer);
            }
            if (answer == 50) {
                return missing(
                        code, purpose, "tried on " + probe + ", code 50 " + bounded(e.getDiagnosticMessage()), grant);
            }
            throw e;
        }
        throw new LDAPException(ResultCode.OTHER, "the harmless probe was accepted, which no known server does");
    }

    /** A right that is not held, or not yet. */
    static Finding missing(String code, String purpose, String evidence, String grant) {
        return new Finding(
                "error",
                code,
                "The service account isn't allowed to " + purpose + ", or not yet.",
                evidence,
                "Grant it: " + grant + ". If you granted it just now, it may not have taken effect yet: preflight runs"
                        + " again automatically.");
    }

    static Finding minimumAge(String evidence, long seconds, boolean holdsForResets) {
        var text = seconds % 86_400 == 0
                ? seconds / 86_400 + " days"
                : seconds % 3600 == 0 ? seconds / 3600 + " hours" : seconds / 60 + " minutes";
        return new Finding(
                "warning",
                "minimum-age",
                "The directory has a minimum password age of " + text
                        + (holdsForResets
                                ? ", which holds for resets too: nobody can recover twice within it."
                                : ": a person who changes a password right after a reset is refused."),
                evidence,
                "Set it to 0 if people should be able to change a password again immediately.");
    }

    /** Values of the attributes that were asked for, at most {@value #MOST_VALUES} of each, none longer than 256 characters. */
    static Map<String, List<String>> named(SearchResultEntry entry, List<String> attributes) {
        var named = new LinkedHashMap<String, List<String>>();
        for (var attribute : attributes) {
            var values = values(entry, attribute).stream()
                    .filter(v -> v.length() <= LONGEST_VALUE)
                    .limit(MOST_VALUES)
                    .toList();
            if (!values.isEmpty()) {
                named.put(attribute, values);
            }
        }
        return named;
    }

    private static final int MOST_VALUES = 20;
    private static final int LONGEST_VALUE = 256;

    /** The first of many. */
    static String few(List<String> names) {
        return String.join(" · ", names.subList(0, Math.min(SHOWN, names.size())))
                + (names.size() > SHOWN ? " and " + (names.size() - SHOWN) + " more" : "");
    }
}
