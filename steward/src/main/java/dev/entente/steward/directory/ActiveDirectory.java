package dev.entente.steward.directory;

import com.unboundid.asn1.ASN1Integer;
import com.unboundid.asn1.ASN1OctetString;
import com.unboundid.asn1.ASN1Sequence;
import com.unboundid.ldap.sdk.Control;
import com.unboundid.ldap.sdk.Filter;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.Modification;
import com.unboundid.ldap.sdk.ModificationType;
import com.unboundid.ldap.sdk.ModifyRequest;
import com.unboundid.ldap.sdk.ResultCode;
import com.unboundid.ldap.sdk.SearchResultEntry;
import com.unboundid.ldap.sdk.SearchScope;
import dev.entente.core.attempt.Cause;
import dev.entente.core.scope.GroupGraph;
import dev.entente.core.seal.EcKey;
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
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Objects;
import java.util.Optional;
import java.util.UUID;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/** The Active Directory kind. */
final class ActiveDirectory implements DirectoryAdapter {
    private static final int ATTRIBUTE_UNICODE_PWD = 589914;
    // The domain's own accounts, such as krbtgt, are nobody's.
    static final String PEOPLE = "(&(objectCategory=person)(objectClass=user)(!(isCriticalSystemObject=TRUE))";
    private static final int ACCOUNT_DISABLED = 2;
    private static final int LOCKED_OUT = 16;
    private static final int STRICTEST_THRESHOLD = 2;
    private static final long MILLIS_FROM_1601 = 11_644_473_600_000L;
    private static final Pattern BIND_DATA = Pattern.compile("data ([0-9a-fA-F]+)");
    private static final List<String> RIGHT = List.of("530", "531", "532", "533", "701", "773");

    private static final String IN_CHAIN = "1.2.840.113556.1.4.1941";

    private final TargetPart.Ldap part;
    private final Servers servers;

    ActiveDirectory(TargetPart.Ldap part, Servers servers) {
        this.part = part;
        this.servers = servers;
    }

    @Override
    public Optional<Entry> find(Lent lent, UUID id) throws LDAPException {
        var filter = Filter.createEqualityFilter("objectGUID", guid(id));
        var found = lent.connection()
                .searchForEntry(
                        part.base(),
                        SearchScope.SUB,
                        filter,
                        "sAMAccountName",
                        "displayName",
                        "givenName",
                        "sn",
                        "replPropertyMetaData",
                        "msDS-User-Account-Control-Computed",
                        "badPwdCount",
                        "pwdLastSet");
        if (found == null) {
            return Optional.empty();
        }
        var control = found.getAttributeValueAsInteger("msDS-User-Account-Control-Computed");
        var wrong = found.getAttributeValueAsInteger("badPwdCount");
        var set = found.getAttributeValueAsLong("pwdLastSet");
        return Optional.of(new Entry(
                id,
                found.getDN(),
                found.getAttributeValue("sAMAccountName"),
                present(found, "sAMAccountName", "displayName", "givenName", "sn"),
                version(found),
                control != null && (control & LOCKED_OUT) != 0,
                wrong == null ? 0 : wrong,
                time(set),
                set != null && set == 0));
    }

    /** Active Directory writes a GUID's first three parts in little-endian order. */
    private static byte[] guid(UUID id) {
        return ByteBuffer.allocate(16)
                .order(ByteOrder.LITTLE_ENDIAN)
                .putInt((int) (id.getMostSignificantBits() >>> 32))
                .putShort((short) (id.getMostSignificantBits() >>> 16))
                .putShort((short) id.getMostSignificantBits())
                .order(ByteOrder.BIG_ENDIAN)
                .putLong(id.getLeastSignificantBits())
                .array();
    }

    static UUID guid(byte[] bytes) {
        var buffer = ByteBuffer.wrap(bytes).order(ByteOrder.LITTLE_ENDIAN);
        var first = Integer.toUnsignedLong(buffer.getInt());
        var second = Short.toUnsignedLong(buffer.getShort());
        var third = Short.toUnsignedLong(buffer.getShort());
        return new UUID(
                first << 32 | second << 16 | third,
                buffer.order(ByteOrder.BIG_ENDIAN).getLong());
    }

