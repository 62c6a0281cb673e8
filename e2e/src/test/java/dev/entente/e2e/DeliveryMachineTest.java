package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.attempt.Cause;
import dev.entente.core.attempt.Outcome;
import dev.entente.core.delivery.Delivery;
import dev.entente.core.delivery.DeliveryState;
import dev.entente.core.seal.Order;
import dev.entente.core.seal.Receipt;
import dev.entente.steward.link.ServiceLink;
import dev.entente.steward.link.StewardState;
import dev.entente.wire.StewardApi;
import java.io.IOException;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Random;
import java.util.UUID;
import org.junit.jupiter.api.Test;

/**
 * The SQL of deliveries beside the machine in the core: two stewards, played by this test with real keys over the real protocol, lease,
 * begin and hand in receipts in any order and under any epoch while the database's time is moved. After each step the row is what
 * the machine says. Its own interleavings, with crashes and a directory, are those of InterleavingTest.
 */
class DeliveryMachineTest {
    // As the world's service is set up.
    private static final Delivery.Spans SPANS = new Delivery.Spans(Duration.ofSeconds(4), Duration.ofSeconds(2));
    private static final int ROUNDS = 3;
    private static final int STEPS = 12;
    private static final List<Outcome> OUTCOMES = List.of(Outcome.values());

    private final World world = World.get();
    private SecondSteward second;
    private List<Player> players;
    private double ahead;

    /** A steward's key and connection, without a directory behind. */
    private record Player(StewardState state, ServiceLink link, String instance) {
        static Player of(World world, Path folder) throws IOException {
            var state = StewardState.read(folder);
            return new Player(
                    state,
                    new ServiceLink(world.url, null, state, folder, InstantSource.system()),
                    UUID.randomUUID().toString());
        }

        UUID id() {
            return state.steward();
        }
    }

    private void takeTheirPlace() throws Exception {
        second = new SecondSteward(world, "fleet", "fleet-played", List.of());
        world.kill("fleet-played");
        world.kill("steward-fleet");
        var folder = Path.of(world.stewardFile("fleet")).getParent();
        players = List.of(
                Player.of(world, folder.resolve("state-fleet")),
                Player.of(world, folder.resolve("state-fleet-played")));
        for (var player : players) {
            // The first call of a new process frees what the one before it held.
            work(player, null);
        }
    }

    private void leave() {
        moveTo(0);
        second.close();
        world.startSteward("fleet");
        World.waitUntil(
                Duration.ofSeconds(30),
                "the steward is back",
                () -> !world.entente("status").out().contains("No steward of fleet"));
    }

    /** The database's time, this much ahead of the machine's. */
    private void moveTo(double seconds) {
        ahead = seconds;
        world.query(
                "CREATE OR REPLACE FUNCTION entente_time() RETURNS timestamptz LANGUAGE sql VOLATILE PARALLEL SAFE AS"
                        + " 'SELECT clock_timestamp() + interval ''" + seconds + " s'''");
    }

    private Instant now() {
        return instant(world.query("SELECT extract(epoch FROM entente_time())"));
    }

    private static Instant instant(String epoch) {
        return epoch.isEmpty() ? null : Instant.ofEpochSecond(0, Math.round(Double.parseDouble(epoch) * 1e6) * 1000);
    }

    private Delivery row(UUID order) {
        var c = world.query("SELECT concat_ws('|', state, epoch, coalesce(steward::text, ''),"
                        + " coalesce(extract(epoch FROM leased_until)::text, ''),"
                        + " coalesce(extract(epoch FROM held_until)::text, ''), coalesce(begun_server, ''),"
                        + " coalesce(begun_version, ''), coalesce(extract(epoch FROM begun_at)::text, ''),"
                        + " coalesce(extract(epoch FROM checked_at)::text, ''),"
                        + " coalesce(extract(epoch FROM ended_at)::text, ''), coalesce(cause, ''), coalesce(receipt, ''),"
                        + " extract(epoch FROM expires_at), sealed IS NOT NULL) FROM delivery WHERE id = '" + order
                        + "'")
                .split("\\|", -1);
        return new Delivery(
                DeliveryState.labelled(c[0]),
                Integer.parseInt(c[1]),
                c[2].isEmpty() ? null : UUID.fromString(c[2]),
                instant(c[3]),
                instant(c[4]),
                c[6].isEmpty() ? null : new Delivery.Noted(c[5], c[6]),
                instant(c[7]),
                instant(c[8]),
                instant(c[9]),
                c[10].isEmpty() ? null : Cause.valueOf(c[10]),
                c[11].isEmpty() ? null : c[11],
                instant(c[12]),
                c[13].equals("t"));
    }

    /** Without the times, which are those of the call. */
    private static List<Object> shape(Delivery d) {
        return java.util.Arrays.asList(
                d.state(),
                d.epoch(),
                d.steward(),
                d.noted(),
                d.begunAt() == null,
                d.checkedAt() == null,
                d.cause(),
                d.receipt());
    }

    /** Asks for work, for as long as the service takes to look by itself, and answers at once what else comes before it. */
    private static boolean work(Player player, UUID order) throws IOException, InterruptedException {
        while (true) {
            var work = player.link()
                    .work(new StewardApi.AskForWork(
                            "0.1.0", 2, 64, player.instance(), "one", null, 1, List.of(), null));
            var task = work.map(StewardApi.Work::task).orElse(null);
            if (task == null) {
                return work.stream()
                        .flatMap(w -> w.orders().stream())
                        .map(signed -> Order.verify(signed, player.state().serviceKey()))
                        .anyMatch(o -> o.id().equals(order));
            }
            if (task.kind().equals("changes")) {
                player.link().changes(new StewardApi.Changes(task.cursor(), task.cursor(), null, null, true));
            } else {
                player.link().end(task.id(), new StewardApi.JobEnd(false, "not now", null, null));
            }
        }
    }

