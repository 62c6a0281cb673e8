package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.bench.Mailbox;
import dev.entente.core.attempt.Cause;
import dev.entente.core.attempt.Outcome;
import dev.entente.wire.PortalApi;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Consumer;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Whatever was written is told: whatever directories say, and however an attempt ends. */
class ToldTest extends PublishingTest {
    private static final Duration SOON = Duration.ofSeconds(60);
    private static final Pattern WHERE = Pattern.compile("Your password for ([^.]*?) was\\s+reset");

    private record Said(Outcome outcome, Cause cause) {}

    private static final Said DONE = new Said(Outcome.DONE, null);

    /** With one that asks for another password, and one that settles later. */
    private static final List<Said> ALL = List.of(
            DONE,
            new Said(Outcome.REFUSED, Cause.TOO_SHORT),
            new Said(Outcome.REFUSED, Cause.TOO_RECENT),
            new Said(Outcome.FAILED, Cause.NO_RIGHT),
            new Said(Outcome.UNKNOWN, Cause.LOST_TRACK));

    /** What happens to attempts, once directories have answered or before. */
    private final Map<String, Consumer<List<ApiPerson>>> ends = new TreeMap<>(Map.of(
            "their time is up", all -> {},
            "they leave", all -> all.forEach(person -> person.call("DELETE", "/attempt", null)),
            "they start again", all -> all.forEach(person -> person.start(this.crew.shore())),
            "it wasn't them", this::alarm,
            "it is stopped", all -> stop()));

    private Crew crew;
    private SoftPasskey passkey;
    private final List<String> references = new ArrayList<>();

    @BeforeEach
    void prepare() throws Exception {
        world.later(Duration.ZERO);
        crew = world.crew();
        pilot(
                "prove:\n  reset: { any-of: [passkey] }\n  details: { any-of: [email-code] }\n"
                        + "tell: { person: [reset, failure], alarm: close }\nlimit: { resets: 1000 per 24h }\n",
                crew);
        passkey = new SoftPasskey(world.url);
        var own = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var offered = own.setUp("passkey", null);
        assertThat(own.call("POST", "/attempt/enrolments/" + offered.id() + "/confirmation", passkey.register(offered))
                        .status())
                .isEqualTo(200);
        own.call("POST", "/attempt/end", null);
    }

    @AfterEach
    void asBefore() {
        say(DONE, DONE);
        world.stewards.values().forEach(steward -> steward.goOn());
        world.later(Duration.ZERO);
    }

    private void say(Said shore, Said fleet) {
        world.stewards.get("shore").say(shore.outcome(), shore.cause());
        world.stewards.get("fleet").say(fleet.outcome(), fleet.cause());
    }

    private ApiPerson proved() throws Exception {
        var person = new ApiPerson(world);
        person.start(crew.shore()).as(PortalApi.Attempt.class);
        person.attempt = person.ask("passkey").as(PortalApi.Attempt.class);
        person.attempt = person.call(
                        "POST",
                        "/attempt/challenges/" + person.attempt.challenge().id() + "/answers",
                        passkey.sign(person.passkeyChallenge()))
                .as(PortalApi.Attempt.class);
        references.add(person.attempt.reference());
        return person;
    }

    private void alarm(List<ApiPerson> all) {
        for (var person : all) {
            world.mailbox.to(crew.address()).stream()
                    .filter(mail -> mail.text().contains(person.attempt.reference()))
                    .flatMap(mail -> Mailbox.link(mail).stream())
                    .findFirst()
                    .ifPresent(link ->
                            person.call("POST", "/alarms", new PortalApi.Alarm(link.replaceAll(".*#", ""), true)));
        }
        world.entente("person", "open", crew.shore(), "--reason", "looked at it");
    }

    private void stop() {
        world.entente("stop", "action:reset", "--reason", "a test").expect(0);
        world.entente("resume", "action:reset").expect(0);
    }

    private static String digits(String reference) {
        return reference.replaceAll("[^0-9]", "");
    }

    private void waitUntilAllHaveEnded() {
        Installation.waitUntil(
                SOON,
                "every order has ended",
                () -> world.query("SELECT count(*) FROM delivery WHERE ended_at IS NULL AND reference IN ("
                                + String.join(
                                        ",",
                                        references.stream()
                                                .map(r -> "'" + digits(r) + "'")
                                                .toList())
                                + ")")
                        .equals("0"));
    }