    /**
     * The version of unicodePwd in replPropertyMetaData: after a header of 16 bytes (version, reserved, count, reserved), 48
     * bytes for each attribute: its number, its version, and where and when it was written.
     */
    private static String version(SearchResultEntry found) throws LDAPException {
        var blob = found.getAttributeValueBytes("replPropertyMetaData");
        if (blob == null || blob.length < 16) {
            throw new LDAPException(
                    ResultCode.INSUFFICIENT_ACCESS_RIGHTS,
                    "replPropertyMetaData cannot be read, so no write is judged");
        }
        var buffer = ByteBuffer.wrap(blob).order(ByteOrder.LITTLE_ENDIAN);
        var count = buffer.getInt(8);
        for (var i = 0; i < count && 16 + 48 * (i + 1) <= blob.length; i++) {
            if (buffer.getInt(16 + 48 * i) == ATTRIBUTE_UNICODE_PWD) {
                return String.valueOf(buffer.getInt(16 + 48 * i + 4));
            }
        }
        return "0";
    }

    /** Where the server offers it, the policy-hints control makes a reset obey history and minimum age too. */
    @Override
    public ModifyRequest reset(Lent lent, Entry entry, String password, boolean clearLockout, boolean mustChange)
            throws LDAPException {
        var modify = new ModifyRequest(
                entry.dn(), new Modification(ModificationType.REPLACE, "unicodePwd", quoted(password)));
        if (clearLockout) {
            modify.addModification(new Modification(ModificationType.REPLACE, "lockoutTime", "0"));
        }
        if (mustChange) {
            modify.addModification(new Modification(ModificationType.REPLACE, "pwdLastSet", "0"));
        }
        if (servers.offers(lent, LdapText.POLICY_HINTS)) {
            modify.addControl(new Control(
                    LdapText.POLICY_HINTS, true, new ASN1OctetString(new ASN1Sequence(new ASN1Integer(1)).encode())));
        }
        return modify;
    }

    @Override
    public ModifyRequest change(Entry entry, String old, String password) {
        return new ModifyRequest(
                entry.dn(),
                new Modification(ModificationType.DELETE, "unicodePwd", quoted(old)),
                new Modification(ModificationType.ADD, "unicodePwd", quoted(password)));
    }

    @Override
    public ModifyRequest unlock(Entry entry) {
        return new ModifyRequest(entry.dn(), new Modification(ModificationType.REPLACE, "lockoutTime", "0"));
    }

    private static byte[] quoted(String password) {
        return ("\"" + password + "\"").getBytes(StandardCharsets.UTF_16LE);
    }

    @Override
    public boolean bindsBeforeChange() {
        return false;
    }

    /** Rules that apply to one account alone may be stricter than the domain's, and are often not readable. */
    private record Rules(int threshold, long minimumAge) {}

    private Rules rules(Lent lent, Entry entry) throws LDAPException {
        var resultant = lent.connection().getEntry(entry.dn(), "msDS-ResultantPSO");
        var own = resultant == null ? null : resultant.getAttributeValue("msDS-ResultantPSO");
        if (own != null) {
            var found = lent.connection().getEntry(own, "msDS-LockoutThreshold", "msDS-MinimumPasswordAge");
            if (found == null || found.getAttributeValue("msDS-LockoutThreshold") == null) {
                return new Rules(STRICTEST_THRESHOLD, 0);
            }
            return new Rules(
                    found.getAttributeValueAsInteger("msDS-LockoutThreshold"),
                    number(found, "msDS-MinimumPasswordAge"));
        }
        var head = head(lent, "lockoutThreshold", "minPwdAge");
        var threshold = head.getAttributeValueAsInteger("lockoutThreshold");
        return new Rules(threshold == null ? STRICTEST_THRESHOLD : threshold, number(head, "minPwdAge"));
    }

