package dev.entente.steward.directory;

import com.unboundid.asn1.ASN1Integer;
import com.unboundid.asn1.ASN1OctetString;
import com.unboundid.asn1.ASN1Sequence;
import com.unboundid.ldap.sdk.Control;
import com.unboundid.ldap.sdk.Filter;
import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.Modification;
import com.unboundid.ldap.sdk.ModificationType;
import com.unboundid.ldap.sdk.SearchRequest;
import com.unboundid.ldap.sdk.SearchResultEntry;
import com.unboundid.ldap.sdk.SearchScope;
import dev.entente.steward.settings.StewardFile.Guard;
import dev.entente.steward.settings.TargetPart;
import dev.entente.wire.DirectoryApi.Finding;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;

/**
 * What is right and wrong with a directory of the Active Directory kind. Rights are computed from security descriptors and
 * the service account's own groups, for one account in each place where people are, and nothing is written but a harmless
 * try on the dedicated account.
 */
final class ActiveDirectoryExamination {
    private static final UUID RESET = UUID.fromString("00299570-246d-11d0-a768-00aa006e0529");
    private static final UUID LOCKOUT = UUID.fromString("28630ebf-41d5-11d1-a9c1-0000f80367c1");
    private static final UUID LAST_SET = UUID.fromString("bf967a0a-0de6-11d0-a285-00aa003049e2");
    private static final UUID ACCOUNT_RESTRICTIONS = UUID.fromString("4c164200-20c0-11d0-a768-00aa006e0529");
    private static final UUID MOBILE = UUID.fromString("f0f8ffa3-1191-11d0-a060-00aa006c33ed");
    private static final UUID PERSONAL_INFORMATION = UUID.fromString("77b5b886-944a-11d1-aebd-0000f80367c1");
    private static final UUID MAIL = UUID.fromString("bf967961-0de6-11d0-a285-00aa003049e2");
    private static final UUID OTHER_MAILBOX = UUID.fromString("0296c123-40da-11d1-a9c0-0000f80367c1");
    private static final UUID PUBLIC_INFORMATION = UUID.fromString("e48d0154-bcf8-11d1-8702-00c04fb96050");
    private static final String USER_CLASS = "bf967aba-0de6-11d0-a285-00aa003049e2";
    private static final Control DESCRIPTOR = new Control(
            "1.2.840.113556.1.4.801", true, new ASN1OctetString(new ASN1Sequence(new ASN1Integer(7)).encode()));
    private static final Map<String, String> POWERFUL = Map.of(
            "-512", "domain administrators", "-518", "schema administrators", "-519", "enterprise administrators");
    private static final Map<String, String> POWERFUL_HERE = Map.of(
            "S-1-5-32-544", "administrators", "S-1-5-32-548", "account operators", "S-1-5-32-551", "backup operators");

    private final TargetPart.Ldap part;
    private final Guard guard;
    private final LDAPConnection connection;
    private final String account;
    private final boolean mailNeeded;
    private final List<Finding> findings = new ArrayList<>();
    private String ownSid = "SID";

    ActiveDirectoryExamination(
            TargetPart.Ldap part, Guard guard, LDAPConnection connection, String account, boolean mailNeeded) {
        this.part = part;
        this.guard = guard;
        this.connection = connection;
        this.account = account;
        this.mailNeeded = mailNeeded;
    }

    List<Finding> findings() throws LDAPException {
        clock();
        rules();
        var people = PeopleRead.of(
                connection,
                part.base(),
                ActiveDirectory.PEOPLE + "(!(userAccountControl:1.2.840.113556.1.4.803:=2)))",
                "sAMAccountName",
                findings);
        rights(people.placesBelow(guard.bases()));
        fineGrained();
        findings.add(people.mail(mailNeeded));
        probe();
        return findings;
    }

