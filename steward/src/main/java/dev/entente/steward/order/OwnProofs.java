package dev.entente.steward.order;

import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Proof;
import dev.entente.core.verify.passkey.PasskeyChallenge;
import dev.entente.core.verify.passkey.Passkeys;
import dev.entente.core.verify.push.DeviceDocuments;
import dev.entente.steward.order.CredentialStore.Known;
import java.time.Duration;
import java.time.InstantSource;
import java.util.Base64;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;

/** Judges what a person's own credentials signed, against this steward's own list of credentials. */
final class OwnProofs {
    private final CredentialStore store;
    private final Duration longestAgo;
    private final InstantSource clock;

    /** @param longestAgo how long ago a device may have approved */
    OwnProofs(CredentialStore store, Duration longestAgo, InstantSource clock) {
        this.store = store;
        this.longestAgo = longestAgo;
        this.clock = clock;
    }

    /**
     * What is missing, to follow "the steward demands a proof"; empty if one of them shows that the account's own person agreed to
     * the attempt of this key.
     *
     * @param key thumbprint of the key that signed the evidence (RFC 7638)
     * @param demanded methods that count
     */
    Optional<String> missing(List<Proof> proofs, String key, UUID account, Set<String> demanded) {
        var why = "and the order carries none by " + demanded.stream().sorted().collect(Collectors.joining(" or "));
        for (var proof : proofs) {
            if (!demanded.contains(proof.method())) {
                continue;
            }
            var known = store.find(account, proof.method(), proof.credential());
            if (known.isEmpty()) {
                why = "and the one it carries is by a credential that isn't known here for this account";
                continue;
            }
            try {
                if (judge(proof, known.get(), key, account)) {
                    return Optional.empty();
                }
                why = "and the one it carries is for something else";
            } catch (Passkeys.Refused | InvalidDocument | IllegalArgumentException e) {
                why = "and the one it carries isn't right: " + e.getMessage();
            }
        }
        return Optional.of(why);
    }

    private boolean judge(Proof proof, Known known, String key, UUID account) throws Passkeys.Refused {
        var credential = known.credential();
        if (credential.key() != null) {
            EcKey device = credential.key();
            return DeviceDocuments.approved(
                    proof.signed(), UUID.fromString(credential.id()), device, key, longestAgo, clock.instant());
        }
        var text = Base64.getUrlDecoder();
        var counter = new Passkeys(credential.origin(), credential.relyingParty())
                .verify(
                        proof.signed(),
                        new Passkeys.Passkey(
                                text.decode(credential.id()),
                                text.decode(credential.data()),
                                known.counter(),
                                credential.synced()),
                        PasskeyChallenge.of(text.decode(proof.nonce()), key));
        store.used(account, known, counter);
        return true;
    }
}
