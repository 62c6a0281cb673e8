package dev.entente.steward.directory;

import com.unboundid.ldap.sdk.Filter;
import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.Modification;
import com.unboundid.ldap.sdk.ModificationType;
import com.unboundid.ldap.sdk.ModifyRequest;
import com.unboundid.ldap.sdk.ResultCode;
import com.unboundid.ldap.sdk.SearchResultEntry;
import com.unboundid.ldap.sdk.SearchScope;
import com.unboundid.ldap.sdk.controls.AssertionRequestControl;
import com.unboundid.ldap.sdk.experimental.DraftBeheraLDAPPasswordPolicy10RequestControl;
import com.unboundid.ldap.sdk.experimental.DraftBeheraLDAPPasswordPolicy10ResponseControl;
import dev.entente.core.attempt.Cause;
import dev.entente.core.scope.GroupGraph;
import dev.entente.wire.AdminApi.Finding;
import dev.entente.wire.StewardApi;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Consumer;
import java.util.stream.Stream;

/** The standard LDAP kind, with the password policy response control (draft-behera-ldap-password-policy-10). */
final class StandardLdap implements DirectoryAdapter {
    private static final String LOCKED_FOR_EVER = "000001010000Z";
    private static final String PEOPLE = "(objectClass=person)";
    private static final String GROUPS = "(|(objectClass=groupOfNames)(objectClass=groupOfUniqueNames))";

    @Override
    public Optional<Entry> find(LDAPConnection connection, String base, UUID id) throws LDAPException {
        var found = connection.searchForEntry(
                base,
                SearchScope.SUB,
                Filter.createEqualityFilter("entryUUID", id.toString()),
                "uid",
                "cn",
                "givenName",
                "sn",
                "mail");
        return Optional.ofNullable(found)
                .map(e -> new Entry(
                        id,
                        e.getDN(),
                        login(e),
                        Stream.of("uid", "cn", "givenName", "sn")
                                .map(e::getAttributeValue)
                                .filter(Objects::nonNull)
                                .toList()));
    }

    private static String login(SearchResultEntry entry) {
        var uid = entry.getAttributeValue("uid");
        return uid == null ? entry.getDN() : uid;
    }

    @Override
    public String version(LDAPConnection connection, Entry entry) throws LDAPException {
        var found = connection.getEntry(entry.dn(), "entryCSN");
        var version = found == null ? null : found.getAttributeValue("entryCSN");
        if (version == null) {
            throw new LDAPException(
                    ResultCode.INSUFFICIENT_ACCESS_RIGHTS, "entryCSN cannot be read, so no write is judged");
        }
        return version;
    }

    /** A reset unlocks on this kind; {@code pwdReset} asks for a change at the next sign-in. */
    @Override
    public ModifyRequest write(Entry entry, String version, String password, boolean clearLockout, boolean mustChange) {
        var modify =
                new ModifyRequest(entry.dn(), new Modification(ModificationType.REPLACE, "userPassword", password));
        if (mustChange) {
            modify.addModification(new Modification(ModificationType.REPLACE, "pwdReset", "TRUE"));
        }
        modify.addControl(new AssertionRequestControl(Filter.createEqualityFilter("entryCSN", version), true));
        // It alone tells a missing right from a rule of the directory: both answer 50.
        modify.addControl(new DraftBeheraLDAPPasswordPolicy10RequestControl(false));
        return modify;
    }

    @Override
    public Refusal refusal(LDAPException error) {
        var said = policyError(error);
        var code = error.getResultCode().intValue();
        var detail = code + " " + (said.isEmpty() ? LdapText.bounded(error.getDiagnosticMessage()) : said);
        var cause = switch (said) {
            case "password too short" -> Cause.TOO_SHORT;
            case "password in history" -> Cause.USED_BEFORE;
            case "password too young" -> Cause.TOO_RECENT;
            case "insufficient password quality" -> Cause.NOT_COMPLEX;
            case "must supply old password", "password modification not allowed" -> Cause.DIRECTORY_RULES;
            default ->
                switch (code) {
                    case 50 -> Cause.NO_RIGHT;
                    case 32 -> Cause.NO_ENTRY;
                    case 19 -> Cause.DIRECTORY_RULES;
                    default -> Cause.DIRECTORY_ERROR;
                };
        };
        return new Refusal(cause, detail);
    }