    @Override
    public int triesLeft(Lent lent, Entry entry) throws LDAPException {
        var threshold = rules(lent, entry).threshold();
        return threshold == 0 ? Integer.MAX_VALUE : threshold - entry.wrongTries();
    }

    @Override
    public Optional<Instant> earliestChange(Lent lent, Entry entry) throws LDAPException {
        var age = -rules(lent, entry).minimumAge();
        return age <= 0 || entry.setAt() == null
                ? Optional.empty()
                : Optional.of(entry.setAt().plusMillis(age / 10_000));
    }

    private SearchResultEntry head(Lent lent, String... attributes) throws LDAPException {
        var root = lent.connection().getRootDSE();
        var head = root == null
                ? null
                : lent.connection().getEntry(root.getAttributeValue("defaultNamingContext"), attributes);
        if (head == null) {
            throw new LDAPException(ResultCode.NO_SUCH_OBJECT, "the domain head cannot be read");
        }
        return head;
    }

    private static long number(SearchResultEntry entry, String attribute) {
        var value = entry.getAttributeValueAsLong(attribute);
        return value == null ? 0 : value;
    }

    /** Times are counted in 100 ns from 1601; 0 and the largest number mean none. */
    private static Instant time(Long ticks) {
        return ticks == null || ticks <= 0 || ticks == Long.MAX_VALUE
                ? null
                : Instant.ofEpochMilli(ticks / 10_000 - MILLIS_FROM_1601);
    }

    @Override
    public Refusal refusal(LDAPException error) {
        var diagnostic = Objects.requireNonNullElse(error.getDiagnosticMessage(), "");
        var detail = error.getResultCode().intValue() + " " + LdapText.bounded(diagnostic);
        var said = diagnostic.toLowerCase(Locale.ROOT);
        var cause = switch (error.getResultCode().intValue()) {
            case 50 -> Cause.NO_RIGHT;
            case 32 -> Cause.NO_ENTRY;
            case 19 -> {
                if (said.startsWith("00000056")) {
                    yield Cause.WRONG_OLD;
                } else if (said.startsWith("00000775")) {
                    yield Cause.LOCKED;
                } else if (said.contains("history")
                        || said.contains("already used")
                        || said.contains("recently used")) {
                    yield Cause.USED_BEFORE;
                } else if (said.contains("short") || said.contains("at least")) {
                    yield Cause.TOO_SHORT;
                } else if (said.contains("complex")) {
                    yield Cause.NOT_COMPLEX;
                } else if (said.contains("recent")
                        || said.contains("too soon")
                        || said.contains("minimum password age")) {
                    yield Cause.TOO_RECENT;
                }
                yield Cause.DIRECTORY_RULES;
            }
            case 53 -> Cause.DIRECTORY_RULES;
            default -> Cause.DIRECTORY_ERROR;
        };
        return new Refusal(cause, detail);
    }

    @Override
    public Judged judge(LDAPException error) {
        if (!error.getResultCode().equals(ResultCode.INVALID_CREDENTIALS)) {
            return new Judged(
                    Proof.SAYS_NOTHING, String.valueOf(error.getResultCode().intValue()));
        }
        var match = BIND_DATA.matcher(Objects.requireNonNullElse(error.getDiagnosticMessage(), ""));
        var data = match.find() ? match.group(1).toLowerCase(Locale.ROOT) : "?";
        var proof = RIGHT.contains(data) ? Proof.RIGHT : data.equals("52e") ? Proof.WRONG : Proof.SAYS_NOTHING;
        return new Judged(proof, "49/" + data);
    }

