package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.bench.Mailbox;
import dev.entente.bench.Recovery;
import dev.entente.wire.PortalApi;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.Executors;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.IntConsumer;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;

/** Strangers who guess, ask and start as much as they can: what they use up is theirs, it is seen, and owners get in. */
class StrangersTest {
    private static final Duration SOON = Duration.ofSeconds(60);
    private static final AtomicInteger NETWORKS = new AtomicInteger();

    private final World world = World.get();

    /** Somebody on a browser and a network that nobody used before. */
    private ApiPerson somebodyElsewhere() {
        var person = new ApiPerson(world);
        var number = NETWORKS.incrementAndGet();
        person.network = "198.18." + number / 250 + "." + (1 + number % 250);
        return person;
    }

    private static void sideBySide(int times, IntConsumer work) {
        try (var threads = new Threads(24)) {
            threads.all(IntStream.range(0, times)
                    .<Runnable>mapToObj(i -> () -> work.accept(i))
                    .toList());
        }
    }

    /** Threads that end with the test. */
    private record Threads(java.util.concurrent.ExecutorService service) implements AutoCloseable {
        Threads(int count) {
            this(Executors.newFixedThreadPool(count));
        }

        void all(List<Runnable> work) {
            var begun = work.stream().map(service::submit).toList();
            for (var one : begun) {
                try {
                    one.get();
                } catch (InterruptedException e) {
                    Thread.currentThread().interrupt();
                    throw new IllegalStateException(e);
                } catch (java.util.concurrent.ExecutionException e) {
                    throw new IllegalStateException(e.getCause());
                }
            }
        }

        @Override
        public void close() {
            service.shutdownNow();
        }
    }

    /** Every code that came to an address. */
    private long codesTo(String address) {
        return world.mailbox.to(address).stream()
                .filter(mail -> Mailbox.code(mail).isPresent())
                .count();
    }

    @Test
    void an_owner_on_an_unknown_browser_gets_in_while_strangers_guess_and_ask_for_codes_by_every_spelling() {
        var crew = world.crew();
        var spellings = List.of(
                crew.shore(), crew.shore().toUpperCase(Locale.ROOT), crew.fleet(), crew.shore() + "@skerry.test");
        sideBySide(24, i -> {
            var stranger = somebodyElsewhere();
            assertThat(stranger.start(spellings.get(i % spellings.size())).status())
                    .isEqualTo(201);
            stranger.attempt = stranger.ask().as(PortalApi.Attempt.class);
            for (var guess = 0; guess < 5; guess++) {
                assertThat(stranger.answer("%08d".formatted(10 * i + guess)).status())
                        .isIn(422, 410);
            }
        });
        assertThat(codesTo(crew.address())).as("codes to one recipient").isLessThanOrEqualTo(World.CODES_PER_HOUR);
        assertThat(world.entente("explain", crew.shore()).expect(0).out()).contains("can reset now");

        var owner = somebodyElsewhere();
        owner.start(crew.shore());
        owner.attempt = owner.ask().as(PortalApi.Attempt.class);
        // Either this attempt's own code comes, or the one for all of this hour has come before.
        var answered = owner.answer(world.mailbox.codeOf(owner.attempt.reference(), crew.address()));
        assertThat(answered.status()).as(answered.body()).isEqualTo(200);
        owner.attempt = answered.as(PortalApi.Attempt.class);
        assertThat(owner.choose("Owner-Quay-701").waitForOutcome(SOON).state()).isEqualTo("completed");
        assertThat(world.binds("fleet", crew.fleet(), "Owner-Quay-701")).isTrue();
    }

    @Test
    void after_many_wrong_answers_from_a_network_browsers_there_do_some_work_first_the_same_for_every_name() {
        var network = somebodyElsewhere().network;
        sideBySide(5, i -> {
            var stranger = new ApiPerson(world);
            stranger.network = network;
            stranger.start("nobody.of.that.name");
            stranger.attempt = stranger.ask().as(PortalApi.Attempt.class);
            for (var guess = 0; guess < 5; guess++) {
                stranger.answer("12345678");
            }
        });
        var crew = world.crew();
        var person = new ApiPerson(world);
        person.network = network;
        wrongUntilWorkIsAskedFor(person);
        var wanted = person.begin(crew.shore(), person.key.publicKey(), null);
        assertThat(wanted.status()).isEqualTo(428);
        assertThat(wanted.body()).contains("work-wanted", "\"bits\":16");
        var work = Recovery.work(wanted.json());
        var elsewhere = somebodyElsewhere();
        assertThat(elsewhere
                        .begin(crew.shore(), elsewhere.key.publicKey(), null)
                        .status())
                .isEqualTo(201);
        assertThat(person.begin(crew.shore(), person.key.publicKey(), new PortalApi.Work(work.seed(), "x"))
                        .status())
                .isEqualTo(428);
        assertThat(person.begin(crew.shore(), person.key.publicKey(), work).status())
                .isEqualTo(201);
        assertThat(person.begin(crew.shore(), person.key.publicKey(), work).status())
                .as("the same work again")
                .isEqualTo(428);
        assertThat(person.start("made.up").status()).isEqualTo(201);
    }

