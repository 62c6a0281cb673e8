package dev.entente.steward.order;

import dev.entente.core.seal.Credential;
import dev.entente.core.seal.CredentialStatement;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.steward.link.StewardState;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
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
    private final Map<UUID, List<Known>> accounts;

    /**
     * One that was stated.
     *
     * @param counter the last signature counter that was seen of a passkey
     */
    record Known(Credential credential, boolean removed, long counter) {}

    private record Stored(int v, Map<UUID, List<Known>> accounts) {}

    CredentialStore(Path folder) {
        this.file = folder.resolve("credentials.json");
        try {
            this.accounts = Files.exists(file)
                    ? new HashMap<>(
                            JSON.readValue(Files.readString(file), Stored.class).accounts())
                    : new HashMap<>();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** Takes statements about an account; those that nobody signed who may are left out, and told in the log. */
    synchronized void accept(List<String> statements, Iterable<EcKey> signers, UUID directory, UUID account) {
        var changed = false;
        for (var signed : statements) {
            try {
                var statement = CredentialStatement.verify(signed, signers, directory);
                if (statement.account().equals(account)) {
                    changed |= put(account, statement.credential(), statement.removed());
                }
            } catch (InvalidDocument e) {
                log.warn("a credential was not taken: {}", e.getMessage());
            }
        }
        if (changed) {
            write();
        }
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
                    known.set(i, new Known(credential, true, one.counter()));
                    return true;
                }
                return false;
            }
        }
        if (known.size() >= MOST_OF_ONE_ACCOUNT && !removed) {
            log.warn("account {} has {} credentials already; another one was not taken", account, known.size());
            return false;
        }
        return known.add(new Known(credential, removed, 0));
    }

    /** The one with this id that counts for an account. */
    synchronized Optional<Known> find(UUID account, String method, String id) {
        return accounts.getOrDefault(account, List.of()).stream()
                .filter(k -> !k.removed()
                        && k.credential().method().equals(method)
                        && k.credential().id().equals(id))
                .findFirst();
    }

    /** Remembers a passkey's signature counter. */
    synchronized void used(UUID account, Known used, long counter) {
        var known = accounts.getOrDefault(account, List.of());
        for (var i = 0; i < known.size(); i++) {
            if (known.get(i).credential().equals(used.credential())
                    && counter > known.get(i).counter()) {
                known.set(i, new Known(used.credential(), known.get(i).removed(), counter));
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
