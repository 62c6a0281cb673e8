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
import dev.entente.core.attempt.Cause;
import dev.entente.wire.AdminApi.Finding;
import dev.entente.wire.StewardApi;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Objects;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Consumer;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/** The Active Directory kind. */
final class ActiveDirectory implements DirectoryAdapter {
    private static final int ATTRIBUTE_UNICODE_PWD = 589914;
    private static final int ACCOUNT_DISABLED = 2;
    private static final Pattern BIND_DATA = Pattern.compile("data ([0-9a-fA-F]+)");
    private static final List<String> RIGHT = List.of("530", "531", "532", "533", "701", "773");

    @Override
    public Optional<Entry> find(LDAPConnection connection, String base, UUID id) throws LDAPException {
        var filter = Filter.createEqualityFilter("objectGUID", guid(id));
        var found = connection.searchForEntry(
                base, SearchScope.SUB, filter, "sAMAccountName", "displayName", "givenName", "sn", "mail");
        return Optional.ofNullable(found)
                .map(e -> new Entry(
                        id,
                        e.getDN(),
                        e.getAttributeValue("sAMAccountName"),
                        present(e, "sAMAccountName", "displayName", "givenName", "sn")));
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

    private static UUID guid(byte[] bytes) {
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
    @Override
    public String version(LDAPConnection connection, Entry entry) throws LDAPException {
        var found = connection.getEntry(entry.dn(), "replPropertyMetaData");
        var blob = found == null ? null : found.getAttributeValueBytes("replPropertyMetaData");
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

    @Override
    public ModifyRequest write(Entry entry, String version, String password, boolean clearLockout, boolean mustChange) {
        var quoted = ("\"" + password + "\"").getBytes(StandardCharsets.UTF_16LE);
        var modify = new ModifyRequest(entry.dn(), new Modification(ModificationType.REPLACE, "unicodePwd", quoted));
        if (clearLockout) {
            modify.addModification(new Modification(ModificationType.REPLACE, "lockoutTime", "0"));
        }
        if (mustChange) {
            modify.addModification(new Modification(ModificationType.REPLACE, "pwdLastSet", "0"));
        }
        return modify;
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
                if (said.contains("history") || said.contains("already used") || said.contains("recently used")) {
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
    public boolean memberOf(LDAPConnection connection, String base, Entry entry, List<String> groups)
            throws LDAPException {
        for (var group : groups) {
            var filter = Filter.createExtensibleMatchFilter("memberOf", "1.2.840.113556.1.4.1941", false, group);
            if (connection.searchForEntry(entry.dn(), SearchScope.BASE, filter, "1.1") != null) {
                return true;
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
        PagedSearch.read(
                connection,
                base,
                "(objectClass=group)",
                page -> batches.accept(new StewardApi.Batch(
                        List.of(),
                        page.stream()
                                .map(e -> new StewardApi.Group(
                                        e.getDN(), e.getAttributeValue("sAMAccountName"), values(e, "memberOf")))
                                .toList(),
                        List.of())),
                "sAMAccountName",
                "memberOf");
        PagedSearch.read(
                connection,
                base,
                "(&(objectCategory=person)(objectClass=user))",
                page -> batches.accept(new StewardApi.Batch(
                        page.stream().map(e -> person(e, correlation)).toList(), List.of(), List.of())),
                "objectGUID",
                "sAMAccountName",
                "userPrincipalName",
                "displayName",
                "cn",
                "mail",
                "department",
                "userAccountControl",
                "lockoutTime",
                "memberOf",
                correlation);
    }

    private static StewardApi.Person person(SearchResultEntry e, String correlation) {
        var control = e.getAttributeValueAsInteger("userAccountControl");
        var lockout = e.getAttributeValueAsLong("lockoutTime");
        var logins = new ArrayList<String>();
        var upn = e.getAttributeValue("userPrincipalName");
        if (upn != null) {
            logins.add(upn);
        }
        return new StewardApi.Person(
                guid(e.getAttributeValueBytes("objectGUID")),
                e.getDN(),
                e.getAttributeValue("sAMAccountName"),
                logins,
                Optional.ofNullable(e.getAttributeValue("displayName")).orElse(e.getAttributeValue("cn")),
                e.getAttributeValue(correlation),
                e.getAttributeValue("department"),
                e.getAttributeValue("mail"),
                control != null && (control & ACCOUNT_DISABLED) != 0,
                lockout != null && lockout > 0,
                values(e, "memberOf"));
    }

    @Override
    public List<Finding> examine(LDAPConnection connection, String base, String serviceAccount, String probe)
            throws LDAPException {
        var findings = new ArrayList<Finding>();
        findings.add(clock(connection));
        findings.addAll(rules(connection));
        if (probe == null) {
            findings.add(new Finding(
                    "warning",
                    "no-probe",
                    "The right to set passwords was not tried: no dedicated account is named for it.",
                    "directory.probe is not set in the steward's file",
                    "Make an account that nobody uses where people are, and name it as directory.probe in the steward's"
                            + " file. Never a person's."));
            return findings;
        }
        var effective = connection.getEntry(probe, "allowedAttributesEffective");
        if (effective == null) {
            findings.add(LdapText.noProbe(probe));
            return findings;
        }
        findings.add(LdapText.resetRight(connection, probe, harmless(), 53, "the delegation Reset Password"));
        var writable = Arrays.stream(Objects.requireNonNullElse(
                        effective.getAttributeValues("allowedAttributesEffective"), new String[0]))
                .map(a -> a.toLowerCase(Locale.ROOT))
                .toList();
        findings.add(LdapText.attributeRight(writable, "lockoutTime", "clear a lockout"));
        findings.add(LdapText.attributeRight(writable, "pwdLastSet", "ask for a change at the next sign-in"));
        return findings;
    }

    private static Finding clock(LDAPConnection connection) throws LDAPException {
        var text = connection.getRootDSE().getAttributeValue("currentTime");
        if (text == null || text.length() < 14) {
            return new Finding("info", "clock-unknown", "The server does not tell its time.", "", "");
        }
        var there = LocalDateTime.parse(text.substring(0, 14), DateTimeFormatter.ofPattern("yyyyMMddHHmmss"))
                .toInstant(ZoneOffset.UTC);
        var apart = Math.abs(Instant.now().getEpochSecond() - there.getEpochSecond());
        return apart <= 60
                ? new Finding("ok", "clock", "The clocks agree.", apart + " s apart", "")
                : new Finding(
                        "error",
                        "clock",
                        "The clocks of this steward and the directory are apart.",
                        apart + " s",
                        "Let both follow the same time source; signatures and Kerberos need it.");
    }

    private static List<Finding> rules(LDAPConnection connection) throws LDAPException {
        var head = connection.getEntry(
                connection.getRootDSE().getAttributeValue("defaultNamingContext"),
                "minPwdLength",
                "pwdProperties",
                "pwdHistoryLength",
                "minPwdAge",
                "lockoutThreshold");
        var findings = new ArrayList<Finding>();
        var complex = (head.getAttributeValueAsInteger("pwdProperties") & 1) == 1;
        findings.add(new Finding(
                "info",
                "directory-rules",
                "The directory asks for at least " + head.getAttributeValue("minPwdLength") + " characters"
                        + (complex ? " of three kinds without the person's name" : "") + " and remembers "
                        + head.getAttributeValue("pwdHistoryLength") + " passwords; it locks after "
                        + head.getAttributeValue("lockoutThreshold") + " wrong ones.",
                "read from the domain head",
                "Keep the policy's password rules at least as strict, so that people see them while typing."));
        var age = head.getAttributeValueAsLong("minPwdAge");
        if (age != null && age < 0) {
            findings.add(new Finding(
                    "warning",
                    "minimum-age",
                    "The directory has a minimum password age of " + -age / 36_000_000_000L
                            + " hours: a person who changes a password right after a reset is refused.",
                    "minPwdAge " + age,
                    "Set it to 0 if people should be able to change a password again at once."));
        }
        findings.add(LdapText.policyHints(connection));
        return findings;
    }

    /** One byte is no password: refused with 53 where the right is held and 50 where it is not; nothing is stored. */
    private static Modification harmless() {
        return new Modification(ModificationType.REPLACE, "unicodePwd", new byte[] {'x'});
    }

    private static List<String> values(SearchResultEntry entry, String attribute) {
        var values = entry.getAttributeValues(attribute);
        return values == null ? List.of() : List.of(values);
    }

    private static List<String> present(SearchResultEntry entry, String... attributes) {
        return Stream.of(attributes)
                .map(entry::getAttributeValue)
                .filter(Objects::nonNull)
                .toList();
    }
}