    private void clock() throws LDAPException {
        var text = connection.getRootDSE().getAttributeValue("currentTime");
        if (text == null || text.length() < 14) {
            findings.add(new Finding("info", "clock-unknown", "The server does not tell its time.", "", ""));
            return;
        }
        var there = LocalDateTime.parse(text.substring(0, 14), DateTimeFormatter.ofPattern("yyyyMMddHHmmss"))
                .toInstant(ZoneOffset.UTC);
        var apart = Math.abs(Instant.now().getEpochSecond() - there.getEpochSecond());
        findings.add(
                apart <= 60
                        ? LdapText.ok("clock", "The clocks agree.", apart + " s apart")
                        : new Finding(
                                "error",
                                "clock",
                                "The steward's clock and the directory's clock differ.",
                                apart + " s",
                                "Synchronise both with the same time source. Signatures and Kerberos depend on it."));
    }

    private void rules() throws LDAPException {
        var head = connection.getEntry(
                connection.getRootDSE().getAttributeValue("defaultNamingContext"),
                "minPwdLength",
                "pwdProperties",
                "pwdHistoryLength",
                "minPwdAge",
                "lockoutThreshold");
        if (head == null || head.getAttributeValue("minPwdLength") == null) {
            findings.add(new Finding(
                    "warning",
                    "directory-rules",
                    "The domain's password rules can't be read, so it isn't known what the directory requires.",
                    "the domain head",
                    "Allow the service account to read the domain head."));
            return;
        }
        var properties = head.getAttributeValueAsInteger("pwdProperties");
        var complex = properties != null && (properties & 1) == 1;
        findings.add(new Finding(
                "info",
                "directory-rules",
                "The directory requires at least " + head.getAttributeValue("minPwdLength") + " characters"
                        + (complex ? " of three kinds without the person's name" : "") + " and remembers "
                        + head.getAttributeValue("pwdHistoryLength") + " passwords; it locks after "
                        + head.getAttributeValue("lockoutThreshold") + " wrong ones.",
                "read from the domain head",
                "Make the policy's password rules at least as strict, so that people see them while typing."));
        var age = head.getAttributeValueAsLong("minPwdAge");
        if (age != null && age < 0) {
            findings.add(LdapText.minimumAge("minPwdAge " + age, -age / 10_000_000L, false));
        }
        findings.add(
                connection.getRootDSE().supportsControl(LdapText.POLICY_HINTS)
                        ? LdapText.ok(
                                "history",
                                "The directory also enforces its history and minimum age on resets.",
                                LdapText.POLICY_HINTS)
                        : new Finding(
                                "warning",
                                "history",
                                "The directory doesn't enforce its history and minimum age on resets.",
                                "the server does not offer " + LdapText.POLICY_HINTS,
                                "This server can't do it, so people can choose a password they've used before."));
    }

    /** Who the service account is: itself, its groups at any depth, and everybody who signed in. */
    private Set<String> own() throws LDAPException {
        var self = part.accountName() != null
                ? connection.getEntry(part.accountName(), "objectSid", "tokenGroups")
                : connection.searchForEntry(
                        connection.getRootDSE().getAttributeValue("defaultNamingContext"),
                        SearchScope.SUB,
                        Filter.createEqualityFilter("sAMAccountName", account.replaceAll("@.*", "")),
                        "1.1");
        if (self != null && part.accountName() == null) {
            self = connection.getEntry(self.getDN(), "objectSid", "tokenGroups");
        }
        if (self == null || self.getAttributeValueBytes("objectSid") == null) {
            return Set.of();
        }
        ownSid = AccessRights.sid(self.getAttributeValueBytes("objectSid"));
        var sids = new HashSet<>(Set.of("S-1-1-0", "S-1-5-11", ownSid));
        if (self.hasAttribute("tokenGroups")) {
            for (var group : self.getAttributeValueByteArrays("tokenGroups")) {
                sids.add(AccessRights.sid(group));
            }
        }
        return sids;
    }

