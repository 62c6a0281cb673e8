package dev.entente.steward.settings;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.regex.Pattern;
import org.snakeyaml.engine.v2.api.Load;
import org.snakeyaml.engine.v2.api.LoadSettings;
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

    /**
     * How to reach the directory.
     *
     * @param kind {@code active-directory} or {@code ldap}
     * @param servers {@code ldaps://host:port} in order of preference
     * @param ca certificate authority of the servers, PEM
     * @param base below which people, groups and OUs are read
     * @param bind distinguished name of the service account
     * @param passwordFile holds its password
     * @param probe a dedicated account to try rights on, or null
     * @param timeout how long an answer may take
     */
    public record DirectoryPart(
            String kind,
            List<String> servers,
            Path ca,
            String base,
            String bind,
            Path passwordFile,
            String probe,
            Duration timeout) {}

    /**
     * Guard rails.
     *
     * @param bases entries below these may be written, no others
     * @param protectedGroups members, nested, are never written
     * @param protectedAccounts are never written
     * @param sealAge a seal that is valid longer than this is refused
     * @param writesPerMinute over all accounts
     * @param writesPerDay over all accounts
     */
    public record Guard(
            List<String> bases,
            List<String> protectedGroups,
            List<String> protectedAccounts,
            Duration sealAge,
            int writesPerMinute,
            int writesPerDay) {}

    /** The file cannot be used; the message says what to mend. */
    public static final class Unusable extends Exception {
        Unusable(String message) {
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
                    Set.of("kind", "servers", "ca", "base", "bind", "password-file", "probe", "timeout"));
            var guard = new Part(
                    "guard.",
                    root.required("guard"),
                    Set.of(
                            "bases",
                            "protected-groups",
                            "protected-accounts",
                            "seal-age",
                            "writes-per-minute",
                            "writes-per-day"));
            var bases = guard.list("bases");
            if (bases.isEmpty()) {
                throw new Unusable("guard.bases is empty: name the bases that this steward may write below");
            }
            var kind = directory.text("kind");
            if (!kind.equals("active-directory") && !kind.equals("ldap")) {
                throw new Unusable("directory.kind is active-directory or ldap");
            }
            return new StewardFile(
                    root.text("service"),
                    root.has("service-ca") ? here.resolve(root.text("service-ca")) : null,
                    here.resolve(root.text("state")),
                    new DirectoryPart(
                            kind,
                            directory.list("servers"),
                            here.resolve(directory.text("ca")),
                            directory.text("base"),
                            directory.text("bind"),
                            here.resolve(directory.text("password-file")),
                            directory.has("probe") ? directory.text("probe") : null,
                            directory.duration("timeout", Duration.ofSeconds(8))),
                    new Guard(
                            bases,
                            guard.list("protected-groups"),
                            guard.list("protected-accounts"),
                            guard.duration("seal-age", Duration.ofMinutes(15)),
                            guard.number("writes-per-minute", 60),
                            guard.number("writes-per-day", 5000)));
        } catch (IOException e) {
            throw new Unusable("the steward's file cannot be read: " + e.getMessage());
        } catch (YamlEngineException e) {
            throw new Unusable("the steward's file is not YAML: " + e.getMessage());
        }
    }

    private record Part(String prefix, Map<?, ?> values) {
        Part(String prefix, Object value, Set<String> names) throws Unusable {
            this(prefix, mapping(prefix, value));
            for (var name : values.keySet()) {
                if (!names.contains(String.valueOf(name))) {
                    throw new Unusable(prefix + name + " is not known; possible are "
                            + String.join(", ", names.stream().sorted().toList()));
                }
            }
        }

        private static Map<?, ?> mapping(String prefix, Object value) throws Unusable {
            if (value instanceof Map<?, ?> map) {
                return map;
            }
            throw new Unusable(prefix.isEmpty() ? "the file is empty" : prefix + " holds names with values");
        }

        boolean has(String name) {
            return values.get(name) != null;
        }

        Object required(String name) throws Unusable {
            if (!has(name)) {
                throw new Unusable(prefix + name + " is missing");
            }
            return values.get(name);
        }

        String text(String name) throws Unusable {
            return String.valueOf(required(name));
        }

        List<String> list(String name) throws Unusable {
            if (!has(name)) {
                return List.of();
            }
            if (values.get(name) instanceof List<?> list) {
                return list.stream().map(String::valueOf).toList();
            }
            throw new Unusable(prefix + name + " is a list");
        }

        Duration duration(String name, Duration otherwise) throws Unusable {
            if (!has(name)) {
                return otherwise;
            }
            var match = DURATION.matcher(text(name));
            if (!match.matches()) {
                throw new Unusable(prefix + name + " is a time such as 30s, 15m or 2h");
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
            throw new Unusable(prefix + name + " is a number above zero");
        }
    }
}
