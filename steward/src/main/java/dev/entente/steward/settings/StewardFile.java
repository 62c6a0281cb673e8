package dev.entente.steward.settings;

import java.io.IOException;
import java.nio.charset.CharacterCodingException;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.snakeyaml.engine.v2.api.Load;
import org.snakeyaml.engine.v2.api.LoadSettings;
import org.snakeyaml.engine.v2.exceptions.MarkedYamlEngineException;
import org.snakeyaml.engine.v2.exceptions.YamlEngineException;

/**
 * The steward's own file. The service cannot widen anything in it.
 *
 * @param service where the service is
 * @param serviceCa certificate authority of the service in PEM form, or null for the system's
 * @param state folder for keys and journal; belongs to this steward alone
 * @param directory the directory beside it
 * @param guard what it never does, whatever the service asks
 */
public record StewardFile(String service, Path serviceCa, Path state, DirectoryPart directory, Guard guard) {
    private static final Pattern DURATION = Pattern.compile("([0-9]{1,4})(s|m|h)");
    private static final Pattern SERVER = Pattern.compile("ldaps?://[^/\\s]+");
    private static final Pattern WEB =
            Pattern.compile("https://[^\\s]+|http://(localhost|127\\.0\\.0\\.1)(:\\d+)?(/[^\\s]*)?");
    private static final Pattern SERVICE = Pattern.compile(
            "https://[^\\s/]+/?|http://(localhost|127\\.\\d{1,3}\\.\\d{1,3}\\.\\d{1,3}|\\[::1\\])(:\\d+)?/?");
    private static final Set<String> KINDS = Set.of("active-directory", "ldap", "scim", "local");
    private static final Set<String> ACTIONS = Set.of("reset", "unlock", "change", "temporary");

    /**
     * How to reach the directory.
     *
     * @param kind {@code active-directory} or {@code ldap}
     * @param servers {@code ldaps://host:port}, or {@code ldap://host:port} for StartTLS, in order of preference
     * @param ca certificate authorities of the servers, PEM; null where a key is pinned
     * @param pin SHA-256 of the server's public key, base64, or null
     * @param base below which people are read
     * @param groupBase below which groups and OUs are read
     * @param bind distinguished name of the service account, or null
     * @param passwordFile holds its password, or null
     * @param nextPasswordFile may hold the password that it is being changed to, or null
     * @param certificate signs in with this client certificate (SASL EXTERNAL), PEM, or null
     * @param certificateKey its private key, PEM, or null
     * @param kerberos signs in with a keytab (SASL GSSAPI), or null
     * @param probe a dedicated account to try rights on, or null
     * @param tokenFile for {@code scim}: holds the bearer token
     * @param command for {@code local}: the executable
     * @param timeout how long an answer may take
     * @param connections how many connections work at once for orders, 1 to 64
     */
    public record DirectoryPart(
            String kind,
            List<String> servers,
            Path ca,
            String pin,
            String base,
            String groupBase,
            String bind,
            Path passwordFile,
            Path nextPasswordFile,
            Path certificate,
            Path certificateKey,
            Kerberos kerberos,
            String probe,
            Path tokenFile,
            Path command,
            Duration timeout,
            int connections) {}

    /**
     * A Kerberos account.
     *
     * @param principal such as {@code steward1$@EXAMPLE.ORG}
     * @param keytab holds its keys
     * @param realm in upper case
     * @param kdc host that issues tickets
     * @param server the name that the directory server's tickets are for, or null for the name in its address
     */
    public record Kerberos(String principal, Path keytab, String realm, String kdc, String server) {}

    /**
     * Guard rails.
     *
     * @param bases entries below these may be written, no others
     * @param protectedGroups members, nested, are never written
     * @param protectedAccounts are never written
     * @param sealAge a seal that is valid longer than this is refused
     * @param writesPerMinute over all accounts
     * @param writesPerDay over all accounts
     * @param pausePerAccount no account is written twice within this time
     * @param actions what it does at all: {@code reset}, {@code unlock}, {@code change}, {@code temporary}
     */
    public record Guard(
            List<String> bases,
            List<String> protectedGroups,
            List<String> protectedAccounts,
            Duration sealAge,
            int writesPerMinute,
            int writesPerDay,
            Duration pausePerAccount,
            Set<String> actions) {}