    private void rights(Map<String, List<String>> people) throws LDAPException {
        var sids = own();
        if (sids.isEmpty()) {
            findings.add(new Finding(
                    "warning",
                    "rights-unknown",
                    "The service account's own entry can't be read, so its rights couldn't be worked out.",
                    account,
                    "Allow it to read its own objectSid and tokenGroups."));
            return;
        }
        tooWide(sids);
        var places = new LinkedHashMap<String, AccessRights>();
        var self = Set.of("S-1-5-10");
        var selfWritable = new TreeMap<String, String>();
        for (var place : people.entrySet()) {
            for (var person : place.getValue()) {
                var rights = rights(person);
                if (rights == null) {
                    continue;
                }
                places.put(place.getKey(), rights);
                if (rights.holds(self, AccessRights.WRITE_PROPERTY, MOBILE, PERSONAL_INFORMATION)) {
                    selfWritable.put(Finding.PHONE_SELF_WRITABLE, "mobile and other phone numbers");
                }
                var mail = rights.holds(self, AccessRights.WRITE_PROPERTY, MAIL, PUBLIC_INFORMATION);
                if (mail || rights.holds(self, AccessRights.WRITE_PROPERTY, OTHER_MAILBOX, PUBLIC_INFORMATION)) {
                    selfWritable.put(Finding.MAIL_SELF_WRITABLE, mail ? "mail" : "otherMailbox");
                }
                break;
            }
        }
        if (places.isEmpty()) {
            findings.add(new Finding(
                    "warning",
                    "rights-unknown",
                    "No security descriptor can be read, so rights couldn't be worked out for each container.",
                    part.base(),
                    "Allow the service account to read nTSecurityDescriptor where people are."));
            return;
        }
        right(places, sids, "right-reset", "reset passwords", AccessRights.CONTROL_ACCESS, "CR", RESET);
        right(places, sids, "right-lockoutTime", "clear a lockout", AccessRights.WRITE_PROPERTY, "WP", LOCKOUT);
        right(
                places,
                sids,
                "right-pwdLastSet",
                "ask for a change at the next sign-in",
                AccessRights.WRITE_PROPERTY,
                "WP",
                LAST_SET,
                ACCOUNT_RESTRICTIONS);
        selfWritable.forEach((code, what) -> findings.add(new Finding(
                "warning",
                code,
                "People can write " + what + " of their own account by themselves.",
                "granted to SELF where people are",
                "Don't let a method rely on such a value alone: anyone at a signed-in computer could change"
                        + " where codes go. Take the right from SELF, or use another attribute.")));
    }

    private void right(
            Map<String, AccessRights> places,
            Set<String> sids,
            String code,
            String purpose,
            int right,
            String letters,
            UUID... objects) {
        var without = places.entrySet().stream()
                .filter(p -> !p.getValue().holds(sids, right, objects))
                .map(Map.Entry::getKey)
                .toList();
        if (without.isEmpty()) {
            findings.add(LdapText.ok(
                    code,
                    "The service account is allowed to " + purpose + " everywhere below guard.bases.",
                    places.size() + (places.size() == 1 ? " place" : " places") + " looked at"));
            return;
        }
        var grant = "on each of these places the entry (OA;CIIO;" + letters + ";" + objects[0] + ";" + USER_CLASS + ";"
                + ownSid + "), such as: dsacls \"" + without.get(0) + "\" /I:S /G \"" + ownSid + ":"
                + (right == AccessRights.CONTROL_ACCESS
                        ? "CA;Reset Password;user"
                        : "WP;" + (objects[0].equals(LOCKOUT) ? "lockoutTime" : "pwdLastSet") + ";user")
                + "\"";
        var everywhere = without.size() == places.size();
        var finding = LdapText.missing(
                code,
                purpose + (everywhere ? "" : " in " + without.size() + " of " + places.size() + " places"),
                LdapText.few(without),
                grant);
        // Only places that the steward may write at all were looked at.
        findings.add(
                everywhere
                        ? finding
                        : new Finding(
                                "warning",
                                code,
                                finding.cause(),
                                finding.evidence(),
                                finding.whatToDo() + " Leave it as it is where passwords are not to be set."));
    }

