package dev.entente.steward.directory;

import com.unboundid.asn1.ASN1OctetString;
import com.unboundid.ldap.sdk.DN;
import com.unboundid.ldap.sdk.Filter;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.LDAPResult;
import com.unboundid.ldap.sdk.LDAPSearchException;
import com.unboundid.ldap.sdk.Modification;
import com.unboundid.ldap.sdk.ModificationType;
import com.unboundid.ldap.sdk.ModifyRequest;
import com.unboundid.ldap.sdk.ResultCode;
import com.unboundid.ldap.sdk.SearchRequest;
import com.unboundid.ldap.sdk.SearchResultEntry;
import com.unboundid.ldap.sdk.SearchScope;
import com.unboundid.ldap.sdk.controls.AssertionRequestControl;
import com.unboundid.ldap.sdk.controls.ContentSyncDoneControl;
import com.unboundid.ldap.sdk.controls.ContentSyncRequestControl;
import com.unboundid.ldap.sdk.controls.ContentSyncRequestMode;
import com.unboundid.ldap.sdk.experimental.DraftBeheraLDAPPasswordPolicy10RequestControl;
import com.unboundid.ldap.sdk.experimental.DraftBeheraLDAPPasswordPolicy10ResponseControl;
import com.unboundid.util.StaticUtils;
import dev.entente.core.attempt.Cause;
import dev.entente.core.scope.GroupGraph;
import dev.entente.steward.directory.Servers.Lent;
import dev.entente.steward.settings.StewardFile.Guard;
import dev.entente.steward.settings.TargetPart;
import dev.entente.steward.target.Target.Entry;
import dev.entente.steward.target.Target.Judged;
import dev.entente.steward.target.Target.Proof;
import dev.entente.steward.target.Target.Reading;
import dev.entente.steward.target.Target.Sink;
import dev.entente.steward.target.Target.StaleCursor;
import dev.entente.wire.DirectoryApi.Finding;
import dev.entente.wire.StewardApi;
import java.text.ParseException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Base64;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.Stream;

/** The standard LDAP kind, with the password policy response control (draft-behera-ldap-password-policy-10). */
final class StandardLdap implements DirectoryAdapter {
    private static final String LOCKED_FOR_EVER = "000001010000Z";
    private static final String PEOPLE = "(objectClass=person)";
    private static final String GROUPS = "(|(objectClass=groupOfNames)(objectClass=groupOfUniqueNames))";
    private static final String OUS = "(objectClass=organizationalUnit)";
    private static final int STRICTEST_THRESHOLD = 2;

    private final TargetPart.Ldap part;

    StandardLdap(TargetPart.Ldap part) {
        this.part = part;
    }

    @Override
    public Optional<Entry> find(Lent lent, UUID id) throws LDAPException {
        var found = lent.connection()
                .searchForEntry(
                        part.base(),
                        SearchScope.SUB,
                        Filter.createEqualityFilter("entryUUID", id.toString()),
                        "uid",
                        "cn",
                        "givenName",
                        "sn",
                        "entryCSN",
                        "pwdAccountLockedTime",
                        "pwdFailureTime",
                        "pwdChangedTime",
                        "pwdReset");
        if (found == null) {
            return Optional.empty();
        }
        var version = found.getAttributeValue("entryCSN");
        if (version == null) {
            throw new LDAPException(
                    ResultCode.INSUFFICIENT_ACCESS_RIGHTS, "entryCSN cannot be read, so no write is judged");
        }
        return Optional.of(new Entry(
                id,
                found.getDN(),
                login(found),
                Stream.of("uid", "cn", "givenName", "sn")
                        .map(found::getAttributeValue)
                        .filter(Objects::nonNull)
                        .toList(),
                version,
                found.hasAttribute("pwdAccountLockedTime"),
                LdapText.values(found, "pwdFailureTime").size(),
                time(found.getAttributeValue("pwdChangedTime")),
                "TRUE".equalsIgnoreCase(found.getAttributeValue("pwdReset"))));
    }

    private static String login(SearchResultEntry entry) {
        var uid = entry.getAttributeValue("uid");
        return uid == null ? entry.getDN() : uid;
    }

    private static Instant time(String generalized) {
        try {
            return generalized == null
                    ? null
                    : StaticUtils.decodeGeneralizedTime(generalized).toInstant();
        } catch (ParseException e) {
            return null;
        }
    }

    /** A reset unlocks on this kind; {@code pwdReset} asks for a change at the next sign-in. */
    @Override
    public ModifyRequest reset(Lent lent, Entry entry, String password, boolean clearLockout, boolean mustChange) {
        var modify =
                new ModifyRequest(entry.dn(), new Modification(ModificationType.REPLACE, "userPassword", password));
        if (mustChange) {
            modify.addModification(new Modification(ModificationType.REPLACE, "pwdReset", "TRUE"));
        }
        return guarded(modify, entry);
    }

