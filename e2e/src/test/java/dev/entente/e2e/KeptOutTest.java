package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.bench.Mailbox;
import dev.entente.core.verify.appcode.AppCode;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.nio.file.Files;
import java.time.Duration;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.List;
import java.util.TreeMap;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/**
 * A person who has what the policy asks for gets in: in every order of asks and right answers over every pair of methods, on known and
 * unknown browsers, alone and behind an address that others share. Asking, sending and right answers never cost what wrong answers cost.
 */
class KeptOutTest extends PublishingTest {
    private static final List<String> METHODS = List.of("email-code", "app-code", "questions", "recovery-code");
    private int networks;
    private Duration later = Duration.ZERO;

    /** A person with every method. */
    private final class Owner {
        private final Crew crew;
        private String secret;
        /** Messages that had come before those that count. */
        private int before;

        private final Deque<String> papers = new ArrayDeque<>();

        Owner(Crew crew) {
            this.crew = crew;
            var own = in(crew);
            var app = own.setUp("app-code", null);
            secret = app.parts().get("secret");
            confirm(own, app, PortalApi.Answer.typed(code(0)));
            confirm(own, own.setUp("questions", null), EveryMethod.CHOSEN);
            papers.addAll(own.setUp("recovery-code", null).lines());
            own.call("POST", "/attempt/end", null);
        }

        private void confirm(ApiPerson own, PortalApi.OfferedEnrolment offered, PortalApi.Answer answer) {
            var made = own.call("POST", "/attempt/enrolments/" + offered.id() + "/confirmation", answer);
            assertThat(made.status()).as(made.body()).isEqualTo(200);
        }

        private String code(int ahead) {
            return AppCode.parse(secret).at(world.now().getEpochSecond() / 30 + ahead);
        }

        /** The right answer to what is asked now. */
        private PortalApi.Answer right(ApiPerson at, String method) {
            return switch (method) {
                case "email-code" ->
                    PortalApi.Answer.typed(world.mailbox.codeOf(at.attempt.reference(), crew.address(), before));
                case "app-code" -> {
                    // Each code counts once, so that time goes on before the next ones.
                    later = later.plusSeconds(120);
                    world.later(later);
                    yield PortalApi.Answer.typed(code(-1) + code(0));
                }
                case "questions" -> {
                    var parts = new TreeMap<String, String>();
                    at.attempt.challenge().parts().forEach((name, text) -> {
                        if (name.matches("[0-9]\\.en")) {
                            parts.put(name.substring(0, 1), EveryMethod.ANSWERS.get(text));
                        }
                    });
                    yield new PortalApi.Answer(null, parts);
                }
                default -> {
                    if (papers.isEmpty()) {
                        papers.addAll(in(crew).setUp("recovery-code", null).lines());
                    }
                    yield PortalApi.Answer.typed(papers.remove());
                }
            };
        }

        /** Proves by two methods, after asking for each so many times; the last state. */
        private String proves(ApiPerson at, List<String> two, int asks) {
            return proves(at, two, asks, false);
        }

        /** @param enough whether so many codes were sent that no more is before something is proved */
        private String proves(ApiPerson at, List<String> two, int asks, boolean enough) {
            at.start(crew.shore()).as(PortalApi.Attempt.class);
            for (var method : two) {
                for (var i = 0; i < asks; i++) {
                    var mails = codes(crew);
                    var asked = at.ask(method);
                    assertThat(asked.status()).as(two + ": " + asked.body()).isEqualTo(201);
                    at.attempt = asked.as(PortalApi.Attempt.class);
                    if (method.equals("email-code") && !(enough && method.equals(two.get(0)))) {
                        came(crew, mails + 1);
                    }
                }
                var answered = at.call(
                        "POST", "/attempt/challenges/" + at.attempt.challenge().id() + "/answers", right(at, method));
                assertThat(answered.status())
                        .as(two + " by " + method + ": " + answered.body())
                        .isEqualTo(200);
                at.attempt = answered.as(PortalApi.Attempt.class);
            }
            return at.attempt.state();
        }
    }

