package dev.entente.steward.order;

import com.unboundid.ldap.sdk.DN;
import com.unboundid.ldap.sdk.LDAPException;
import dev.entente.core.seal.Credential;
import dev.entente.core.seal.CredentialStatement;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.steward.link.StewardState;
import dev.entente.steward.target.Target.Entry;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import tools.jackson.databind.json.JsonMapper;

/**
 * By which credentials this steward recognises whom: its own list, in its state folder. One gets in by a statement that the operator
 * key or a steward on the roster signed, or because this steward saw for itself that it was the person. What was removed once never
 * comes back. What the service says counts for nothing.
 */
final class CredentialStore {
    private static final Logger log = LoggerFactory.getLogger(CredentialStore.class);
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final int MOST_OF_ONE_ACCOUNT = 20;

    private final Path file;
    /** Withdrawals handed in on this machine, past the service; one signed statement in each file. */
    private final Path handed;

    private final Map<String, Handed> taken = new HashMap<>();
    private final Map<UUID, List<Known>> accounts;

    /**
     * One that was stated.
     *
     * @param counter the last signature counter that was seen of a passkey
     * @param last digest of what it signed then; null if it signed nothing here
     */
    record Known(Credential credential, boolean removed, long counter, String last) {}

    /** A withdrawal that was handed in here, and when. */
    private record Handed(CredentialStatement statement, Instant at) {}

    private record Stored(int v, Map<UUID, List<Known>> accounts) {}

    CredentialStore(Path folder) {
        this.file = folder.resolve("credentials.json");
        this.handed = Withdrawals.folder(folder);
        try {
            this.accounts = Files.exists(file)
                    ? new HashMap<>(
                            JSON.readValue(Files.readString(file), Stored.class).accounts())
                    : new HashMap<>();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /**
     * Applies statements about an entry. Skips those without a valid signature and those that name another entry than the one with this
     * id.
     *
     * @param operator signer of the withdrawals handed in here
     * @return what was left out, or is missing, each as a sentence
     */
    synchronized List<String> accept(
            List<String> statements, Iterable<EcKey> signers, EcKey operator, UUID directory, Entry entry) {
        var doubts = new ArrayList<String>();
        var changed = takeHanded(operator, directory);
        var withdrawn = new HashSet<String>();
        for (var signed : statements) {
            try {
                var statement = CredentialStatement.verify(signed, signers, directory);
                if (!statement.account().equals(entry.id())) {
                    continue;
                }
                if (statement.removed()) {
                    withdrawn.add(statement.credential().thumbprint());
                } else if (statement.login() != null && !names(statement, entry)) {
                    doubts.add("a credential was signed for " + statement.login() + " (" + statement.dn()
                            + ") under the id of " + entry.login() + " (" + entry.dn() + "), and was not taken");
                    continue;
                }
                changed |= put(entry.id(), statement.credential(), statement.removed());
            } catch (InvalidDocument e) {
                doubts.add("a credential was not taken: " + e.getMessage());
            }
        }
        taken.values().stream()
                .filter(h -> h.statement().account().equals(entry.id()))
                .filter(h -> !withdrawn.contains(h.statement().credential().thumbprint()))
                .forEach(h -> doubts.add("the service leaves out that a credential of " + entry.login()
                        + " was withdrawn; the withdrawal was handed in here at " + h.at()));
        if (changed) {
            write();
        }
        doubts.forEach(doubt -> log.warn("order for {}: {}", entry.login(), doubt));
        return doubts;
    }

    private static boolean names(CredentialStatement statement, Entry entry) {
        if (!statement.login().equalsIgnoreCase(entry.login())) {
            return false;
        }
        try {
            return new DN(statement.dn()).equals(new DN(entry.dn()));
        } catch (LDAPException e) {
            return statement.dn().equals(entry.dn());
        }
    }

    /** Reads what was brought here since the last look. */
    private boolean takeHanded(EcKey operator, UUID directory) {
        var changed = false;
        if (!Files.isDirectory(handed)) {
            return false;
        }
        try (var files = Files.list(handed)) {
            for (var one : files.sorted().toList()) {
                var name = one.getFileName().toString();
                if (taken.containsKey(name)) {
                    continue;
                }
                try {
                    var statement = CredentialStatement.verify(Files.readString(one), List.of(operator), directory);
                    if (statement.removed()) {
                        changed |= put(statement.account(), statement.credential(), true);
                        taken.put(
                                name,
                                new Handed(
                                        statement,
                                        Files.getLastModifiedTime(one).toInstant()));
                    }
                } catch (InvalidDocument e) {
                    log.warn("{} was not taken: {}", one, e.getMessage());
                }
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        return changed;
    }

    /** Takes credentials that the person themselves brought, as this steward saw. */
    synchronized List<Credential> add(UUID account, List<Credential> credentials) {
        var added = credentials.stream().filter(c -> put(account, c, false)).toList();
        if (!added.isEmpty()) {
            write();
        }
        return added;
    }

    /** Those with these thumbprints count no more for an account; which did until now. */
    synchronized List<Credential> withdraw(UUID account, List<String> thumbprints) {
        var gone = accounts.getOrDefault(account, List.of()).stream()
                .filter(k -> !k.removed() && thumbprints.contains(k.credential().thumbprint()))
                .map(Known::credential)
                .toList();
        gone.forEach(credential -> put(account, credential, true));
        if (!gone.isEmpty()) {
            write();
        }
        return gone;
    }

    private boolean put(UUID account, Credential credential, boolean removed) {
        var known = accounts.computeIfAbsent(account, id -> new ArrayList<>());
        for (var i = 0; i < known.size(); i++) {
            var one = known.get(i);
            if (one.credential().thumbprint().equals(credential.thumbprint())) {
                if (removed && !one.removed()) {
                    known.set(i, new Known(credential, true, one.counter(), one.last()));
                    return true;
                }
                return false;
            }
        }
        if (known.size() >= MOST_OF_ONE_ACCOUNT && !removed) {
            log.warn("account {} has {} credentials already; another one was not taken", account, known.size());
            return false;
        }
        return known.add(new Known(credential, removed, 0, null));
    }

    /** The one with this id that counts for an account. */
    synchronized Optional<Known> find(UUID account, String method, String id) {
        return accounts.getOrDefault(account, List.of()).stream()
                .filter(k -> !k.removed()
                        && k.credential().method().equals(method)
                        && k.credential().id().equals(id))
                .findFirst();
    }

    /** Remembers a passkey's signature counter, and what it signed. */
    synchronized void used(UUID account, Known used, long counter, String signed) {
        var known = accounts.getOrDefault(account, List.of());
        for (var i = 0; i < known.size(); i++) {
            var one = known.get(i);
            if (one.credential().equals(used.credential()) && counter >= one.counter() && !signed.equals(one.last())) {
                known.set(i, new Known(used.credential(), one.removed(), counter, signed));
                write();
            }
        }
    }

    private void write() {
        try {
            StewardState.writePrivately(
                    file, JSON.writerWithDefaultPrettyPrinter().writeValueAsString(new Stored(1, accounts)) + "\n");
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