    /** In-chain matching, which copes with cycles. */
    @Override
    public boolean memberOf(Lent lent, Entry entry, List<String> groups) throws LDAPException {
        if (groups.isEmpty()) {
            return false;
        }
        var nested = groups.stream()
                .map(group -> Filter.createExtensibleMatchFilter("memberOf", IN_CHAIN, false, group))
                .toList();
        if (lent.connection().searchForEntry(entry.dn(), SearchScope.BASE, Filter.createORFilter(nested), "1.1")
                != null) {
            return true;
        }
        // The primary group lists nobody: it is named by the account, by the last part of its security identifier.
        var own = lent.connection().getEntry(entry.dn(), "objectSid", "primaryGroupID");
        if (own == null || !own.hasAttribute("objectSid") || !own.hasAttribute("primaryGroupID")) {
            throw new LDAPException(ResultCode.NO_SUCH_ATTRIBUTE, "the primary group cannot be read");
        }
        var sid = own.getAttributeValueBytes("objectSid").clone();
        var relative = own.getAttributeValueAsInteger("primaryGroupID");
        for (var i = 0; i < 4; i++) {
            sid[sid.length - 4 + i] = (byte) (relative >>> (8 * i));
        }
        var primary = lent.connection()
                .searchForEntry(
                        head(lent),
                        SearchScope.SUB,
                        Filter.createEqualityFilter("objectSid", sid),
                        "distinguishedName");
        if (primary == null) {
            throw new LDAPException(ResultCode.NO_SUCH_OBJECT, "the primary group cannot be read");
        }
        var wanted = groups.stream().map(GroupGraph::key).toList();
        return wanted.contains(GroupGraph.key(primary.getDN()))
                || lent.connection()
                                .searchForEntry(primary.getDN(), SearchScope.BASE, Filter.createORFilter(nested), "1.1")
                        != null;
    }

    /** Where the domain begins: the primary group may be outside the bases of the steward's file. */
    private String head(Lent lent) throws LDAPException {
        var root = lent.connection().getRootDSE();
        var head = root == null ? null : root.getAttributeValue("defaultNamingContext");
        return head == null ? part.base() : head;
    }

    /**
     * The cursor is {@code ad1 SERVER HIGHEST-USN}: update sequence numbers mean something on one server only, so another
     * server starts from the beginning. The highest number is read before anything else, so that nothing is missed.
     */
    @Override
    public String read(Lent lent, Reading reading, Sink sink) throws LDAPException, StaleCursor {
        var root = lent.connection().getRootDSE();
        var highest = root.getAttributeValue("highestCommittedUSN");
        var server = EcKey.digest(String.valueOf(root.getAttributeValue("dsServiceName")));
        var since = "";
        if (reading.cursor() != null) {
            var parts = reading.cursor().split(" ", -1);
            if (parts.length != 3 || !parts[0].equals("ad1") || !parts[1].equals(server)) {
                throw new StaleCursor("update sequence numbers are another server's");
            }
            if (Long.parseLong(parts[2]) > Long.parseLong(highest)) {
                throw new StaleCursor("the server's update sequence number went back: it was restored");
            }
            if (parts[2].equals(highest)) {
                return reading.cursor();
            }
            since = "(uSNChanged>=" + (Long.parseLong(parts[2]) + 1) + ")";
        }
        readPeople(lent, reading, since, sink);
        PagedSearch.read(
                lent.connection(),
                part.groupBase(),
                "(&(objectClass=group)" + since + ")",
                PagedSearch.GROUPS_AT_ONCE,
                groups -> {
                    for (var group : groups) {
                        members(lent, group, sink);
                    }
                },
                "sAMAccountName",
                "member");
        PagedSearch.read(
                lent.connection(),
                part.groupBase(),
                "(&(objectClass=organizationalUnit)" + since + ")",
                PagedSearch.PAGE,
                page -> sink.take(StewardApi.Batch.ous(
                        page.stream().map(SearchResultEntry::getDN).toList())),
                "1.1");
        return "ad1 " + server + " " + highest;
    }