    /** Deleting the old value is what servers ask for that want to see it (pwdSafeModify). */
    @Override
    public ModifyRequest change(Entry entry, String old, String password) {
        return guarded(
                new ModifyRequest(
                        entry.dn(),
                        new Modification(ModificationType.DELETE, "userPassword", old),
                        new Modification(ModificationType.ADD, "userPassword", password)),
                entry);
    }

    /** Replacing with nothing succeeds whether there is a lock or not. */
    @Override
    public ModifyRequest unlock(Entry entry) {
        return new ModifyRequest(entry.dn(), new Modification(ModificationType.REPLACE, "pwdAccountLockedTime"));
    }

    private static ModifyRequest guarded(ModifyRequest modify, Entry entry) {
        modify.addControl(new AssertionRequestControl(Filter.createEqualityFilter("entryCSN", entry.version()), true));
        // It alone tells a missing right from a rule of the directory: both answer 50.
        modify.addControl(new DraftBeheraLDAPPasswordPolicy10RequestControl(false));
        return modify;
    }

    @Override
    public boolean bindsBeforeChange() {
        return true;
    }

    private List<SearchResultEntry> rules(Lent lent, Entry entry) throws LDAPException {
        var own = lent.connection().getEntry(entry.dn(), "pwdPolicySubentry");
        var named = own == null ? null : own.getAttributeValue("pwdPolicySubentry");
        if (named != null) {
            var found = lent.connection().getEntry(named, "pwdMaxFailure", "pwdMinAge");
            return found == null ? List.of() : List.of(found);
        }
        return lent.connection()
                .search(part.groupBase(), SearchScope.SUB, "(objectClass=pwdPolicy)", "pwdMaxFailure", "pwdMinAge")
                .getSearchEntries();
    }

    @Override
    public int triesLeft(Lent lent, Entry entry) throws LDAPException {
        var rules = rules(lent, entry);
        var threshold = rules.isEmpty()
                ? STRICTEST_THRESHOLD
                : rules.stream()
                        .mapToInt(r -> Objects.requireNonNullElse(r.getAttributeValueAsInteger("pwdMaxFailure"), 0))
                        .map(max -> max == 0 ? Integer.MAX_VALUE : max)
                        .min()
                        .orElseThrow();
        return threshold == Integer.MAX_VALUE ? threshold : threshold - entry.wrongTries();
    }

