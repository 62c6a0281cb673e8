package dev.entente.steward.settings;

import com.unboundid.ldap.sdk.DN;
import java.io.IOException;
import java.nio.charset.CharacterCodingException;
import java.nio.file.Files;
import java.nio.file.NoSuchFileException;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Set;
import java.util.regex.Pattern;
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
 * @param target where it writes passwords
 * @param guard what it never does, whatever the service asks
 */
public record StewardFile(String service, Path serviceCa, Path state, TargetPart target, Guard guard) {
    private static final Pattern SERVICE = Pattern.compile(
            "https://[^\\s/]+/?|http://(localhost|127\\.\\d{1,3}\\.\\d{1,3}\\.\\d{1,3}|\\[::1\\])(:\\d+)?/?");
    private static final Set<String> PROOFS = Set.of("passkey");
    private static final Set<String> ACTIONS = Set.of("reset", "unlock", "change", "temporary");

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
     * @param demand for whom it wants a proof that it can check by itself; nobody unless the file says so
     */
    public record Guard(
            List<String> bases,
            List<String> protectedGroups,
            List<String> protectedAccounts,
            Duration sealAge,
            int writesPerMinute,
            int writesPerDay,
            Duration pausePerAccount,
            Set<String> actions,
            Demand demand) {}

    /**
     * For whom a seal and its evidence are not enough.
     *
     * @param groups members, nested
     * @param bases entries below these
     * @param proof which methods' credentials count: {@code passkey}; empty if nothing is demanded of anybody
     */
    public record Demand(List<String> groups, List<String> bases, Set<String> proof) {
        /** Of nobody. */
        public static final Demand NONE = new Demand(List.of(), List.of(), Set.of());
    }

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
            var root = new FilePart("", loaded, Set.of("service", "service-ca", "state", "directory", "guard"));
            var target = TargetPart.read(root.required("directory"), here);
            var guard = new FilePart(
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
                            "actions",
                            "demand"));
            var bases = guard.list("bases");
            if (bases.isEmpty()) {
                throw new Unusable("guard.bases is empty; list the entries this steward may write below");
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
                    target,
                    new Guard(
                            bases,
                            guard.list("protected-groups"),
                            guard.list("protected-accounts"),
                            guard.duration("seal-age", Duration.ofMinutes(15)),
                            guard.number("writes-per-minute", 60),
                            guard.number("writes-per-day", 5000),
                            guard.duration("pause-per-account", Duration.ZERO),
                            actions(guard),
                            demand(guard, target)));
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

    private static Demand demand(FilePart guard, TargetPart target) throws Unusable {
        if (!guard.has("demand")) {
            return Demand.NONE;
        }
        var part = new FilePart("guard.demand.", guard.required("demand"), Set.of("groups", "bases", "proof"));
        var proof = Set.copyOf(part.list("proof"));
        if (proof.isEmpty() || !PROOFS.containsAll(proof)) {
            throw new Unusable(
                    "guard.demand.proof can list passkey alone: a phone shows its person a key that the service names, so what it"
                            + " approves is no proof against the service");
        }
        if (part.list("groups").isEmpty() && part.list("bases").isEmpty()) {
            throw new Unusable("guard.demand names nobody; list groups, or bases");
        }
        for (var base : part.list("bases")) {
            // What is no base would demand nothing, without a word.
            if (!base.equals("*") && !(target instanceof TargetPart.Ldap && DN.isValidDN(base))) {
                throw new Unusable("guard.demand.bases: \"" + base + "\" is no "
                        + (target instanceof TargetPart.Ldap
                                ? "distinguished name; write \"*\" for everybody"
                                : "base here, where accounts have no place in a tree; write \"*\" for everybody"));
            }
        }
        for (var group : part.list("groups")) {
            if (target instanceof TargetPart.Ldap && !DN.isValidDN(group)) {
                throw new Unusable("guard.demand.groups: \"" + group + "\" is no distinguished name");
            }
        }
        return new Demand(part.list("groups"), part.list("bases"), proof);
    }

    private static Set<String> actions(FilePart guard) throws Unusable {
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
}
