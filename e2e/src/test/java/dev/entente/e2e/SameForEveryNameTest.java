package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.nio.file.Files;
import java.util.List;
import java.util.Map;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;

/** Nobody learns who exists: every name meets the same answers until the first proof. Limits hold in the database. */
class SameForEveryNameTest {
    private static final List<String> NAMES = List.of(
            "dagny.holm", // disabled
            "calum.wick", // no address
            "oda.leask", // outside every policy
            "hedda.berg", // left out of the scope
            "nobody.at.all");

    private final ServiceWorld world = ServiceWorld.get();

    @Test
    void known_unknown_disabled_and_uncovered_names_get_answers_of_the_same_shape_size_and_time() {
        var known = passage(world.crew().shore());
        for (var name : NAMES) {
            var other = passage(name);
            for (var step = 0; step < known.size(); step++) {
                assertThat(other.get(step).status())
                        .as(name)
                        .isEqualTo(known.get(step).status());
                assertThat(shape(other.get(step).body()))
                        .as(name)
                        .isEqualTo(shape(known.get(step).body()));
                assertThat(other.get(step).body().length())
                        .as(name)
                        .isEqualTo(known.get(step).body().length());
                // Answers leave at multiples of a twentieth of a second here.
                assertThat(other.get(step).millis() / 50.0).as(name).isGreaterThanOrEqualTo(1.0);
            }
        }
    }

    /** Starting, asking, and two wrong answers. */
    private List<ApiPerson.Answer> passage(String name) {
        var person = new ApiPerson(world);
        var started = person.start(name);
        var asked = person.ask();
        person.attempt = asked.as(PortalApi.Attempt.class);
        return List.of(started, asked, person.answer("12345678"), person.answer("not a code"));
    }

    private static String shape(String body) {
        return body.replaceAll("[0-9a-f]{8}-[0-9a-f-]{27}", "ID").replaceAll("[0-9]", "0");
    }

    @Test
    void what_was_typed_as_a_name_is_stored_nowhere() {
        new ApiPerson(world).start("Oops-My-Password-9931");
        Installation.pause(1500);
        var dump = Installation.run(
                        Map.of("PGPASSWORD", read("lab/postgres/postgres.password")),
                        "pg_dump",
                        "-h",
                        "127.0.0.1",
                        "-p",
                        String.valueOf(world.pgPort),
                        "-U",
                        "postgres",
                        "entente")
                .expect(0)
                .out();
        assertThat(dump).doesNotContainIgnoringCase("oops-my-password").contains("unknown-name");
        assertThat(read("logs/service.log")).doesNotContainIgnoringCase("oops-my-password");
    }

    private String read(String path) {
        try {
            return Files.readString(world.dir.resolve(path)).strip();
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }

    @Test
    void tries_of_a_code_are_consumed_before_they_are_compared_and_run_out() {
        var crew = world.crew();
        var person = new ApiPerson(world);
        var before = world.mailbox.to(crew.address()).size();
        person.start(crew.shore());
        person.attempt = person.ask().as(PortalApi.Attempt.class);
        var code = world.mailbox.nextCode(crew.address(), before);
        // All at once, from many threads: no more than five are ever compared.
        var answers =
                Installation.atOnce(20, i -> person.answer("%08d".formatted(i)).status());
        assertThat(answers).filteredOn(status -> status == 422).hasSize(5);
        assertThat(answers).filteredOn(status -> status == 410).hasSize(15);
        assertThat(person.answer(code).status()).isEqualTo(410);
        assertThat(person.look().state()).isEqualTo("proving");
    }

    @Test
    void many_starts_in_one_name_block_that_name_for_nobody_known_or_not() {
        for (var name : List.of(world.crew().shore(), "somebody.else")) {
            var statuses = IntStream.range(0, 20)
                    .map(i -> new ApiPerson(world).start(name).status())
                    .distinct()
                    .toArray();
            assertThat(statuses).containsExactly(201);
        }
    }

    @Test
    void a_code_opens_no_other_attempt() {
        var crew = world.crew();
        var before = world.mailbox.to(crew.address()).size();
        var one = new ApiPerson(world);
        one.start(crew.shore());
        one.attempt = one.ask().as(PortalApi.Attempt.class);
        var code = world.mailbox.nextCode(crew.address(), before);
        var other = new ApiPerson(world);
        other.start(crew.shore());
        other.attempt = other.ask().as(PortalApi.Attempt.class);

        assertThat(other.answer(code).status()).isEqualTo(422);
        other.attempt = one.attempt;
        assertThat(other.answer(code).status()).isEqualTo(410);
        assertThat(one.answer(code).status()).isEqualTo(200);
    }
}