    private void tooWide(Set<String> sids) throws LDAPException {
        var wide = new ArrayList<String>();
        for (var sid : sids) {
            POWERFUL.forEach((rid, name) -> {
                if (sid.endsWith(rid)) {
                    wide.add("it is one of the " + name);
                }
            });
            if (POWERFUL_HERE.containsKey(sid)) {
                wide.add("it is one of the " + POWERFUL_HERE.get(sid));
            }
        }
        var request = new SearchRequest(part.base(), SearchScope.BASE, "(objectClass=*)", "nTSecurityDescriptor");
        request.addControl(DESCRIPTOR);
        var base = connection.searchForEntry(request);
        var descriptor = base == null ? null : base.getAttributeValueBytes("nTSecurityDescriptor");
        if (descriptor != null && new AccessRights(descriptor).controls(Set.of(ownSid))) {
            wide.add("it controls the base itself");
        }
        findings.add(
                wide.isEmpty()
                        ? LdapText.ok("rights-wide", "The service account holds no more than it should.", ownSid)
                        : new Finding(
                                "error",
                                "rights-wide",
                                "The service account has far more rights than it needs.",
                                String.join("; ", wide.stream().sorted().toList()),
                                "Remove it from these groups and grant only the rights named here: whoever gets hold of the"
                                        + " steward's machine would hold the domain."));
    }

    private void fineGrained() throws LDAPException {
        var head = connection.getRootDSE().getAttributeValue("defaultNamingContext");
        var ruled = new HashSet<String>();
        var unreadable = new HashSet<String>();
        var holders = new ArrayList<SearchResultEntry>();
        // The resultant rules are computed by the server and cannot be searched for: groups and people they name can.
        PagedSearch.read(connection, head, "(msDS-PSOApplied=*)", PagedSearch.PAGE, holders::addAll, "msDS-PSOApplied");
        for (var holder : holders) {
            ruled.addAll(LdapText.values(holder, "msDS-PSOApplied"));
        }
        for (var rules : ruled) {
            var found = connection.getEntry(rules, "msDS-MinimumPasswordLength");
            if (found == null || !found.hasAttribute("msDS-MinimumPasswordLength")) {
                unreadable.add(rules);
            }
        }
        if (!unreadable.isEmpty()) {
            findings.add(new Finding(
                    "warning",
                    "fine-grained-rules",
                    "There are fine-grained password rules that the service account can't read; the strictest guess is"
                            + " used for the people they apply to.",
                    LdapText.few(unreadable.stream().sorted().toList()),
                    "Grant it read access: dsacls \"CN=Password Settings Container,CN=System," + head + "\" /I:T /G \""
                            + ownSid + ":GR\"."));
        } else if (!ruled.isEmpty()) {
            findings.add(LdapText.ok(
                    "fine-grained-rules",
                    "Fine-grained password rules can be read.",
                    LdapText.few(ruled.stream().sorted().toList())));
        }
    }

    /** One byte is no password: refused with 53 where the right is held and 50 where it is not; nothing is stored. */
    private void probe() throws LDAPException {
        if (part.probe() == null) {
            findings.add(LdapText.noProbe());
        } else if (connection.getEntry(part.probe(), "1.1") == null) {
            findings.add(LdapText.probeMissing(part.probe()));
        } else {
            findings.add(LdapText.tried(
                    connection,
                    part.probe(),
                    new Modification(ModificationType.REPLACE, "unicodePwd", new byte[] {'x'}),
                    53,
                    "right-reset-tried",
                    "set a password over this connection",
                    "the right Reset Password to " + ownSid));
        }
    }

    /** What the descriptor of one account grants; null for the service account itself and where none can be read. */
    private AccessRights rights(String person) throws LDAPException {
        if (person.equalsIgnoreCase(part.accountName())) {
            return null;
        }
        var request = new SearchRequest(person, SearchScope.BASE, "(objectClass=*)", "nTSecurityDescriptor");
        request.addControl(DESCRIPTOR);
        var found = connection.searchForEntry(request);
        var descriptor = found == null ? null : found.getAttributeValueBytes("nTSecurityDescriptor");
        return descriptor == null ? null : new AccessRights(descriptor);
    }
}