    private String receipt(Player by, UUID order, int epoch, Outcome outcome) {
        return new Receipt(
                        1,
                        order,
                        epoch,
                        by.id(),
                        outcome,
                        outcome == Outcome.DONE ? null : outcome == Outcome.UNKNOWN ? Cause.LOST_TRACK : Cause.NO_RIGHT,
                        null,
                        "one",
                        "7",
                        "8",
                        "0",
                        null,
                        Map.of(),
                        System.currentTimeMillis(),
                        "none",
                        null)
                .sign(by.state().identity());
    }

    /** One test for all rounds: between tests the world starts what was left dead, which would be a third steward. */
    @Test
    void what_the_sql_does_is_what_the_machine_says() throws Exception {
        takeTheirPlace();
        try {
            for (var number = 1; number <= ROUNDS; number++) {
                round(number);
            }
        } finally {
            leave();
        }
    }

    private void round(int number) throws Exception {
        var random = new Random(17 * Long.getLong("interleaving.seed", 1) + number);
        moveTo(0);
        var crew = world.crew();
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        person.choose("Machine-Quay-" + (100 + number));
        var order = UUID.fromString(
                world.query("SELECT d.id FROM delivery d JOIN directory r ON r.id = d.directory JOIN attempt a"
                        + " ON a.id = d.attempt WHERE r.name = 'fleet' AND a.reference = '"
                        + person.attempt.reference().replaceAll("[^0-9]", "") + "'"));
        var seen = "";
        for (var step = 0; step < STEPS; step++) {
            seen = step(order, random, seen);
        }
        // Whoever holds it at the end tells that nothing was written.
        World.waitUntil(Duration.ofSeconds(30), "it ends", () -> {
            try {
                moveTo(ahead + 7);
                if (work(players.get(0), order)) {
                    var held = row(order);
                    players.get(0)
                            .link()
                            .receipt(order, receipt(players.get(0), order, held.epoch(), Outcome.FAILED))
                            .join();
                }
                return row(order).state().ended();
            } catch (IOException e) {
                throw new IllegalStateException(e);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                throw new IllegalStateException(e);
            }
        });
    }

    /** @return what was done so far, to be read when something is not as it should be */
    private String step(UUID order, Random random, String before) throws Exception {
        var machine = row(order);
        var player = players.get(random.nextInt(2));
        var epoch = random.nextInt(4) == 0 ? machine.epoch() + 1 : machine.epoch();
        var from = now();
        Optional<Delivery> early;
        Optional<Delivery> late;
        String did;
        switch (random.nextInt(5)) {
            case 0 -> {
                var mine = work(player, order);
                var to = now();
                // Only what is told as unknown and nothing else is looked at again, where nothing waits.
                early = machine.lease(player.id(), from, SPANS);
                late = machine.lease(player.id(), to, SPANS);
                did = "lease " + mine;
                if (mine && early.isEmpty() && late.isEmpty()) {
                    early = machine.look(player.id(), from, SPANS);
                    late = machine.look(player.id(), to, SPANS);
                    assertThat(early.isPresent() || late.isPresent())
                            .as("handed out without a reason: " + before)
                            .isTrue();
                }
                if (!mine && machine.state() == DeliveryState.UNKNOWN) {
                    early = Optional.empty();
                    late = Optional.empty();
                }
            }
            case 1 -> {
                var noted = new Delivery.Noted("one", String.valueOf(random.nextInt(9)));
                var taken = player.link().begin(order, epoch, noted.server(), noted.version());
                early = machine.begin(player.id(), epoch, noted, from, SPANS);
                late = machine.begin(player.id(), epoch, noted, now(), SPANS);
                did = "begin " + epoch + " " + taken;
                if (early.isPresent() == late.isPresent()) {
                    assertThat(taken).as(before + did).isEqualTo(early.isPresent());
                }
            }
            case 2 -> {
                var outcome = OUTCOMES.get(random.nextInt(OUTCOMES.size()));
                var signed = receipt(player, order, epoch, outcome);
                player.link().receipt(order, signed).join();
                var why =
                        outcome == Outcome.DONE ? null : outcome == Outcome.UNKNOWN ? Cause.LOST_TRACK : Cause.NO_RIGHT;
                early = Optional.of(machine.receive(player.id(), epoch, outcome, why, signed, from)
                        .delivery());
                late = early;
                did = "receipt " + epoch + " " + outcome;
            }
            default -> {
                moveTo(ahead + (random.nextBoolean() ? 2.5 : 6.5));
                early = Optional.empty();
                late = Optional.empty();
                did = "time " + ahead;
            }
        }
        var after = row(order);
        var said = before + "\n" + machine.state() + " " + player.id() + " " + did;
        // The service sweeps by itself, at any moment.
        var until = now();
        var possible = java.util.stream.Stream.of(early.orElse(machine), late.orElse(machine))
                .flatMap(
                        d -> java.util.stream.Stream.of(d, d.giveUp(null, until).orElse(d)))
                .filter(Objects::nonNull)
                .map(DeliveryMachineTest::shape)
                .distinct()
                .toList();
        assertThat(possible).as(said).contains(shape(after));
        return said + " -> " + after.state() + " " + after.epoch();
    }
}
