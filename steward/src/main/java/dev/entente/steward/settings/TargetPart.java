package dev.entente.steward.settings;

import dev.entente.steward.settings.StewardFile.Unusable;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Set;
import java.util.regex.Pattern;
import java.util.stream.Stream;

/** Where a steward writes passwords, as its file says: each kind of target has what it needs and nothing else. */
public sealed interface TargetPart {
    /** How long an answer may take. */
    Duration timeout();

    /** How many orders are worked on at once. */
    int connections();

    /** What is trusted to be the directory's server. */
    sealed interface Trust {}

    /** @param file certificate authorities, PEM */
    record Authorities(Path file) implements Trust {}

    /** @param key SHA-256 of the server's public key, base64 */
    record Pin(String key) implements Trust {}

    /** How the service account signs in. */
    sealed interface Account {}

    /**
     * @param name distinguished name
     * @param file holds its password
     * @param nextFile may hold the password that it is being changed to, or null
     */
    record PasswordAccount(String name, Path file, Path nextFile) implements Account {}

    /**
     * A client certificate (SASL EXTERNAL).
     *
     * @param certificate PEM
     * @param key PEM
     */
    record CertificateAccount(Path certificate, Path key) implements Account {}

    /**
     * A Kerberos account (SASL GSSAPI).
     *
     * @param principal such as {@code steward1$@EXAMPLE.ORG}
     * @param keytab holds its keys
     * @param realm in upper case
     * @param kdc host that issues tickets
     * @param server the name that the directory server's tickets are for, or null for the name in its address
     */
    record KerberosAccount(String principal, Path keytab, String realm, String kdc, String server) implements Account {}

    /**
     * A directory that speaks LDAP.
     *
     * @param activeDirectory whether it is a domain controller; a standard directory otherwise
     * @param servers {@code ldaps://host:port}, or {@code ldap://host:port} for StartTLS, in order of preference
     * @param base below which people are read
     * @param groupBase below which groups and OUs are read
     * @param probe a dedicated account to try rights on, or null
     * @param connections 1 to 64
     */
    record Ldap(
            boolean activeDirectory,
            List<String> servers,
            Trust trust,
            String base,
            String groupBase,
            Account account,
            String probe,
            Duration timeout,
            int connections)
            implements TargetPart {
        /** The service account's distinguished name; null where it signs in otherwise. */
        public String accountName() {
            return account instanceof PasswordAccount password ? password.name() : null;
        }
    }

    /**
     * A SCIM service (RFC 7644).
     *
     * @param servers base addresses
     * @param ca certificate authorities, PEM; null for those of the system
     * @param tokenFile holds the bearer token
     */
    record Scim(List<String> servers, Path ca, Path tokenFile, Duration timeout, int connections)
            implements TargetPart {}

    /** @param command the executable */
    record Local(Path command, Duration timeout, int connections) implements TargetPart {}

    private static TargetPart ldap(FilePart part, boolean activeDirectory, Path here) throws Unusable {
        var servers = part.list("servers");
        var server = Pattern.compile("ldaps?://[^/\\s]+");
        if (servers.isEmpty()
                || !servers.stream().allMatch(s -> server.matcher(s).matches())) {
            throw new Unusable(
                    "directory.servers must list addresses such as ldaps://host:636, or ldap://host:389 for StartTLS");
        }
        if (part.has("ca") == part.has("pin")) {
            throw new Unusable("directory needs one of ca (certificates to trust) and pin (the server's key)");
        }
        var account = account(part, here);
        var connections = part.number("connections", 8);
        if (connections > 64) {
            throw new Unusable("directory.connections can be at most 64");
        }
        return new Ldap(
                activeDirectory,
                servers,
                part.has("pin") ? new Pin(part.text("pin")) : new Authorities(part.path("ca", here)),
                part.text("base"),
                part.has("group-base") ? part.text("group-base") : part.text("base"),
                account,
                part.has("probe") ? part.text("probe") : null,
                part.duration("timeout", TIMEOUT),
                connections);
    }

    private static Account account(FilePart part, Path here) throws Unusable {
        if (Stream.of("password-file", "certificate", "kerberos")
                        .filter(part::has)
                        .count()
                != 1) {
            throw new Unusable("directory needs exactly one way to sign in: password-file, certificate or kerberos");
        }
        if (part.has("certificate")) {
            return new CertificateAccount(part.path("certificate", here), here.resolve(part.text("certificate-key")));
        }
        if (part.has("password-file")) {
            return new PasswordAccount(
                    part.text("bind"), part.path("password-file", here), part.path("next-password-file", here));
        }
        var kerberos = new FilePart(
                "directory.kerberos.",
                part.required("kerberos"),
                Set.of("principal", "keytab", "realm", "kdc", "server"));
        return new KerberosAccount(
                kerberos.text("principal"),
                here.resolve(kerberos.text("keytab")),
                kerberos.text("realm"),
                kerberos.text("kdc"),
                kerberos.has("server") ? kerberos.text("server") : null);
    }

    private static TargetPart scim(FilePart part, Path here) throws Unusable {
        var servers = part.list("servers");
        var web = Pattern.compile("https://[^\\s]+|http://(localhost|127\\.0\\.0\\.1)(:\\d+)?(/[^\\s]*)?");
        if (servers.isEmpty() || !servers.stream().allMatch(s -> web.matcher(s).matches())) {
            throw new Unusable("directory.servers must list addresses such as https://host/path");
        }
        return new Scim(
                servers,
                part.path("ca", here),
                here.resolve(part.text("token-file")),
                part.duration("timeout", TIMEOUT),
                part.number("connections", 4));
    }

    private static TargetPart local(FilePart part, Path here) throws Unusable {
        return new Local(
                here.resolve(part.text("command")), part.duration("timeout", TIMEOUT), part.number("connections", 4));
    }

    /** Unless the file says otherwise. */
    Duration TIMEOUT = Duration.ofSeconds(8);

    /** Reads the part {@code directory}; paths are taken relative to {@code here}. */
    static TargetPart read(Object directory, Path here) throws Unusable {
        var part = new FilePart(
                "directory.",
                directory,
                Set.of(
                        "kind",
                        "servers",
                        "ca",
                        "pin",
                        "base",
                        "group-base",
                        "bind",
                        "password-file",
                        "next-password-file",
                        "certificate",
                        "certificate-key",
                        "kerberos",
                        "token-file",
                        "command",
                        "probe",
                        "timeout",
                        "connections"));
        var kind = part.text("kind");
        return switch (kind) {
            case "active-directory" -> ldap(part, true, here);
            case "ldap" -> ldap(part, false, here);
            case "scim" -> scim(part, here);
            case "local" -> local(part, here);
            default -> throw new Unusable("directory.kind must be active-directory, ldap, scim or local, not " + kind);
        };
    }
}
