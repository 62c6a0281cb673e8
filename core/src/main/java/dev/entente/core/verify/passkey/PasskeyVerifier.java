package dev.entente.core.verify.passkey;

import dev.entente.core.guess.GuessingSpace;
import dev.entente.core.seal.Proof;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Page;
import dev.entente.core.verify.Verifier;
import java.security.SecureRandom;
import java.util.Base64;
import java.util.Map;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.UUID;

/**
 * Asks a browser for an assertion by any passkey of this service, the same for every name, and judges whether it is one of the
 * person's. The answer's parts are {@code credential}: AuthenticationResponseJSON, and {@code at}: when the page made the challenge
 * ({@link PasskeyChallenge}).
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

    /** Its parts are {@code nonce} (base64url), of which the page makes the challenge, and {@code relyingParty}. */
    @Override
    public Shown show(UUID challenge, Page page, Optional<UUID> proven) {
        var nonce = new byte[NONCE];
        random.nextBytes(nonce);
        var text = Base64.getUrlEncoder().withoutPadding();
        return new Shown(nonce, Map.of("nonce", text.encodeToString(nonce), "relyingParty", passkeys.relyingParty()));
    }

    @Override
    public Judgement judge(Asked asked, Optional<UUID> person, Answer answer) {
        var response = answer.parts().getOrDefault("credential", "");
        var claimed = passkeys.claimed(response);
        var at = at(answer);
        if (claimed.isEmpty() || asked.kept() == null || at.isEmpty()) {
            return Judgement.WRONG;
        }
        var id = claimed.get().id();
        try {
            // For nobody the same work is done, with a passkey that nobody can sign with.
            var counter = passkeys.verify(
                    response,
                    store.passkey(person, id),
                    new PasskeyChallenge(text(asked.kept()), asked.page(), at.getAsLong()).bytes());
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
        return passkeys.claimed(response)
                .map(claimed -> Proof.passkey(
                        text(claimed.id()), text(asked.kept()), at(answer).orElseThrow(), response));
    }

    private static String text(byte[] bytes) {
        return Base64.getUrlEncoder().withoutPadding().encodeToString(bytes);
    }

    private static OptionalLong at(Answer answer) {
        var at = answer.parts().getOrDefault("at", "");
        return at.matches("[0-9]{1,18}") ? OptionalLong.of(Long.parseLong(at)) : OptionalLong.empty();
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
