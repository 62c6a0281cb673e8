package dev.entente.core.verify.passkey;

import dev.entente.core.guess.GuessingSpace;
import dev.entente.core.seal.Proof;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Verifier;
import java.security.SecureRandom;
import java.util.Base64;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;

/**
 * Asks a browser for an assertion by any passkey of this service, the same for every name, and judges whether it is one of the
 * person's. The answer's only part is {@code credential}: AuthenticationResponseJSON.
 */
public final class PasskeyVerifier implements Verifier {
    /** A signature by a key of 128 bits of strength: nobody guesses it. */
    private static final GuessingSpace SPACE = new GuessingSpace(Math.pow(2, 128), 1);

    private static final int NONCE = 32;

    /** Where passkeys are kept. */
    public interface Store {
        /** One that a person set up; for nobody, or one that is not theirs, one that nobody can sign with. */
        Passkeys.Passkey passkey(Optional<UUID> person, byte[] id);

        /** Whether an authenticator's memory of whom a passkey is for is this person. */
        boolean isHandle(UUID person, byte[] handle);

        /** It was used; remembers its counter. */
        void used(UUID person, byte[] id, long counter);

        /**
         * Its counter went back.
         *
         * @param challenge that was answered with it
         */
        void cloned(UUID person, byte[] id, UUID challenge);
    }

    private final Passkeys passkeys;
    private final Store store;
    private final SecureRandom random;

    public PasskeyVerifier(Passkeys passkeys, Store store, SecureRandom random) {
        this.passkeys = passkeys;
        this.store = store;
        this.random = random;
    }

    @Override
    public Method method() {
        return Method.of(PasskeyMethod.LABEL);
    }

    /** Its parts are {@code challenge} (base64url), {@code nonce} (base64url) and {@code relyingParty}. */
    @Override
    public Shown show(UUID challenge, String key, Optional<UUID> proven) {
        var nonce = new byte[NONCE];
        random.nextBytes(nonce);
        var text = Base64.getUrlEncoder().withoutPadding();
        return new Shown(
                nonce,
                Map.of(
                        "challenge",
                        text.encodeToString(PasskeyChallenge.of(nonce, key)),
                        "nonce",
                        text.encodeToString(nonce),
                        "relyingParty",
                        passkeys.relyingParty()));
    }

    @Override
    public Judgement judge(Asked asked, Optional<UUID> person, Answer answer) {
        var response = answer.parts().getOrDefault("credential", "");
        var claimed = passkeys.claimed(response);
        if (claimed.isEmpty() || asked.kept() == null) {
            return Judgement.WRONG;
        }
        var id = claimed.get().id();
        try {
            // For nobody the same work is done, with a passkey that nobody can sign with.
            var counter = passkeys.verify(
                    response, store.passkey(person, id), PasskeyChallenge.of(asked.kept(), asked.key()));
            if (person.isEmpty()
                    || claimed.get().handle() != null
                            && !store.isHandle(person.get(), claimed.get().handle())) {
                return Judgement.WRONG;
            }
            store.used(person.get(), id, counter);
            return Judgement.RIGHT;
        } catch (Passkeys.Refused e) {
            if (e.cloned() && person.isPresent()) {
                store.cloned(person.get(), id, asked.challenge());
            }
            return Judgement.WRONG;
        }
    }

    @Override
    public Optional<Proof> proof(Asked asked, Answer answer) {
        var response = answer.parts().getOrDefault("credential", "");
        var text = Base64.getUrlEncoder().withoutPadding();
        return passkeys.claimed(response)
                .map(claimed -> new Proof(
                        1,
                        PasskeyMethod.LABEL,
                        text.encodeToString(claimed.id()),
                        text.encodeToString(asked.kept()),
                        response));
    }

    @Override
    public String wrong(int triesLeft) {
        return "This can't be used for that name here. Try another one, or choose another method.";
    }

    @Override
    public GuessingSpace space(Asked asked, Answer answer) {
        return SPACE;
    }
}
