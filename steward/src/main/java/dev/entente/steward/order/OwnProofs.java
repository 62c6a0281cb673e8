package dev.entente.steward.order;

import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Proof;
import dev.entente.core.verify.Page;
import dev.entente.core.verify.passkey.PasskeyChallenge;
import dev.entente.core.verify.passkey.Passkeys;
import dev.entente.steward.order.CredentialStore.Known;
import java.time.Duration;
import java.time.Instant;
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

    /** How far ahead a device's clock may be. */
    private static final Duration AHEAD = Duration.ofMinutes(10);

    /** @param longestAgo how long ago a proof may have been made */
    OwnProofs(CredentialStore store, Duration longestAgo, InstantSource clock) {
        this.store = store;
        this.longestAgo = longestAgo;
        this.clock = clock;
    }

    /**
     * What is missing, to follow "the steward demands a proof"; empty if one of them shows that the account's own person agreed to
     * the attempt of this page, not long ago. What was judged right for an attempt once stays so, whatever its counter says by now: an
     * order may be leased again.
     *
     * @param page whose key signed the evidence
     * @param demanded methods that count
     */
    Optional<String> missing(List<Proof> proofs, Page page, UUID account, Set<String> demanded) {
        var why = "and the order carries none by " + demanded.stream().sorted().collect(Collectors.joining(" or "));
        for (var proof : proofs) {
            if (!demanded.contains(proof.method())) {
                continue;
            }
            if (proof.at() == null) {
                why = "and the one it carries was made by a page of an older version";
                continue;
            }
            var known = store.find(account, proof.method(), proof.credential());
            if (known.isEmpty()) {
                why = "and the one it carries is by a credential that isn't known here for this account";
                continue;
            }
            var age = Duration.between(Instant.ofEpochMilli(proof.at()), clock.instant());
            if (age.compareTo(longestAgo) > 0 || age.negated().compareTo(AHEAD) > 0) {
                why = "and the one it carries was made at another time, or by a device whose clock is wrong";
                continue;
            }
            try {
                judge(proof, known.get(), page, account);
                return Optional.empty();
            } catch (Passkeys.Refused | InvalidDocument | IllegalArgumentException e) {
                why = "and the one it carries isn't right: " + e.getMessage();
            }
        }
        return Optional.of(why);
    }

    private void judge(Proof proof, Known known, Page page, UUID account) throws Passkeys.Refused {
        var credential = known.credential();
        var text = Base64.getUrlDecoder();
        var same = EcKey.digest(proof.signed()).equals(known.last());
        var counter = new Passkeys(credential.origin(), credential.relyingParty())
                .verify(
                        proof.signed(),
                        new Passkeys.Passkey(
                                text.decode(credential.id()),
                                text.decode(credential.data()),
                                same ? 0 : known.counter(),
                                credential.synced()),
                        new PasskeyChallenge(proof.nonce(), page, proof.at()).bytes());
        store.used(account, known, counter, EcKey.digest(proof.signed()));
    }
}