    /** The file cannot be used; the message says what to mend. */
    public static final class Unusable extends Exception {
        public Unusable(String message) {
            super(message);
        }
    }

    /** Reads it; paths are taken relative to the file. */
    public static StewardFile read(Path file) throws Unusable {
        try {
            var loaded = new Load(
                            LoadSettings.builder().setLabel(file.toString()).build())
                    .loadFromString(Files.readString(file));
            var here = file.toAbsolutePath().getParent();
            var root = new Part("", loaded, Set.of("service", "service-ca", "state", "directory", "guard"));
            var directory = new Part(
                    "directory.",
                    root.required("directory"),
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
            var guard = new Part(
                    "guard.",
                    root.required("guard"),
                    Set.of(
                            "bases",
                            "protected-groups",
                            "protected-accounts",
                            "seal-age",
                            "writes-per-minute",
                            "writes-per-day",
                            "pause-per-account",
                            "actions"));
            var bases = guard.list("bases");
            if (bases.isEmpty()) {
                throw new Unusable("guard.bases is empty; list the entries this steward may write below");
            }
            var kind = directory.text("kind");
            if (!KINDS.contains(kind)) {
                throw new Unusable("directory.kind must be active-directory, ldap, scim or local, not " + kind);
            }
            var service = root.text("service");
            if (!SERVICE.matcher(service).matches()) {
                throw new Unusable("service must be an address such as https://recover.example.org, not " + service
                        + "; http:// works only on the same machine");
            }
            return new StewardFile(
                    service,
                    root.has("service-ca") ? here.resolve(root.text("service-ca")) : null,
                    here.resolve(root.text("state")),
                    directory(directory, kind, here),
                    new Guard(
                            bases,
                            guard.list("protected-groups"),
                            guard.list("protected-accounts"),
                            guard.duration("seal-age", Duration.ofMinutes(15)),
                            guard.number("writes-per-minute", 60),
                            guard.number("writes-per-day", 5000),
                            guard.duration("pause-per-account", Duration.ZERO),
                            actions(guard)));
        } catch (NoSuchFileException e) {
            throw new Unusable("there is no file " + file + "; entente directory add writes one with --steward-file");
        } catch (CharacterCodingException e) {
            throw new Unusable(file + " is not text in UTF-8; save it as UTF-8");
        } catch (IOException e) {
            throw new Unusable(
                    file + " can't be read (" + e.getClass().getSimpleName() + "); check that this user may read it");
        } catch (MarkedYamlEngineException e) {
            throw new Unusable(file + " is not valid YAML" + place(e) + ": " + e.getProblem());
        } catch (YamlEngineException e) {
            throw new Unusable(file + " is not valid YAML: "
                    + e.getMessage().lines().findFirst().orElse(""));
        }
    }

    private static String place(MarkedYamlEngineException e) {
        return e.getProblemMark()
                .map(mark -> " in line " + (mark.getLine() + 1) + ", column " + (mark.getColumn() + 1))
                .orElse("");
    }

    /** Another system than a directory: how it is reached and nothing else. */
    private static DirectoryPart other(Part directory, String kind, Path here) throws Unusable {
        var servers = directory.list("servers");
        var scim = kind.equals("scim");
        if (scim
                && (servers.isEmpty()
                        || !servers.stream().allMatch(s -> WEB.matcher(s).matches()))) {
            throw new Unusable("directory.servers must list addresses such as https://host/path");
        }
        return new DirectoryPart(
                kind,
                servers,
                directory.path("ca", here),
                null,
                null,
                null,
                null,
                null,
                null,
                null,
                null,
                null,
                null,
                scim ? here.resolve(directory.text("token-file")) : null,
                scim ? null : here.resolve(directory.text("command")),
                directory.duration("timeout", Duration.ofSeconds(8)),
                directory.number("connections", 4));
    }

    private static DirectoryPart directory(Part directory, String kind, Path here) throws Unusable {
        if (!kind.equals("active-directory") && !kind.equals("ldap")) {
            return other(directory, kind, here);
        }
        var servers = directory.list("servers");
        if (servers.isEmpty()
                || !servers.stream().allMatch(s -> SERVER.matcher(s).matches())) {
            throw new Unusable(
                    "directory.servers must list addresses such as ldaps://host:636, or ldap://host:389 for StartTLS");
        }
        if (directory.has("ca") == directory.has("pin")) {
            throw new Unusable("directory needs one of ca (certificates to trust) and pin (the server's key)");
        }
        var kerberos = directory.has("kerberos") ? kerberos(directory, here) : null;
        var ways = Stream.of("password-file", "certificate", "kerberos")
                .filter(directory::has)
                .count();
        if (ways != 1) {
            throw new Unusable("directory needs exactly one way to sign in: password-file, certificate or kerberos");
        }
        var connections = directory.number("connections", 8);
        if (connections > 64) {
            throw new Unusable("directory.connections can be at most 64");
        }
        return new DirectoryPart(
                kind,
                servers,
                directory.path("ca", here),
                directory.has("pin") ? directory.text("pin") : null,
                directory.text("base"),
                directory.has("group-base") ? directory.text("group-base") : directory.text("base"),
                directory.has("password-file") ? directory.text("bind") : null,
                directory.path("password-file", here),
                directory.path("next-password-file", here),
                directory.path("certificate", here),
                directory.has("certificate") ? here.resolve(directory.text("certificate-key")) : null,
                kerberos,
                directory.has("probe") ? directory.text("probe") : null,
                null,
                null,
                directory.duration("timeout", Duration.ofSeconds(8)),
                connections);
    }

    private static Kerberos kerberos(Part directory, Path here) throws Unusable {
        var part = new Part(
                "directory.kerberos.",
                directory.required("kerberos"),
                Set.of("principal", "keytab", "realm", "kdc", "server"));
        return new Kerberos(
                part.text("principal"),
                here.resolve(part.text("keytab")),
                part.text("realm"),
                part.text("kdc"),
                part.has("server") ? part.text("server") : null);
    }

    private static Set<String> actions(Part guard) throws Unusable {
        if (!guard.has("actions")) {
            return Set.of("reset", "unlock", "change");
        }
        var actions = Set.copyOf(guard.list("actions"));
        if (!ACTIONS.containsAll(actions)) {
            throw new Unusable("guard.actions can list only "
                    + String.join(", ", ACTIONS.stream().sorted().toList()));
        }
        return actions;
    }

    private record Part(String prefix, Map<?, ?> values) {
        Part(String prefix, Object value, Set<String> names) throws Unusable {
            this(prefix, mapping(prefix, value));
            for (var name : values.keySet()) {
                if (!names.contains(String.valueOf(name))) {
                    throw new Unusable(prefix + name + " isn't a known setting; there are "
                            + String.join(", ", names.stream().sorted().toList()));
                }
            }
        }

        private static Map<?, ?> mapping(String prefix, Object value) throws Unusable {
            if (value instanceof Map<?, ?> map) {
                return map;
            }
            throw new Unusable(
                    prefix.isEmpty() ? "the file is empty" : prefix + " must hold settings, each as NAME: VALUE");
        }

        boolean has(String name) {
            return values.get(name) != null;
        }

        Object required(String name) throws Unusable {
            if (!has(name)) {
                throw new Unusable(prefix + name + " is missing; add it to the file");
            }
            return values.get(name);
        }

        String text(String name) throws Unusable {
            return String.valueOf(required(name));
        }

        Path path(String name, Path here) throws Unusable {
            return has(name) ? here.resolve(text(name)) : null;
        }

        List<String> list(String name) throws Unusable {
            if (!has(name)) {
                return List.of();
            }
            if (values.get(name) instanceof List<?> list) {
                return list.stream().map(String::valueOf).toList();
            }
            throw new Unusable(prefix + name + " must be a list, each entry after a dash");
        }

        Duration duration(String name, Duration otherwise) throws Unusable {
            if (!has(name)) {
                return otherwise;
            }
            var match = DURATION.matcher(text(name));
            if (!match.matches()) {
                throw new Unusable(prefix + name + " must be a time such as 30s, 15m or 2h, not " + text(name));
            }
            var amount = Long.parseLong(match.group(1));
            return switch (match.group(2)) {
                case "s" -> Duration.ofSeconds(amount);
                case "m" -> Duration.ofMinutes(amount);
                default -> Duration.ofHours(amount);
            };
        }

        int number(String name, int otherwise) throws Unusable {
            if (!has(name)) {
                return otherwise;
            }
            if (values.get(name) instanceof Integer number && number > 0) {
                return number;
            }
            throw new Unusable(prefix + name + " must be a whole number above zero, not " + text(name));
        }
    }
}
