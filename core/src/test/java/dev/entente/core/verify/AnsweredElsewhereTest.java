package dev.entente.core.verify;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.guess.Familiarity;
import java.security.SecureRandom;
import java.time.Instant;
import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.junit.jupiter.api.Test;

/** What is agreed to elsewhere: what is shown, what waits, what counts once. */
class AnsweredElsewhereTest {
    private static final SecureRandom RANDOM = new SecureRandom();
    private final Map<UUID, UUID> approved = new HashMap<>();
    private final Map<UUID, String> asked = new HashMap<>();
    private final AnsweredElsewhere verifier = new AnsweredElsewhere(
            Method.of("push"),
            2,
            true,
            new AnsweredElsewhere.Store() {
                @Override
                public Optional<String> ask(Verifier.Ring ring, Method method, String number) {
                    asked.put(ring.challenge(), number);
                    return Optional.empty();
                }

                @Override
                public boolean approved(UUID challenge) {
                    return approved.containsKey(challenge);
                }

                @Override
                public boolean take(UUID challenge, UUID person) {
                    return approved.remove(challenge, person);
                }
            },
            RANDOM);

    private static Verifier.Asked asked(UUID challenge) {
        return new Verifier.Asked(challenge, Page.NONE, null, false, Familiarity.NONE);
    }

    @Test
    void a_number_of_two_digits_is_shown_and_the_same_is_asked_for_elsewhere() {
        var numbers = new HashSet<String>();
        for (var i = 0; i < 500; i++) {
            var challenge = UUID.randomUUID();
            var shown = verifier.show(challenge, Page.NONE, Optional.empty());
            verifier.ring(new Verifier.Ring(
                    challenge,
                    UUID.randomUUID(),
                    UUID.randomUUID(),
                    shown.kept(),
                    "key",
                    "reset",
                    "192.0.2.1",
                    "crew",
                    1,
                    Instant.now()));
            assertThat(shown.parts()).containsOnlyKeys("number");
            assertThat(shown.parts().get("number")).matches("[1-9][0-9]").isEqualTo(asked.get(challenge));
            numbers.add(asked.get(challenge));
        }
        assertThat(numbers).hasSizeGreaterThan(60);
    }

    @Test
    void an_approval_counts_for_its_person_once() {
        var challenge = UUID.randomUUID();
        var person = UUID.randomUUID();
        assertThat(verifier.waits(asked(challenge))).isTrue();
        approved.put(challenge, person);
        assertThat(verifier.waits(asked(challenge))).isFalse();
        assertThat(verifier.judge(asked(challenge), Optional.empty(), Answer.typed("")))
                .isEqualTo(Verifier.Judgement.WRONG);
        assertThat(verifier.judge(asked(challenge), Optional.of(UUID.randomUUID()), Answer.typed("")))
                .isEqualTo(Verifier.Judgement.WRONG);
        assertThat(verifier.judge(asked(challenge), Optional.of(person), Answer.typed("")))
                .isEqualTo(Verifier.Judgement.RIGHT);
        assertThat(verifier.judge(asked(challenge), Optional.of(person), Answer.typed("")))
                .isEqualTo(Verifier.Judgement.WRONG);
    }
}
