package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.bench.Mailbox;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.time.Duration;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** People hear before their password ends, and are invited to set up what they lack. */
class RemindersTest extends PublishingTest {
    private static final Duration LONG = Duration.ofSeconds(90);

    @AfterEach
    void asItWas() {
        world.later(Duration.ZERO);
    }

    private List<Mailbox.Mail> got(Crew crew, String subject) {
        return world.mailbox.to(crew.address()).stream()
                .filter(m -> m.subject().startsWith("Skerry Line: " + subject))
                .toList();
    }

    /** So much later, and everybody was looked at then. */
    private void lookedAt(Duration later) {
        world.later(later);
        World.waitUntil(
                LONG,
                "everybody was looked at",
                () -> world.query("SELECT next_at > entente_now() FROM reminder_look")
                        .equals("t"));
    }

    /** As a directory tells it; the double's own reads say nothing of it, and may come in between. */
    private void ends(Crew crew, Instant at) {
        world.query("UPDATE account SET password_ends_at = '" + at
                + "' WHERE id IN (SELECT account FROM account_login WHERE login_key IN ('" + crew.shore() + "', '"
                + crew.fleet() + "'))");
    }

    @Test
    void people_hear_a_fortnight_a_week_and_a_day_before_their_password_ends_and_never_twice() throws IOException {
        var crew = world.crew();
        var untold = world.crew();
        pilot("tell: { person: [reset, expiry], may-switch-off: [expiry] }\n", crew);
        assertThat(world.entente("policy", "show", "pilot").out())
                .contains("The person is told after each reset. They are told before their password ends.");
        var ends = Duration.ofDays(90);
        var end = Instant.now().plus(ends).truncatedTo(ChronoUnit.SECONDS);
        ends(crew, end);
        ends(untold, end);
        lookedAt(Duration.ofMinutes(5));
        assertThat(got(crew, "your password ends")).isEmpty();
        var told = 0;
        for (var before : List.of(Duration.ofDays(13), Duration.ofDays(6), Duration.ofHours(12))) {
            told++;
            var many = told;
            ends(crew, end);
            ends(untold, end);
            world.later(ends.minus(before));
            World.waitUntil(LONG, before + " before", () -> {
                ends(crew, end);
                ends(untold, end);
                return got(crew, "your password ends").size() >= many;
            });
            lookedAt(ends.minus(before).plusMinutes(5));
            assertThat(got(crew, "your password ends")).hasSize(told);
        }
        var mail = got(crew, "your password ends on ").get(0);
        assertThat(mail.text())
                .contains("Your password ends on", "Choose a new one before then", world.url)
                .doesNotContain("not-me");
        assertThat(got(untold, "your password ends")).isEmpty();

        // Whoever doesn't want to hear of it any more doesn't.
        var token = mail.quiet().replaceAll(".*#|>", "");
        assertThat(new ApiPerson(world)
                        .call("POST", "/quiet", new PortalApi.Quiet(token, true))
                        .as(PortalApi.Told.class))
                .isEqualTo(new PortalApi.Told("expiry", false));
    }

    @Test
    void who_lacks_a_method_is_invited_again_after_a_while_and_not_once_it_is_set_up() throws IOException {
        var crew = world.crew();
        var ready = world.crew();
        var prepared = new ApiPerson(world).wants("details").prove(ready.shore(), ready.address());
        prepared.setUp("recovery-code", null);
        pilot(
                "prove: { reset: { methods: 2, any-of: [email-code, recovery-code] }, details: { any-of: [email-code] } }\n"
                        + "tell: { person: [invitation] }\n",
                crew,
                ready);
        assertThat(explained(crew)).contains("The person has only");
        // Everybody is gone through twice a day.
        world.later(Duration.ofHours(13));
        World.waitUntil(LONG, "the invitation", () -> got(crew, "get ready").size() == 1);
        assertThat(got(crew, "get ready").get(0).text())
                .containsPattern("I want to prepare for\\s+next time")
                .contains(world.url)
                .doesNotContain("not-me");
        assertThat(got(ready, "get ready")).as("has what it takes").isEmpty();
        lookedAt(Duration.ofDays(14));
        assertThat(got(crew, "get ready")).hasSize(1);
        world.later(Duration.ofDays(16));
        World.waitUntil(LONG, "once more", () -> got(crew, "get ready").size() == 2);

        world.later(Duration.ZERO);
        var person = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        person.setUp("recovery-code", null);
        lookedAt(Duration.ofDays(120));
        assertThat(got(crew, "get ready")).hasSize(2);
    }
}