    /** Where each attempt was carried out, as the orders say. */
    private Map<String, Set<String>> done() {
        var done = new TreeMap<String, Set<String>>();
        references.forEach(reference -> done.put(
                reference,
                new TreeSet<>(
                        world.query("SELECT DISTINCT y.title FROM delivery d JOIN directory y ON y.id = d.directory"
                                        + " WHERE d.state = 'done' AND d.reference = '" + digits(reference) + "'")
                                .lines()
                                .toList())));
        return done;
    }

    /** And as the person was told, in any of the messages about it. */
    private Map<String, Set<String>> told() {
        var told = new TreeMap<String, Set<String>>();
        references.forEach(reference -> told.put(reference, new TreeSet<>()));
        for (var mail : world.mailbox.to(crew.address())) {
            var where = WHERE.matcher(mail.text());
            references.stream()
                    .filter(reference -> mail.text().contains(reference))
                    .findFirst()
                    .filter(reference -> where.find())
                    .ifPresent(reference -> told.get(reference)
                            .addAll(List.of(
                                    where.group(1).replaceAll("\\s+", " ").split(", | and "))));
        }
        return told;
    }

    private void assertTold() {
        var done = done();
        Installation.waitUntil(SOON, "all is told that was done", () -> {
            var told = told();
            return done.entrySet().stream()
                    .allMatch(one -> told.get(one.getKey()).containsAll(one.getValue()));
        });
        assertThat(told()).as("nothing else is").isEqualTo(done);
        assertThat(world.query("SELECT count(*) FROM delivery WHERE state = 'done' AND NOT told"))
                .isEqualTo("0");
    }

    /** What was uncertain turns out to be done, and the time of all is up. */
    private void timePasses() {
        say(DONE, DONE);
        world.later(Duration.ofMinutes(1));
        Installation.waitUntil(
                SOON,
                "what was uncertain is settled",
                () -> world.query("SELECT count(*) FROM delivery WHERE state = 'unknown' AND sealed IS NOT NULL")
                        .equals("0"));
        world.later(Duration.ofMinutes(45));
        Installation.waitUntil(
                SOON,
                "every attempt has ended",
                () -> world.query("SELECT count(*) FROM attempt WHERE ended_at IS NULL AND person IS NOT NULL")
                        .equals("0"));
    }

    @Test
    void whatever_directories_say_and_however_it_ends_afterwards() throws Exception {
        for (var end : ends.values()) {
            var all = new ArrayList<ApiPerson>();
            for (var shore : ALL) {
                for (var fleet : ALL) {
                    say(shore, fleet);
                    var person = proved();
                    person.choose("Told-Quay-" + references.size()).waitForOutcome(SOON);
                    all.add(person);
                }
            }
            end.accept(all);
        }
        waitUntilAllHaveEnded();
        timePasses();
        assertTold();
    }

    @Test
    void however_it_ends_while_directories_are_still_to_answer() throws Exception {
        for (var end : ends.values()) {
            for (var fleet : ALL) {
                say(DONE, fleet);
                world.stewards.get("fleet").hold();
                var person = proved();
                person.choose("Told-Quay-" + references.size());
                waitForTheFirst(person);
                end.accept(List.of(person));
                world.stewards.get("fleet").goOn();
                waitUntilAllHaveEnded();
            }
        }
        timePasses();
        assertTold();
    }

    private void waitForTheFirst(ApiPerson person) {
        Installation.waitUntil(
                SOON,
                "one of them has answered",
                () -> world.query("SELECT count(*) FROM delivery WHERE state = 'done' AND reference = '"
                                + digits(person.attempt.reference()) + "'")
                        .equals("1"));
    }

    @Test
    void a_node_that_dies_in_between_leaves_nothing_untold() throws Exception {
        world.stewards.get("fleet").hold();
        var person = proved();
        person.choose("Told-Quay-1");
        waitForTheFirst(person);
        world.kill("service");
        world.startService();
        world.stewards.get("fleet").say(Outcome.REFUSED, Cause.TOO_RECENT);
        world.stewards.get("fleet").goOn();
        world.later(Duration.ofMinutes(1));
        waitUntilAllHaveEnded();
        assertThat(person.look().state()).isIn("incomplete", "completed");
        assertTold();
    }
}
