package dev.entente.e2e;

import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.nio.file.Files;
import java.time.Duration;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** What became of messages to telephones: told by the gateway, or asked for when it says nothing. */
class PhoneStatesTest extends PublishingTest {
    private final Telephones phones = new Telephones(world);

    @BeforeEach
    void gateway() throws IOException {
        world.later(Duration.ZERO);
        var secret = Files.writeString(folder.resolveSibling("gateway.secret"), Installation.GATEWAY_SECRET);
        world.entente("phone", "add-gateway", "north", phones.gateway("north"), "--secret-file", secret.toString())
                .expect(0);
    }

    @AfterEach
    void none() {
        phones.behave("north", "deliver");
        world.entente("phone", "remove-gateway", "north");
        world.later(Duration.ZERO);
    }

    private List<String> kinds(ApiPerson person) {
        return List.of(world.query("SELECT e.kind FROM event e JOIN attempt a ON a.id = e.attempt WHERE a.reference = '"
                        + person.attempt.reference().replaceAll("[^0-9]", "") + "'")
                .split("\\s+"));
    }

    private ApiPerson asked(Crew crew, String behaviour) {
        phones.behave("north", behaviour);
        var person = new ApiPerson(world);
        person.start(crew.shore()).as(PortalApi.Attempt.class);
        person.attempt = person.ask(
                        "sms-code", crew.phone().substring(crew.phone().length() - 4))
                .as(PortalApi.Attempt.class);
        Installation.waitUntil(SOON, behaviour + " is sent", () -> kinds(person).contains("notification.sent"));
        return person;
    }

    @Test
    void what_became_of_a_message_is_on_record_told_or_asked_for() throws IOException {
        var crew = world.crew();
        pilot("prove:\n  reset: { any-of: [sms-code] }\n", crew);
        var delivered = asked(crew, "deliver");
        Installation.waitUntil(SOON, "it is told", () -> kinds(delivered).contains("notification.delivered"));
        var lost = asked(crew, "lose");
        var silent = asked(crew, "silent");
        // Whoever hears nothing asks, half a minute later.
        world.later(Duration.ofSeconds(60));
        Installation.waitUntil(SOON, "it is asked for", () -> kinds(silent).contains("notification.delivered"));
        Installation.waitUntil(SOON, "it is lost", () -> kinds(lost).contains("notification.undelivered"));
    }
}
