package dev.entente.service.verify.trial;

import dev.entente.core.guess.GuessingSpace;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Page;
import dev.entente.core.verify.Verifier;
import dev.entente.core.verify.trial.StampMethod;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.verify.Enroller;
import dev.entente.service.verify.EnrolmentTable;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.springframework.stereotype.Component;

/** The whole of a method in the service, without a line about it anywhere else. */
@Component
class StampCards implements Enroller, Verifier {
    private final KeyRing keys;
    private final EnrolmentTable enrolments;

    StampCards(KeyRing keys, EnrolmentTable enrolments) {
        this.keys = keys;
        this.enrolments = enrolments;
    }

    @Override
    public Method method() {
        return Method.of(StampMethod.LABEL);
    }

    private String number(UUID enrolment) {
        return HexFormat.of().formatHex(keys.blind("trial stamp", enrolment.toString()));
    }

    @Override
    public Judgement judge(Asked asked, Optional<UUID> person, Answer answer) {
        var right = person.map(p -> enrolments.of(p, method())).orElse(List.of()).stream()
                .filter(id -> number(id).equals(answer.typed()))
                .findFirst();
        right.ifPresent(enrolments::used);
        return Judgement.of(right.isPresent());
    }

    @Override
    public GuessingSpace space(Asked asked, Answer answer) {
        return new GuessingSpace(Math.pow(2, 128), 1);
    }

    @Override
    public Shown show(UUID challenge, Page page, Optional<UUID> proven) {
        return new Shown(null, Map.of("colour", "blue"));
    }

    @Override
    public int most() {
        return 2;
    }

    @Override
    public String usualName() {
        return "Stamp card";
    }

    @Override
    public Offered offer(UUID id, UUID person, String login) {
        return new Offered(false, Map.of("number", number(id)), List.of());
    }

    @Override
    public void confirm(UUID id, UUID person, Answer answer) {
        if (!number(id).equals(answer.typed())) {
            throw Problem.of("code-wrong/attempt").with("says", "That isn't the number on the card.");
        }
    }

    @Override
    public void forget(UUID id) {
        // The number follows from the enrolment, which counts for nothing any more.
    }
}
