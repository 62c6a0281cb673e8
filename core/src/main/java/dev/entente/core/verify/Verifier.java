package dev.entente.core.verify;

import dev.entente.core.guess.Familiarity;
import dev.entente.core.guess.GuessingSpace;
import java.security.SecureRandom;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.UUID;

/** How one method asks and judges. Every method has one; whatever asks for proofs knows this interface alone. */
public interface Verifier {
    /** Which method. */
    Method method();

    /**
     * Begins a challenge.
     *
     * @param beyondGuessing whether a code that is sent has to be one that nobody guesses
     * @return what is kept with it and what is to be sent; the same for somebody who does not exist
     */
    Begun begin(UUID challenge, boolean beyondGuessing);

    /**
     * Judges an answer. What can be used once is used up when this says yes, in the caller's transaction.
     *
     * @param person who is to be recognised; empty for nobody, and then the answer is no
     */
    boolean judge(Asked asked, Optional<UUID> person, String typed);

    /** How hard an answer to this challenge is to guess. */
    GuessingSpace space(Asked asked, String typed);

    /**
     * What a challenge begins with.
     *
     * @param kept to be stored with the challenge, or null
     * @param toSend a code that has to reach the person; empty if the person has what is needed
     */
    record Begun(byte[] kept, Optional<OneTimeCode> toSend) {}

    /**
     * A challenge that is answered.
     *
     * @param kept what {@link #begin} gave to keep, or null
     * @param beyondGuessing whether its code is one that nobody guesses
     * @param from how well the person is known where the answer comes from
     */
    record Asked(UUID challenge, byte[] kept, boolean beyondGuessing, Familiarity from) {}

    /** Codes sent by e-mail. */
    static Verifier emailCode(byte[] key, SecureRandom random) {
        return new Verifier() {
            @Override
            public Method method() {
                return Method.EMAIL_CODE;
            }

            @Override
            public Begun begin(UUID challenge, boolean beyondGuessing) {
                var code = beyondGuessing ? OneTimeCode.beyondGuessing(random) : OneTimeCode.random(random);
                return new Begun(code.hash(key, challenge), Optional.of(code));
            }

            @Override
            public boolean judge(Asked asked, Optional<UUID> person, String typed) {
                return OneTimeCode.parse(typed)
                                .map(code -> asked.kept() != null && code.matches(asked.kept(), key, asked.challenge()))
                                .orElse(false)
                        && person.isPresent();
            }

            @Override
            public GuessingSpace space(Asked asked, String typed) {
                // A long code may be the one for all of this hour, also where a short one was asked for.
                return asked.beyondGuessing() || OneTimeCode.isLong(typed)
                        ? OneTimeCode.LONG_SPACE
                        : OneTimeCode.SHORT_SPACE;
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

    /**
     * Codes of an authenticator app, none taken twice (RFC 6238 section 5.2). On a browser that is known one is enough;
     * elsewhere it takes two that follow each other, for six digits alone are too few against strangers who may try from
     * anywhere.
     */
    static Verifier appCode(AppStore store, InstantSource clock) {
        return new Verifier() {
            @Override
            public Method method() {
                return Method.APP_CODE;
            }

            @Override
            public Begun begin(UUID challenge, boolean beyondGuessing) {
                return new Begun(null, Optional.empty());
            }

            @Override
            public boolean judge(Asked asked, Optional<UUID> person, String typed) {
                for (var app : person.map(store::apps).orElse(List.of())) {
                    var step = AppCode.isTwo(typed)
                            ? app.secret().stepOfSecond(typed, clock.instant())
                            : asked.from() == Familiarity.BROWSER
                                    ? app.secret().step(typed, clock.instant())
                                    : OptionalLong.empty();
                    if (step.isPresent() && store.take(app.enrolment(), step.getAsLong())) {
                        return true;
                    }
                }
                return false;
            }

            @Override
            public GuessingSpace space(Asked asked, String typed) {
                return AppCode.isTwo(typed) || asked.from() != Familiarity.BROWSER
                        ? AppCode.TWO_SPACE
                        : AppCode.ONE_SPACE;
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
            public Begun begin(UUID challenge, boolean beyondGuessing) {
                return new Begun(null, Optional.empty());
            }

            @Override
            public boolean judge(Asked asked, Optional<UUID> person, String typed) {
                return RecoveryCode.parse(typed)
                        .flatMap(code -> person.map(p -> store.take(p, code)))
                        .orElse(false);
            }

            @Override
            public GuessingSpace space(Asked asked, String typed) {
                return RecoveryCode.space(typed);
            }
        };
    }
}
