package dev.entente.steward.directory;

import com.unboundid.ldap.sdk.Control;
import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.Modification;
import com.unboundid.ldap.sdk.ModificationType;
import com.unboundid.ldap.sdk.ModifyRequest;
import com.unboundid.ldap.sdk.SearchScope;
import com.unboundid.ldap.sdk.controls.AssertionRequestControl;
import com.unboundid.ldap.sdk.controls.ContentSyncRequestControl;
import com.unboundid.ldap.sdk.experimental.DraftBeheraLDAPPasswordPolicy10RequestControl;
import dev.entente.steward.settings.StewardFile.Guard;
import dev.entente.steward.settings.TargetPart;
import dev.entente.wire.DirectoryApi.Finding;
import java.util.ArrayList;
import java.util.List;
import java.util.Objects;

/** What is right and wrong with a directory of the standard kind. Rights are tried on a dedicated account alone. */
final class StandardLdapExamination {
    private static final String RELAX = "1.3.6.1.4.1.4203.666.5.12";

    private final TargetPart.Ldap part;
    private final Guard guard;
    private final LDAPConnection connection;
    private final String account;
    private final boolean mailNeeded;
    private final List<Finding> findings = new ArrayList<>();

    StandardLdapExamination(
            TargetPart.Ldap part, Guard guard, LDAPConnection connection, String account, boolean mailNeeded) {
        this.part = part;
        this.guard = guard;
        this.connection = connection;
        this.account = account;
        this.mailNeeded = mailNeeded;
    }

    List<Finding> findings() throws LDAPException {
        findings.add(new Finding(
                "info",
                "clock-unknown",
                "This kind of server doesn't tell its time, so the clocks couldn't be compared.",
                "",
                ""));
        offered(
                AssertionRequestControl.ASSERTION_REQUEST_OID,
                "error",
                "no-assertion",
                "The server doesn't support the assertion control (RFC 4528), which keeps late writes out.",
                "Use a server that supports it.");
        offered(
                DraftBeheraLDAPPasswordPolicy10RequestControl.PASSWORD_POLICY_REQUEST_OID,
                "warning",
                "no-policy-control",
                "The server doesn't say why it refuses a password.",
                "Load its password policy module (ppolicy on OpenLDAP).");
        offered(
                ContentSyncRequestControl.SYNC_REQUEST_OID,
                "info",
                "no-synchronisation",
                "The server doesn't support content synchronisation (RFC 4533): changes are found by modifyTimestamp, and what"
                        + " was deleted only by the full comparison.",
                "Load its provider module (syncprov on OpenLDAP).");
        rules();
        findings.add(PeopleRead.of(connection, part.base(), "(objectClass=person)", "uid", findings)
                .mail(mailNeeded));
        rights();
        return findings;
    }

    private void offered(String control, String severity, String code, String cause, String whatToDo)
            throws LDAPException {
        if (!connection.getRootDSE().supportsControl(control)) {
            findings.add(new Finding(severity, code, cause, control, whatToDo));
        }
    }

    private void rights() throws LDAPException {
        if (part.probe() == null) {
            findings.add(LdapText.noProbe());
            return;
        }
        if (connection.getEntry(part.probe(), "1.1") == null) {
            findings.add(LdapText.probeMissing(part.probe()));
            return;
        }
        // Deleting a value that is not there: 16 where the right is held, 50 where it is not; nothing is stored.
        findings.add(LdapText.tried(
                connection,
                part.probe(),
                new Modification(ModificationType.DELETE, "userPassword", "entente-preflight-no-such-value"),
                16,
                "right-reset",
                "reset passwords",
                grant("userPassword", "=w")));
        findings.add(attribute("pwdReset", "FALSE", "ask for a change at the next sign-in"));
        findings.add(attribute("pwdAccountLockedTime", "19700101000000Z", "clear a lockout"));
        findings.add(manage());
    }

    private Finding attribute(String attribute, String value, String purpose) throws LDAPException {
        var entry = connection.getEntry(part.probe(), attribute);
        // A value that the entry does not have.
        var other = value.equals("FALSE") && entry != null && "FALSE".equals(entry.getAttributeValue(attribute))
                ? "TRUE"
                : value;
        return LdapText.tried(
                connection,
                part.probe(),
                new Modification(ModificationType.DELETE, attribute, other),
                16,
                "right-" + attribute,
                purpose,
                grant(attribute, "write"));
    }

    private String grant(String attribute, String access) {
        return "access to dn.subtree=\"" + guard.bases().get(0) + "\" attrs=" + attribute + " by dn.exact=\"" + account
                + "\" " + access;
    }

    /** Only an account with {@code manage} rights may relax the rules; the value it deletes is not there. */
    private Finding manage() throws LDAPException {
        var modify = new ModifyRequest(
                part.probe(), new Modification(ModificationType.DELETE, "pwdChangedTime", "19700101000000Z"));
        modify.addControl(new Control(RELAX, true));
        try {
            connection.modify(modify);
        } catch (LDAPException e) {
            return e.getResultCode().intValue() == 16
                    ? new Finding(
                            "error",
                            "rights-wide",
                            "The service account has manage rights, so the directory's own password rules don't apply to what it"
                                    + " writes.",
                            "tried on " + part.probe() + ", code 16",
                            "Grant it write instead of manage, and don't use the root account.")
                    : LdapText.ok(
                            "rights-wide",
                            "The directory's own rules apply to the service account.",
                            "tried on " + part.probe() + ", code "
                                    + e.getResultCode().intValue());
        }
        return LdapText.ok("rights-wide", "The directory's own rules apply to the service account.", "");
    }

    private void rules() throws LDAPException {
        var policies = connection
                .search(
                        part.groupBase(),
                        SearchScope.SUB,
                        "(objectClass=pwdPolicy)",
                        "cn",
                        "pwdMinLength",
                        "pwdInHistory",
                        "pwdMaxFailure",
                        "pwdMinAge")
                .getSearchEntries();
        if (policies.isEmpty()) {
            findings.add(new Finding(
                    "warning",
                    "directory-rules",
                    "No password policy entry can be read, so it isn't known what the directory requires.",
                    "no entry of class pwdPolicy below " + part.groupBase(),
                    "Allow the service account to read the policy entries."));
        }
        for (var policy : policies) {
            findings.add(new Finding(
                    "info",
                    "directory-rules",
                    "The directory's rules \"" + policy.getAttributeValue("cn") + "\" require at least "
                            + Objects.requireNonNullElse(policy.getAttributeValue("pwdMinLength"), "0")
                            + " characters and remember "
                            + Objects.requireNonNullElse(policy.getAttributeValue("pwdInHistory"), "0")
                            + " passwords; they lock after "
                            + Objects.requireNonNullElse(policy.getAttributeValue("pwdMaxFailure"), "no number of")
                            + " wrong ones.",
                    policy.getDN(),
                    "Make the policy's password rules at least as strict, so that people see them while typing."));
            var age = policy.getAttributeValueAsInteger("pwdMinAge");
            if (age != null && age > 0) {
                findings.add(LdapText.minimumAge(policy.getDN() + " pwdMinAge " + age, age, true));
            }
        }
    }
}