    private static String policyError(LDAPException error) {
        try {
            var control = DraftBeheraLDAPPasswordPolicy10ResponseControl.get(error.toLDAPResult());
            return control == null || control.getErrorType() == null
                    ? ""
                    : control.getErrorType().getName();
        } catch (LDAPException e) {
            // Servers have codes beyond the draft, such as one for too long a password.
            return "";
        }
    }

    @Override
    public Judged judge(LDAPException error) {
        var code = error.getResultCode().intValue();
        return new Judged(code == 49 ? Proof.WRONG : Proof.SAYS_NOTHING, String.valueOf(code));
    }

    /** Expands upwards from the entry, group by group; cycles end by themselves. */
    @Override
    public boolean memberOf(LDAPConnection connection, String base, Entry entry, List<String> groups)
            throws LDAPException {
        var wanted = new HashSet<>(groups.stream().map(GroupGraph::key).toList());
        var seen = new HashSet<String>();
        var queue = new ArrayDeque<>(List.of(entry.dn()));
        while (!queue.isEmpty()) {
            var here = queue.remove();
            var filter = Filter.createORFilter(
                    Filter.createEqualityFilter("member", here), Filter.createEqualityFilter("uniqueMember", here));
            for (var group :
                    connection.search(base, SearchScope.SUB, filter, "1.1").getSearchEntries()) {
                if (wanted.contains(GroupGraph.key(group.getDN()))) {
                    return true;
                }
                if (seen.add(GroupGraph.key(group.getDN()))) {
                    queue.add(group.getDN());
                }
            }
        }
        return false;
    }

    @Override
    public void read(LDAPConnection connection, String base, String correlation, Consumer<StewardApi.Batch> batches)
            throws LDAPException {
        PagedSearch.read(
                connection,
                base,
                "(objectClass=organizationalUnit)",
                page -> batches.accept(new StewardApi.Batch(
                        List.of(),
                        List.of(),
                        page.stream().map(SearchResultEntry::getDN).toList())),
                "1.1");
        var parents = new HashMap<String, List<String>>();
        var groups = new ArrayList<SearchResultEntry>();
        PagedSearch.read(
                connection,
                base,
                GROUPS,
                page -> page.forEach(group -> {
                    groups.add(group);
                    for (var attribute : new String[] {"member", "uniqueMember"}) {
                        for (var member : values(group, attribute)) {
                            parents.computeIfAbsent(GroupGraph.key(member), m -> new ArrayList<>())
                                    .add(group.getDN());
                        }
                    }
                }),
                "cn",
                "member",
                "uniqueMember");
        for (var from = 0; from < groups.size(); from += PagedSearch.PAGE) {
            batches.accept(new StewardApi.Batch(
                    List.of(),
                    groups.subList(from, Math.min(groups.size(), from + PagedSearch.PAGE)).stream()
                            .map(g -> new StewardApi.Group(
                                    g.getDN(),
                                    g.getAttributeValue("cn"),
                                    parents.getOrDefault(GroupGraph.key(g.getDN()), List.of())))
                            .toList(),
                    List.of()));
        }
        PagedSearch.read(
                connection,
                base,
                PEOPLE,
                page -> batches.accept(new StewardApi.Batch(
                        page.stream().map(e -> person(e, correlation, parents)).toList(), List.of(), List.of())),
                "entryUUID",
                "uid",
                "cn",
                "displayName",
                "mail",
                "departmentNumber",
                "pwdAccountLockedTime",
                correlation);
    }

    private static StewardApi.Person person(
            SearchResultEntry e, String correlation, Map<String, List<String>> parents) {
        var locked = e.getAttributeValue("pwdAccountLockedTime");
        return new StewardApi.Person(
                UUID.fromString(e.getAttributeValue("entryUUID")),
                e.getDN(),
                login(e),
                List.of(),
                Optional.ofNullable(e.getAttributeValue("displayName")).orElse(e.getAttributeValue("cn")),
                e.getAttributeValue(correlation),
                e.getAttributeValue("departmentNumber"),
                e.getAttributeValue("mail"),
                LOCKED_FOR_EVER.equals(locked),
                locked != null,
                parents.getOrDefault(GroupGraph.key(e.getDN()), List.of()));
    }

