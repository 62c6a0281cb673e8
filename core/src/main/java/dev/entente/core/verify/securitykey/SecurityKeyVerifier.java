package dev.entente.core.verify.securitykey;

import dev.entente.core.guess.GuessingSpace;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Page;
import dev.entente.core.verify.Verifier;
import dev.entente.core.verify.passkey.PasskeyVerifier;
import java.util.Base64;
import java.util.HashMap;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.Collectors;

/**
 * Asks a browser for an assertion by one of the person's own keys, which it names, and judges it as that of a passkey is judged.
 * The answer's parts are those of a passkey's.
 */
public final class SecurityKeyVerifier implements Verifier {
    /** Which keys are whose. */
    public interface Keys {
        /** Ids of those that a person set up. */
        List<byte[]> of(UUID person);
    }

    private final PasskeyVerifier judge;
    private final Keys keys;

    /** @param judge of assertions that show presence, by keys that are kept apart from passkeys */
    public SecurityKeyVerifier(PasskeyVerifier judge, Keys keys) {
        this.judge = judge;
        this.keys = keys;
    }

    @Override
    public Method method() {
        return Method.of(SecurityKeyMethod.LABEL);
    }

    /** The parts of a passkey's challenge, and {@code allow}: ids of the person's keys (base64url), separated by spaces. */
    @Override
    public Shown show(UUID challenge, Page page, Optional<UUID> proven) {
        var shown = judge.show(challenge, page, proven);
        var parts = new HashMap<>(shown.parts());
        parts.put(
                "allow",
                proven.map(keys::of).orElse(List.of()).stream()
                        .map(Base64.getUrlEncoder().withoutPadding()::encodeToString)
                        .collect(Collectors.joining(" ")));
        return new Shown(shown.kept(), parts);
    }

    @Override
    public Judgement judge(Asked asked, Optional<UUID> person, Answer answer) {
        return judge.judge(asked, person, answer);
    }

    @Override
    public String wrong(int triesLeft) {
        return "This key isn't one that you set up here. Try another one, or choose another method.";
    }

    @Override
    public GuessingSpace space(Asked asked, Answer answer) {
        return judge.space(asked, answer);
    }
}