    @Override
    public Optional<Instant> earliestChange(Lent lent, Entry entry) throws LDAPException {
        var seconds = rules(lent, entry).stream()
                .mapToLong(r -> Objects.requireNonNullElse(r.getAttributeValueAsLong("pwdMinAge"), 0L))
                .max()
                .orElse(0);
        return seconds == 0 || entry.setAt() == null
                ? Optional.empty()
                : Optional.of(entry.setAt().plus(Duration.ofSeconds(seconds)));
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
            case "error 9" -> Cause.TOO_LONG;
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
    public boolean memberOf(Lent lent, Entry entry, List<String> groups) throws LDAPException {
        if (groups.isEmpty()) {
            return false;
        }
        var wanted = new HashSet<>(groups.stream().map(GroupGraph::key).toList());
        var seen = new HashSet<String>();
        var queue = new ArrayDeque<>(List.of(entry.dn()));
        while (!queue.isEmpty()) {
            var here = queue.remove();
            var filter = Filter.createORFilter(
                    Filter.createEqualityFilter("member", here), Filter.createEqualityFilter("uniqueMember", here));
            for (var group : lent.connection()
                    .search(part.groupBase(), SearchScope.SUB, filter, "1.1")
                    .getSearchEntries()) {
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

    /**
     * By content synchronisation (RFC 4533, refresh only) where the server offers it: the cursor is {@code sync1} and the
     * server's cookies. Elsewhere by modifyTimestamp, which says nothing of what was deleted: the cursor is {@code time1}
     * and a time.
     */
    @Override
    public String read(Lent lent, Reading reading, Sink sink) throws LDAPException, StaleCursor {
        var root = lent.connection().getRootDSE();
        var synchronises = root != null && root.supportsControl(ContentSyncRequestControl.SYNC_REQUEST_OID);
        var parts = reading.cursor() == null ? new String[0] : reading.cursor().split(" ", -1);
        if (parts.length > 0 && !parts[0].equals(synchronises ? "sync1" : "time1")) {
            throw new StaleCursor("the server tells changes in another way than before");
        }
        return synchronises ? synchronise(lent, reading, parts, sink) : byTime(lent, reading, parts, sink);
    }

    private String synchronise(Lent lent, Reading reading, String[] parts, Sink sink)
            throws LDAPException, StaleCursor {
        var cursor = new StringBuilder("sync1");
        var number = 1;
        for (var base : bases()) {
            var cookie = parts.length > number
                    ? new ASN1OctetString(Base64.getUrlDecoder().decode(parts[number]))
                    : null;
            var gathering = new Gathering(reading, sink);
            var request = new SearchRequest(
                    gathering, base, SearchScope.SUB, "(|" + PEOPLE + GROUPS + OUS + ")", attributes(reading));
            request.setIntermediateResponseListener(gathering);
            request.addControl(new ContentSyncRequestControl(true, ContentSyncRequestMode.REFRESH_ONLY, cookie, false));
            LDAPResult result;
            try {
                result = lent.connection().search(request);
            } catch (LDAPSearchException e) {
                gathering.end();
                if (e.getResultCode().intValue() == REFRESH_REQUIRED) {
                    throw new StaleCursor("the server asks for everything to be read again");
                }
                throw e;
            }
            gathering.end();
            var done = ContentSyncDoneControl.get(result);
            var next = done == null || done.getCookie() == null ? cookie : done.getCookie();
            cursor.append(' ')
                    .append(
                            next == null
                                    ? ""
                                    : Base64.getUrlEncoder().withoutPadding().encodeToString(next.getValue()));
            number++;
        }
        return cursor.toString();
    }

    private static final int REFRESH_REQUIRED = 4096;

    private String byTime(Lent lent, Reading reading, String[] parts, Sink sink) throws LDAPException {
        // The clocks of server and steward may differ a little, and one second holds many changes.
        var next = Instant.now().minusSeconds(5);
        var since = parts.length > 1
                ? "(modifyTimestamp>="
                        + StaticUtils.encodeGeneralizedTime(
                                Instant.parse(parts[1]).minusSeconds(120).toEpochMilli())
                        + ")"
                : "";
        for (var base : bases()) {
            PagedSearch.read(
                    lent.connection(),
                    base,
                    "(&(|" + PEOPLE + GROUPS + OUS + ")" + since + ")",
                    PagedSearch.PAGE,
                    page -> {
                        var gathering = new Gathering(reading, sink);
                        page.forEach(gathering::searchEntryReturned);
                        gathering.end();
                    },
                    attributes(reading));
        }
        return "time1 " + next;
    }

    /** People and groups may stand below different bases; one inside the other is read once. */
    private List<String> bases() throws LDAPException {
        var bases = new LinkedHashSet<>(List.of(part.base(), part.groupBase()));
        if (bases.size() == 2) {
            if (DN.isDescendantOf(part.base(), part.groupBase(), true)) {
                return List.of(part.groupBase());
            }
            if (DN.isDescendantOf(part.groupBase(), part.base(), true)) {
                return List.of(part.base());
            }
        }
        return List.copyOf(bases);
    }

    private static String[] attributes(Reading reading) {
        var attributes = new ArrayList<>(List.of(
                "objectClass",
                "entryUUID",
                "uid",
                "cn",
                "displayName",
                "mail",
                "mobile",
                "manager",
                "departmentNumber",
                "member",
                "uniqueMember",
                "pwdAccountLockedTime",
                "pwdChangedTime",
                "pwdReset",
                "pwdPolicySubentry",
                "authTimestamp",
                reading.correlation()));
        attributes.addAll(reading.loginAttributes());
        attributes.addAll(reading.attributes());
        return attributes.stream().distinct().toArray(String[]::new);
    }

    static StewardApi.Person person(SearchResultEntry e, Reading reading) {
        var locked = e.getAttributeValue("pwdAccountLockedTime");
        var logins = new ArrayList<String>();
        reading.loginAttributes().forEach(a -> logins.addAll(LdapText.values(e, a)));
        return new StewardApi.Person(
                UUID.fromString(e.getAttributeValue("entryUUID")),
                e.getDN(),
                login(e),
                logins,
                Optional.ofNullable(e.getAttributeValue("displayName")).orElse(e.getAttributeValue("cn")),
                e.getAttributeValue(reading.correlation()),
                e.getAttributeValue("departmentNumber"),
                e.getAttributeValue("mail"),
                // Any number of them (RFC 4524 section 2.16).
                LdapText.values(e, "mail").stream().skip(1).toList(),
                e.getAttributeValue("mobile"),
                e.getAttributeValue("manager"),
                LOCKED_FOR_EVER.equals(locked),
                locked != null,
                null,
                "TRUE".equalsIgnoreCase(e.getAttributeValue("pwdReset")),
                LdapText.millis(time(e.getAttributeValue("authTimestamp"))),
                LdapText.millis(time(e.getAttributeValue("pwdChangedTime"))),
                null,
                e.getAttributeValue("pwdPolicySubentry"),
                LdapText.named(e, reading.attributes()));
    }

    @Override
    public List<Finding> examine(Lent lent, Guard guard, String account, boolean mailNeeded) throws LDAPException {
        return new StandardLdapExamination(part, guard, lent.connection(), account, mailNeeded).findings();
    }
}