    /** What was wrong before is counted by the quarter of an hour, which may have ended meanwhile. */
    private void wrongUntilWorkIsAskedFor(ApiPerson there) {
        World.waitUntil(SOON, "work is asked for", () -> {
            if (there.begin("made.up", there.key.publicKey(), null).status() == 428) {
                return true;
            }
            var stranger = new ApiPerson(world);
            stranger.network = there.network;
            stranger.start("nobody.of.that.name");
            stranger.attempt = stranger.ask().as(PortalApi.Attempt.class);
            for (var guess = 0; guess < 5; guess++) {
                stranger.answer("12345678");
            }
            return false;
        });
    }

    @Test
    void a_browser_does_the_work_by_itself_beside_the_page() {
        // From this machine's own network, in which the browser is.
        sideBySide(5, i -> {
            var stranger = new ApiPerson(world);
            stranger.start("nobody.of.that.name");
            stranger.attempt = stranger.ask().as(PortalApi.Attempt.class);
            for (var guess = 0; guess < 5; guess++) {
                stranger.answer("12345678");
            }
        });
        var there = new ApiPerson(world);
        wrongUntilWorkIsAskedFor(there);
        var crew = world.crew();
        var done = Long.parseLong(world.query("SELECT count(*) FROM work_done"));
        var person = new Person(world.browser().page(390, 844), world.url);
        person.identify(crew.shore(), "reset");
        assertThat(Long.parseLong(world.query("SELECT count(*) FROM work_done")))
                .isGreaterThan(done);
    }

    @Test
    void wrong_answers_on_names_that_mean_nobody_take_nothing_from_others_in_the_same_network() {
        var network = somebodyElsewhere().network;
        sideBySide(12, i -> {
            var stranger = new ApiPerson(world);
            stranger.network = network;
            stranger.start(i % 2 == 0 ? "nobody.of.that.name" : "oda.leask");
            stranger.attempt = stranger.ask().as(PortalApi.Attempt.class);
            for (var guess = 0; guess < 5; guess++) {
                assertThat(stranger.answer("12345678").status()).isEqualTo(422);
            }
        });
        var crew = world.crew();
        var owner = new ApiPerson(world);
        owner.network = network;
        owner.prove(crew.shore(), crew.address());
        assertThat(owner.attempt.state()).isEqualTo("proved");
    }

    @Test
    void a_flood_of_made_up_names_is_told_with_its_networks_and_leaves_a_few_events_only() {
        // What other tests did is no part of this flood.
        world.query("DELETE FROM pressure");
        var before = Long.parseLong(world.query("SELECT count(*) FROM event"));
        sideBySide(120, i -> {
            var stranger = somebodyElsewhere();
            stranger.network = "203.0.113." + (1 + i % 2);
            assertThat(stranger.start("made.up." + i).status()).isEqualTo(201);
        });
        World.waitUntil(
                SOON,
                "the flood is told",
                () -> world.entente("status").out().contains("attempts were started for names that don't exist"));
        assertThat(world.entente("status").out()).contains("203.0.113.");
        assertThat(Long.parseLong(world.query("SELECT count(*) FROM event")) - before)
                .as("events for 120 starts")
                .isLessThan(60);
        var today = ConsoleApi.signedIn(world).get("/today").body();
        assertThat(ApiPerson.JSON.readTree(today).path("madeUp").asInt()).isGreaterThanOrEqualTo(120);
        assertThat(today).contains("network:203.0.113.");
        var pressure = ConsoleApi.signedIn(world).get("/pressure").body();
        assertThat(ApiPerson.JSON.readTree(pressure).path("levels").toString()).contains("\"unusual\":true");
        assertThat(pressure).contains("203.0.113.");
    }

    @Test
    void a_stopped_network_is_shut_out_alone_and_explain_says_so() {
        var crew = world.crew();
        world.entente("stop", "network:192.0.2.9", "--reason", "a flood from there", "--for", "1h")
                .expect(0);
        try {
            var there = new ApiPerson(world);
            there.network = "192.0.2.9";
            assertThat(there.start(crew.shore()).status()).isEqualTo(503);
            assertThat(somebodyElsewhere().start(crew.shore()).status()).isEqualTo(201);
            assertThat(world.entente("explain", crew.shore(), "--network", "192.0.2.9")
                            .expect(1)
                            .out())
                    .contains("a flood from there");
            world.entente("explain", crew.shore()).expect(0);
        } finally {
            world.entente("resume", "network:192.0.2.9").expect(0);
            world.entente("stop", "network:192.0.2.0/24", "--reason", "a range of them")
                    .expect(0);
            world.entente("resume", "network:192.0.2.0/24").expect(0);
        }
    }

