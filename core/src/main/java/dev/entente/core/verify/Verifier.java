package dev.entente.core.verify;

import java.security.SecureRandom;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.UUID;

/** How one method asks and judges. Every method has one; whatever asks for proofs knows this interface alone. */
public interface Verifier {
    /** Which method. */
    Method method();

    /**
     * Begins a challenge.
     *
     * @return what is kept with it and what is to be sent; the same for somebody who does not exist
     */
    Begun begin(UUID challenge);

    /**
     * Judges an answer. What can be used once is used up when this says yes, in the caller's transaction.
     *
     * @param kept what {@link #begin} gave to keep, or null
     * @param person who is to be recognised; empty for nobody, and then the answer is no
     */
    boolean judge(UUID challenge, byte[] kept, Optional<UUID> person, String typed);

    /**
     * What a challenge begins with.
     *
     * @param kept to be stored with the challenge, or null
     * @param toSend a code that has to reach the person; empty if the person has what is needed
     */
    record Begun(byte[] kept, Optional<OneTimeCode> toSend) {}

    /** Codes sent by e-mail. */
    static Verifier emailCode(byte[] key, SecureRandom random) {
        return new Verifier() {
            @Override
            public Method method() {
                return Method.EMAIL_CODE;
            }

            @Override
            public Begun begin(UUID challenge) {
                var code = OneTimeCode.random(random);
                return new Begun(code.hash(key, challenge), Optional.of(code));
            }

            @Override
            public boolean judge(UUID challenge, byte[] kept, Optional<UUID> person, String typed) {
                return OneTimeCode.parse(typed)
                                .map(code -> code.matches(kept, key, challenge))
                                .orElse(false)
                        && person.isPresent();
            }
        };
    }

    /** Where the secrets of authenticator apps are kept. */
    interface AppStore {
        /** An app that a person set up. */
        record App(UUID enrolment, AppCode secret) {}

        /** Apps that the person confirmed. */
        List<App> apps(UUID person);

        /** Remembers that a step's code was taken; false if that one or a later one was taken before. */
        boolean take(UUID enrolment, long step);
    }

    /** Codes of an authenticator app, none taken twice (RFC 6238 section 5.2). */
    static Verifier appCode(AppStore store, InstantSource clock) {
        return new Verifier() {
            @Override
            public Method method() {
                return Method.APP_CODE;
            }

            @Override
            public Begun begin(UUID challenge) {
                return new Begun(null, Optional.empty());
            }

            @Override
            public boolean judge(UUID challenge, byte[] kept, Optional<UUID> person, String typed) {
                for (var app : person.map(store::apps).orElse(List.of())) {
                    var step = app.secret().step(typed, clock.instant());
                    if (step.isPresent() && store.take(app.enrolment(), step.getAsLong())) {
                        return true;
                    }
                }
                return false;
            }
        };
    }

    /** Where recovery codes are kept. */
    interface RecoveryStore {
        /** Uses a code up; false if the person has no such code left. */
        boolean take(UUID person, RecoveryCode code);
    }

    /** Recovery codes, each good once. */
    static Verifier recoveryCode(RecoveryStore store) {
        return new Verifier() {
            @Override
            public Method method() {
                return Method.RECOVERY_CODE;
            }

            @Override
            public Begun begin(UUID challenge) {
                return new Begun(null, Optional.empty());
            }

            @Override
            public boolean judge(UUID challenge, byte[] kept, Optional<UUID> person, String typed) {
                return RecoveryCode.parse(typed)
                        .flatMap(code -> person.map(p -> store.take(p, code)))
                        .orElse(false);
            }
        };
    }
}