    /** Where they set up methods, by the newest code: one that was good for an hour before is not what comes now. */
    private ApiPerson in(Crew crew) {
        var own = from(somewhere()).wants("details");
        own.start(crew.shore()).as(PortalApi.Attempt.class);
        var mails = world.mailbox.to(crew.address()).size();
        own.attempt = own.ask().as(PortalApi.Attempt.class);
        own.attempt = own.answer(world.mailbox.nextCode(crew.address(), mails)).as(PortalApi.Attempt.class);
        return own;
    }

    /** How many codes were mailed; news may come in between. */
    private long codes(Crew crew) {
        return world.mailbox.to(crew.address()).stream()
                .filter(mail -> Mailbox.code(mail).isPresent())
                .count();
    }

    private void came(Crew crew, long codes) {
        Installation.waitUntil(SOON, "codes have come", () -> codes(crew) >= codes);
    }

    private ApiPerson from(String network) {
        var person = new ApiPerson(world);
        person.network = network;
        return person;
    }

    private String somewhere() {
        networks++;
        return "198.19." + networks / 250 + "." + (1 + networks % 250);
    }

    private static String anyTwo() {
        return "prove:\n  reset: { methods: 2, any-of: [" + String.join(", ", METHODS) + "] }\n"
                + "  details: { any-of: [email-code] }\nlimit: { resets: 1000 per 24h }\n";
    }

    private void policy(Crew... crew) throws IOException {
        write("questions.yaml", """
                register: 2
                ask: 1
                questions:
                  ship: { texts: { en: Which ship? } }
                  book: { texts: { en: Which book? } }
                """);
        pilot(anyTwo(), crew);
    }

    @BeforeEach
    void now() {
        world.later(Duration.ZERO);
    }

    @AfterEach
    void nowAgain() {
        world.later(Duration.ZERO);
    }

    private static List<List<String>> pairs() {
        var pairs = new ArrayList<List<String>>();
        for (var one : METHODS) {
            for (var other : METHODS) {
                // What depends on the person never comes first.
                if (!one.equals(other) && !one.equals("questions")) {
                    pairs.add(List.of(one, other));
                }
            }
        }
        return pairs;
    }

    /** Another hour, in which codes are sent as if none had been; at the most a few, since administrators are signed in for half a day. */
    private void anotherHour() {
        later = later.plusMinutes(61);
        world.later(later);
    }

    @Test
    void every_pair_in_every_order_leads_in_on_an_unknown_browser_however_often_it_was_asked_for() throws IOException {
        var crew = world.crew();
        policy(crew);
        var owner = new Owner(crew);
        for (var pair : pairs()) {
            assertThat(owner.proves(from(somewhere()), pair, 3))
                    .as(pair.toString())
                    .isEqualTo("proved");
            if (pair.contains("email-code")) {
                anotherHour();
            }
        }
    }

    @Test
    void every_pair_leads_in_behind_one_address_that_others_share() throws IOException {
        var crew = world.crew();
        var colleague = world.crew();
        policy(crew, colleague);
        var owner = new Owner(crew);
        var other = new Owner(colleague);
        var office = somewhere();
        for (var pair : pairs()) {
            assertThat(owner.proves(from(office), pair, 1)).as(pair.toString()).isEqualTo("proved");
            assertThat(other.proves(from(office), pair, 1))
                    .as(pair + " of a colleague")
                    .isEqualTo("proved");
            if (pair.contains("email-code")) {
                anotherHour();
            }
        }
    }

    @Test
    void every_pair_leads_in_on_a_browser_that_is_known() throws IOException {
        var crew = world.crew();
        policy(crew);
        var owner = new Owner(crew);
        var known = from(somewhere());
        owner.proves(known, List.of("email-code", "recovery-code"), 1);
        for (var pair : pairs()) {
            var there = from(known.network);
            there.device = known.device;
            assertThat(owner.proves(there, pair, 2)).as(pair.toString()).isEqualTo("proved");
            if (pair.contains("email-code")) {
                anotherHour();
            }
        }
    }