    @Test
    void going_on_before_a_proof_is_answered_alike_for_everybody_also_while_a_policy_is_stopped() {
        var crew = world.crew();
        world.entente("stop", "policy:deck-crew", "--reason", "a test").expect(0);
        try {
            var answers = List.of(crew.shore(), "nobody.at.all", "oda.leask").stream()
                    .map(name -> {
                        var person = new ApiPerson(world);
                        person.start(name);
                        var answer = person.goOn();
                        return answer.status() + " " + answer.body();
                    })
                    .distinct()
                    .toList();
            assertThat(answers).hasSize(1);
        } finally {
            world.entente("resume", "policy:deck-crew").expect(0);
        }
    }

    @Test
    void under_a_flood_answers_for_known_and_made_up_names_take_the_same_time() throws Exception {
        var known = world.crew().shore();
        var flood = new AtomicBoolean(true);
        var floods = IntStream.range(0, 12)
                .mapToObj(i -> new Thread(() -> {
                    while (flood.get()) {
                        var stranger = somebodyElsewhere();
                        if (stranger.start("flooding." + i).status() == 201) {
                            stranger.ask();
                        }
                    }
                }))
                .toList();
        floods.forEach(Thread::start);
        try {
            var times = new HashMap<Boolean, List<Long>>();
            for (var round = 0; round < 24; round++) {
                var real = round % 2 == 0;
                var took = somebodyElsewhere()
                        .start(real ? known : "made.up." + round)
                        .millis();
                times.computeIfAbsent(real, r -> new ArrayList<>()).add(took);
            }
            var medians = times.values().stream()
                    .map(all -> all.stream().sorted().toList().get(all.size() / 2))
                    .toList();
            assertThat(medians).allMatch(median -> median >= 250);
            assertThat(Math.abs(medians.get(0) - medians.get(1)))
                    .as("half a step of the deadline between %s", times)
                    .isLessThan(125);
        } finally {
            flood.set(false);
            for (var thread : floods) {
                thread.join();
            }
        }
    }

    @Test
    void whoever_asks_for_many_codes_waits_behind_somebody_who_asks_for_one() {
        var victims = List.of(world.crew(), world.crew(), world.crew(), world.crew(), world.crew());
        var owner = world.crew();
        String allWait;
        // Six messages are under way at a time; these conversations do not end while the mail server sleeps.
        world.signal("standins", "STOP");
        try {
            sideBySide(15, i -> {
                var stranger = new ApiPerson(world);
                stranger.network = "198.19.7.7";
                stranger.start(victims.get(i % 5).shore());
                stranger.ask();
            });
            World.waitUntil(SOON, "the messages wait", () -> waiting().equals("15"));
            var person = somebodyElsewhere();
            person.start(owner.shore());
            person.ask();
            World.waitUntil(SOON, "one more waits", () -> waiting().equals("16"));
            allWait = world.query("SELECT now()");
        } finally {
            world.signal("standins", "CONT");
        }
        World.waitUntil(SOON, "all are sent", () -> waiting().equals("0"));
        // Those that were under way already went first, and nobody else of the one who had asked for fifteen.
        assertThat(world.query(
                        "WITH o AS (SELECT m.begun_at, m.lane FROM notification m JOIN attempt a ON a.id = m.attempt"
                                + " JOIN account c ON c.person = a.person WHERE c.login = '" + owner.shore() + "'"
                                + " ORDER BY m.created_at LIMIT 1)"
                                + " SELECT count(*) FILTER (WHERE n.begun_at < o.begun_at) || ' before, '"
                                + " || CASE WHEN count(*) >= 9 THEN 'the rest' ELSE 'only ' || count(*) END || ' after'"
                                + " FROM notification n, o WHERE n.lane > o.lane AND n.begun_at >= '" + allWait + "'"))
                .isEqualTo("0 before, the rest after");
    }

    private String waiting() {
        return world.query("SELECT count(*) FROM notification WHERE state IN ('queued', 'sending')");
    }

    @Test
    void limits_are_lifted_with_a_reason_on_record() {
        var crew = world.crew();
        assertThat(world.entente("person", "lift-limits", crew.shore(), "--reason", " ")
                        .expect(1)
                        .err())
                .contains("reason");
        world.entente("person", "lift-limits", crew.shore(), "--reason", "called from the quay")
                .expect(0);
        world.onRecord("called from the quay");
    }
}