    private void readPeople(Lent lent, Reading reading, String since, Sink sink) throws LDAPException {
        var attributes = new ArrayList<>(List.of(
                "objectGUID",
                "sAMAccountName",
                "userPrincipalName",
                "displayName",
                "cn",
                "mail",
                "otherMailbox",
                "mobile",
                "department",
                "manager",
                "userAccountControl",
                "lockoutTime",
                "accountExpires",
                "pwdLastSet",
                "lastLogonTimestamp",
                "msDS-UserPasswordExpiryTimeComputed",
                "msDS-ResultantPSO",
                reading.correlation()));
        attributes.addAll(reading.loginAttributes());
        attributes.addAll(reading.attributes());
        PagedSearch.read(
                lent.connection(),
                part.base(),
                PEOPLE + since + ")",
                PagedSearch.PAGE,
                page -> sink.take(StewardApi.Batch.people(
                        page.stream().map(e -> person(e, reading)).toList())),
                attributes.toArray(String[]::new));
    }

    /** Many members come in ranges: {@code member;range=0-1499}, then the next. */
    private static void members(Lent lent, SearchResultEntry group, Sink sink) throws LDAPException {
        var name = group.getAttributeValue("sAMAccountName");
        var first = true;
        var entry = group;
        while (true) {
            var ranged = entry.getAttributes().stream()
                    .filter(a -> a.getBaseName().equalsIgnoreCase("member")
                            && (a.getName().contains(";range=") || a.size() > 0))
                    .max(Comparator.comparing(a -> a.getName().contains(";range=")));
            var members = ranged.map(a -> List.of(a.getValues())).orElse(List.of());
            for (var from = 0; from == 0 || from < members.size(); from += PagedSearch.MEMBERS) {
                sink.take(StewardApi.Batch.group(new StewardApi.Group(
                        group.getDN(),
                        name,
                        members.subList(from, Math.min(members.size(), from + PagedSearch.MEMBERS)),
                        first)));
                first = false;
            }
            var range = ranged.map(a -> a.getName()).filter(n -> n.contains(";range=") && !n.endsWith("-*"));
            if (range.isEmpty()) {
                return;
            }
            var next = Integer.parseInt(range.get().substring(range.get().lastIndexOf('-') + 1)) + 1;
            entry = lent.connection().getEntry(group.getDN(), "member;range=" + next + "-*");
            if (entry == null) {
                return;
            }
        }
    }

    private static StewardApi.Person person(SearchResultEntry e, Reading reading) {
        var control = e.getAttributeValueAsInteger("userAccountControl");
        var set = e.getAttributeValueAsLong("pwdLastSet");
        var expires = time(e.getAttributeValueAsLong("accountExpires"));
        var logins = new ArrayList<String>();
        var upn = e.getAttributeValue("userPrincipalName");
        if (upn != null) {
            logins.add(upn);
        }
        reading.loginAttributes().forEach(a -> logins.addAll(LdapText.values(e, a)));
        return new StewardApi.Person(
                guid(e.getAttributeValueBytes("objectGUID")),
                e.getDN(),
                e.getAttributeValue("sAMAccountName"),
                logins,
                Optional.ofNullable(e.getAttributeValue("displayName")).orElse(e.getAttributeValue("cn")),
                e.getAttributeValue(reading.correlation()),
                e.getAttributeValue("department"),
                e.getAttributeValue("mail"),
                LdapText.values(e, "otherMailbox"),
                e.getAttributeValue("mobile"),
                e.getAttributeValue("manager"),
                control != null && (control & ACCOUNT_DISABLED) != 0,
                number(e, "lockoutTime") > 0,
                LdapText.millis(expires),
                set != null && set == 0,
                LdapText.millis(time(e.getAttributeValueAsLong("lastLogonTimestamp"))),
                LdapText.millis(time(set)),
                LdapText.millis(time(e.getAttributeValueAsLong("msDS-UserPasswordExpiryTimeComputed"))),
                e.getAttributeValue("msDS-ResultantPSO"),
                LdapText.named(e, reading.attributes()));
    }

    @Override
    public List<Finding> examine(Lent lent, Guard guard, String account, boolean mailNeeded) throws LDAPException {
        return new ActiveDirectoryExamination(part, guard, lent.connection(), account, mailNeeded).findings();
    }

    static List<String> present(SearchResultEntry entry, String... attributes) {
        return Stream.of(attributes)
                .map(entry::getAttributeValue)
                .filter(Objects::nonNull)
                .toList();
    }
}