    @Test
    void a_colleague_behind_the_same_address_closes_nothing_by_merely_asking() throws IOException {
        var crew = world.crew();
        policy(crew);
        var owner = new Owner(crew);
        var office = somewhere();
        for (var pair : List.of(
                List.of("email-code", "app-code"),
                List.of("email-code", "questions"),
                List.of("app-code", "email-code"))) {
            // A code of the hour before is good no more.
            owner.before = world.mailbox.to(crew.address()).size();
            for (var i = 0; i < 3; i++) {
                var colleague = from(office);
                colleague.start(crew.shore()).as(PortalApi.Attempt.class);
                for (var j = 0; j < 3; j++) {
                    colleague.ask();
                }
            }
            // The last code of the hour is good for all of it, in any attempt of its owner's.
            assertThat(owner.proves(from(office), pair, 1, true))
                    .as(pair.toString())
                    .isEqualTo("proved");
            later = later.plusHours(1);
            world.later(later);
        }
        world.later(Duration.ZERO);
        assertThat(explained(crew)).doesNotContain("used up");
    }

    @Test
    void codes_that_strangers_have_mailed_take_nothing_from_telephones_or_from_who_proved_something()
            throws IOException {
        var crew = world.crew();
        var phones = new Telephones(world);
        var file = Files.writeString(folder.resolveSibling("north.secret"), Installation.GATEWAY_SECRET);
        phones.behave("north", "deliver");
        world.entente("phone", "add-gateway", "north", phones.gateway("north"), "--secret-file", file.toString())
                .expect(0);
        try {
            policy(crew);
            pilot(
                    "prove:\n  reset: { methods: 2, any-of: [sms-code, email-code, app-code] }\n"
                            + "  details: { any-of: [email-code] }\n",
                    crew);
            var owner = new Owner(crew);
            // Hour after hour, from wherever.
            for (var hour = 0; hour < 2; hour++) {
                for (var i = 0; i < World.CODES_PER_HOUR + 2; i++) {
                    var stranger = from(somewhere());
                    stranger.start(crew.shore()).as(PortalApi.Attempt.class);
                    stranger.ask();
                }
                var texts = phones.at(crew.phone()).size();
                var there = from(somewhere());
                there.start(crew.shore()).as(PortalApi.Attempt.class);
                there.attempt = there.ask(
                                "sms-code", crew.phone().substring(crew.phone().length() - 4))
                        .as(PortalApi.Attempt.class);
                var answered = there.answer(Telephones.code(phones.next(crew.phone(), texts)));
                there.attempt = answered.as(PortalApi.Attempt.class);
                assertThat(there.attempt.proved()).containsExactly("sms-code");
                assertThat(there.attempt.methods()).contains("email-code", "app-code");
                // What it shows already opens what it still needs: a code of its own comes.
                there.attempt = there.ask().as(PortalApi.Attempt.class);
                assertThat(there.answer(world.mailbox.codeOf(there.attempt.reference(), crew.address()))
                                .as(PortalApi.Attempt.class)
                                .state())
                        .isEqualTo("proved");
                later = later.plusHours(1);
                world.later(later);
            }
            assertThat(owner.secret).isNotEmpty();
        } finally {
            // Sign-ins of hours ago have ended.
            world.later(Duration.ZERO);
            world.entente("phone", "remove-gateway", "north").expect(0);
        }
    }

    @Test
    void people_set_up_what_their_policy_accepts_and_hear_what_it_is_good_for() throws IOException {
        var crew = world.crew();
        policy(crew);
        new Owner(crew);
        pilot(
                "prove:\n  reset: { any-of: [email-code, app-code] }\n  unlock: { any-of: [email-code, app-code] }\n"
                        + "  change: { any-of: [email-code] }\n  details: { any-of: [email-code] }\n",
                crew);
        var own = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var settable = ApiPerson.JSON.readValue(
                own.call("GET", "/attempt/settable", null).body(), PortalApi.SettableMethod[].class);
        assertThat(settable).containsExactly(new PortalApi.SettableMethod("app-code", List.of("reset", "unlock")));
    }
}
