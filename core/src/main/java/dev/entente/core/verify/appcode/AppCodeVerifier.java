package dev.entente.core.verify.appcode;

import dev.entente.core.guess.Familiarity;
import dev.entente.core.guess.GuessingSpace;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Verifier;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.OptionalLong;
import java.util.UUID;

/**
 * Codes of an authenticator app, none taken twice (RFC 6238 section 5.2). On a browser that is known one is enough; elsewhere it
 * takes two that follow each other, for six digits alone are too few against strangers who may try from anywhere.
 */
public final class AppCodeVerifier implements Verifier {
    /** Where the secrets of authenticator apps are kept. */
    public interface Store {
        /**
         * An app that a person set up, or a token that they were given.
         *
         * @param drift how many steps its clock was ahead when it was used last
         */
        record App(UUID enrolment, AppCode secret, long drift) {}

        /** Apps that the person confirmed. */
        List<App> apps(UUID person);

        /**
         * Remembers that the codes of these steps were taken; false if the first of them or a later one was taken before.
         *
         * @param first the step of the first code that was typed
         * @param last the step of the last one, which is the first where one was typed
         * @param drift how many steps the clock is ahead now
         */
        boolean take(UUID enrolment, long first, long last, long drift);
    }

    private final Store store;
    private final InstantSource clock;

    public AppCodeVerifier(Store store, InstantSource clock) {
        this.store = store;
        this.clock = clock;
    }

    @Override
    public Method method() {
        return Method.of(AppCodeMethod.LABEL);
    }

    @Override
    public Judgement judge(Asked asked, Optional<UUID> person, Answer answer) {
        var typed = answer.typed();
        var now = clock.instant();
        for (var app : person.map(store::apps).orElse(List.of())) {
            var two = AppCode.isTwo(typed);
            var step = two
                    ? app.secret().stepOfSecond(typed, now, app.drift())
                    : asked.from() == Familiarity.BROWSER
                            ? app.secret().step(typed, now, app.drift())
                            : OptionalLong.empty();
            if (step.isPresent()
                    && store.take(
                            app.enrolment(),
                            two ? step.getAsLong() - 1 : step.getAsLong(),
                            step.getAsLong(),
                            app.secret().drift(step.getAsLong(), now))) {
                return Judgement.RIGHT;
            }
        }
        return Judgement.WRONG;
    }

    @Override
    public String wrong(int triesLeft) {
        return triesLeft == 0
                ? "These weren't right, and can't be tried again. Use another method, or start again."
                : "This wasn't right, or it was used already. Each code counts once: wait for the app to show the next one.";
    }

    @Override
    public GuessingSpace space(Asked asked, Answer answer) {
        return AppCode.isTwo(answer.typed()) || asked.from() != Familiarity.BROWSER
                ? AppCode.TWO_SPACE
                : AppCode.ONE_SPACE;
    }
}
