package dev.entente.core.seal;

import java.util.List;
import java.util.Set;
import java.util.UUID;

/**
 * What a seal is bound to: the member {@code entente} of its protected header, so authenticated by the seal itself.
 *
 * @param v format version, 1
 * @param id 16 random bytes, base64url: a steward accepts it once for each account
 * @param attempt the attempt it belongs to
 * @param directory the one directory whose stewards may open it
 * @param action {@code reset}, {@code change} or {@code temporary}
 * @param accounts immutable ids of the entries to write, 1 to 8, no doubles
 * @param roster {@link Roster#digest} of the roster it was sealed for
 * @param key thumbprint of the attempt's key, which alone can sign the evidence for it
 * @param recipients thumbprints of the sealing keys, in the order of the recipients
 * @param exp milliseconds since 1970
 */
public record SealBinding(
        int v,
        String id,
        UUID attempt,
        UUID directory,
        String action,
        List<UUID> accounts,
        String roster,
        String key,
        List<String> recipients,
        long exp) {
    private static final Set<String> ACTIONS = Set.of("reset", "change", "temporary");

    /** @throws InvalidDocument if a part is missing or out of its bounds */
    public SealBinding {
        if (v != 1 || attempt == null || directory == null || roster == null || key == null) {
            throw new InvalidDocument("format", "the seal is not bound as it should be");
        }
        if (id == null || Jws.decode(id).length != 16) {
            throw new InvalidDocument("format", "the seal's id is not 16 bytes long");
        }
        if (action == null || !ACTIONS.contains(action)) {
            throw new InvalidDocument("format", "a seal is for a reset, a change or a temporary password");
        }
        accounts = List.copyOf(accounts);
        recipients = List.copyOf(recipients);
        if (accounts.isEmpty()
                || accounts.size() > 8
                || accounts.stream().distinct().count() != accounts.size()) {
            throw new InvalidDocument("format", "a seal is for one to eight different accounts");
        }
    }
}