    @Override
    public List<Finding> examine(LDAPConnection connection, String base, String serviceAccount, String probe)
            throws LDAPException {
        var findings = new ArrayList<Finding>();
        findings.add(new Finding(
                "info",
                "clock-unknown",
                "This kind of server does not tell its time, so clocks were not compared.",
                "",
                ""));
        findings.addAll(rules(connection, base));
        if (!connection.getRootDSE().supportsControl(AssertionRequestControl.ASSERTION_REQUEST_OID)) {
            findings.add(new Finding(
                    "error",
                    "no-assertion",
                    "The server does not offer the assertion control (RFC 4528), without which a late write cannot be kept"
                            + " out.",
                    AssertionRequestControl.ASSERTION_REQUEST_OID,
                    "Use a server that offers it."));
        }
        if (probe == null) {
            findings.add(new Finding(
                    "warning",
                    "no-probe",
                    "The right to set passwords was not tried: no dedicated account is named for it.",
                    "directory.probe is not set in the steward's file",
                    "Make an account that nobody uses where people are, and name it as directory.probe in the steward's"
                            + " file. Never a person's."));
        } else if (connection.getEntry(probe, "1.1") == null) {
            findings.add(LdapText.noProbe(probe));
        } else {
            findings.add(LdapText.resetRight(connection, probe, harmless(), 16, "write access to userPassword"));
            findings.add(mustChangeRight(connection, probe));
        }
        return findings;
    }

    /** Deleting a value that is not there: 16 where the right is held, 50 where it is not. */
    private static Finding mustChangeRight(LDAPConnection connection, String probe) throws LDAPException {
        try {
            connection.modify(probe, new Modification(ModificationType.DELETE, "pwdReset", "FALSE"));
        } catch (LDAPException e) {
            if (e.getResultCode().intValue() == 50) {
                return LdapText.attributeRight(List.of(), "pwdReset", "ask for a change at the next sign-in");
            }
        }
        return LdapText.attributeRight(List.of("pwdreset"), "pwdReset", "ask for a change at the next sign-in");
    }

    private static List<Finding> rules(LDAPConnection connection, String base) throws LDAPException {
        var findings = new ArrayList<Finding>();
        var policies = connection
                .search(
                        base,
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
                    "No password policy entry can be read; what the directory asks for is not known.",
                    "no entry of class pwdPolicy below " + base,
                    "Let the service account read the policy entries."));
        }
        for (var policy : policies) {
            findings.add(new Finding(
                    "info",
                    "directory-rules",
                    "The directory's rules \"" + policy.getAttributeValue("cn") + "\" ask for at least "
                            + Objects.requireNonNullElse(policy.getAttributeValue("pwdMinLength"), "0")
                            + " characters and remember "
                            + Objects.requireNonNullElse(policy.getAttributeValue("pwdInHistory"), "0")
                            + " passwords; they lock after "
                            + Objects.requireNonNullElse(policy.getAttributeValue("pwdMaxFailure"), "no number of")
                            + " wrong ones.",
                    policy.getDN(),
                    "Keep the policy's password rules at least as strict, so that people see them while typing."));
            var age = policy.getAttributeValueAsInteger("pwdMinAge");
            if (age != null && age > 0) {
                findings.add(new Finding(
                        "warning",
                        "minimum-age",
                        "The rules \"" + policy.getAttributeValue("cn") + "\" have a minimum password age of "
                                + age / 3600 + " hours, which holds for resets too.",
                        policy.getDN() + " pwdMinAge " + age,
                        "Set it to 0 if people should be able to recover twice within it."));
            }
        }
        return findings;
    }

    /** Deleting a value that is not there: 16 where the right is held, 50 where it is not; nothing is stored. */
    private static Modification harmless() {
        return new Modification(ModificationType.DELETE, "userPassword", "entente-preflight-no-such-value");
    }

    private static List<String> values(SearchResultEntry entry, String attribute) {
        var values = entry.getAttributeValues(attribute);
        return values == null ? List.of() : List.of(values);
    }
}
