package dev.entente.service.attempt;

import dev.entente.core.guess.Charge;
import dev.entente.core.guess.ProofOfWork;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Limits;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import java.security.SecureRandom;
import java.time.Duration;
import java.time.InstantSource;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import org.hibernate.Session;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * How fast one network may start attempts. The more it starts, the longer each answer takes and the more work a browser has to
 * do first; only then it is refused. Asks
 * nothing about the name. A browser on which somebody proved who they are has a limit of its own, so that a stranger behind
 * the same address does not stand in its way.
 */
@Component
public class StartGate {
    private static final Duration WINDOW = Duration.ofMinutes(15);
    private static final int FROM_KNOWN_BROWSER = 30;
    /** How many times longer answers take when a third, a half, two thirds and more of what is permitted is used. */
    private static final int[] SLOWER = {0, 0, 1, 3, 7, 15};

    /** How many bits more of work are asked for then; nothing below a third. */
    private static final int[] MORE_BITS = {-1, -1, 0, 1, 2, 3};

    /** When so many answers from a network were wrong within the window, work is asked for at once. */
    private static final int WRONG = 20;

    private static final String FAILURES = "failures-network";
    private static final int WAITING_AT_ONCE = 32;

    private final Limits limits;
    private final KnownPlaces places;
    private final Pressure pressure;
    private final ServiceSettings settings;
    private final KeyRing keys;
    private final InstantSource clock;
    private final ProofOfWork work;
    private final Session database;
    private final TransactionTemplate transaction;
    private final Map<String, Integer> waiting = new ConcurrentHashMap<>();

    StartGate(
            Limits limits,
            KnownPlaces places,
            Pressure pressure,
            ServiceSettings settings,
            KeyRing keys,
            InstantSource clock,
            SecureRandom random,
            Session database,
            TransactionTemplate transaction) {
        this.database = database;
        this.transaction = transaction;
        this.limits = limits;
        this.places = places;
        this.pressure = pressure;
        this.settings = settings;
        this.keys = keys;
        this.clock = clock;
        this.work = new ProofOfWork(keys.derived("proof of work"), random);
    }

    /**
     * Work that a browser did before it started again.
     *
     * @param seed as it was asked for; null if nothing was
     */
    public record Done(String seed, String nonce) {
        public static final Done NOTHING = new Done(null, null);
    }

    /** A start that may go on. {@link #close} when it was answered. */
    public final class Ticket implements AutoCloseable {
        private final String network;
        private final int slower;

        private Ticket(String network, int slower) {
            this.network = network;
            this.slower = slower;
        }

        /** How many steps of the deadline its answer waits besides. */
        public int slower() {
            return slower;
        }

        @Override
        public void close() {
            waiting.computeIfPresent(network, (n, count) -> count > 1 ? count - 1 : null);
        }
    }

    /**
     * @param back whether the browser was here before
     * @param done work that was asked for; {@link Done#NOTHING} if none was
     * @throws Problem 428 if work is to be done first, 429 if the network or the browser started too many, or has too many starts waiting
     */
    public Ticket admit(Coming coming, boolean back, Done done) {
        if (back && places.anybody(coming)) {
            var browser = HexFormat.of().formatHex(coming.browser());
            if (!limits.use("start-browser", browser, FROM_KNOWN_BROWSER, WINDOW)) {
                throw refused(coming);
            }
            return ticket(coming, "browser " + browser, 0);
        }
        var charge = new Charge("start-network", coming.network(), WINDOW, 1, settings.startsPerNetwork());
        // Asked with the same statement: whether too many answers from there were wrong.
        var charged = limits.charge(List.of(charge, failures(coming, 0, WRONG)));
        var failing = charged.refusedBy()
                .filter(r -> r.charge().limit().equals(FAILURES))
                .isPresent();
        if (failing) {
            charged = limits.charge(List.of(charge));
        }
        if (!charged.taken()) {
            throw refused(coming);
        }
        var share = (int) Math.min(SLOWER.length - 1, 6 * charged.used() / Math.max(1, charge.max()));
        var more = failing ? Math.max(0, MORE_BITS[share]) : MORE_BITS[share];
        var bits = settings.workBits() == 0 || more < 0 ? 0 : settings.workBits() + more;
        if (bits > 0 && !worked(coming, done)) {
            limits.giveBack(List.of(charge));
            var wanted = work.ask(coming.network(), Math.min(ProofOfWork.MOST_BITS, bits), clock.instant());
            throw Problem.of("work-wanted").with("seed", wanted.seed()).with("bits", wanted.bits());
        }
        return ticket(coming, coming.network(), SLOWER[share]);
    }

    private static Charge failures(Coming coming, long amount, long max) {
        return new Charge(FAILURES, coming.network(), WINDOW, amount, max);
    }

    /** An answer from there was wrong. */
    void failed(Coming coming) {
        limits.charge(List.of(failures(coming, 1, Long.MAX_VALUE)));
    }

    /** Each piece of work counts once. */
    private boolean worked(Coming coming, Done done) {
        return work.done(done.seed(), done.nonce(), coming.network(), clock.instant())
                .filter(until -> Boolean.TRUE.equals(transaction.execute(status -> Sql.change(
                                        database,
                                        "INSERT INTO work_done (seed, until) VALUES (:seed, :until) ON CONFLICT DO NOTHING")
                                .setParameter("seed", keys.blind("work", done.seed()))
                                .setParameter("until", until)
                                .executeUpdate()
                        == 1)))
                .isPresent();
    }

    @Scheduled(fixedDelay = 600_000)
    @Transactional
    void forget() {
        Sql.change(database, "DELETE FROM work_done WHERE until < :now")
                .setParameter("now", clock.instant())
                .executeUpdate();
    }

    private Ticket ticket(Coming coming, String whose, int slower) {
        if (waiting.merge(whose, 1, Integer::sum) > WAITING_AT_ONCE && slower > 0) {
            new Ticket(whose, 0).close();
            throw refused(coming);
        }
        return new Ticket(whose, slower);
    }

    private Problem refused(Coming coming) {
        pressure.count(Pressure.Kind.REFUSED, coming.network(), null);
        return Problem.of("too-many-starts")
                .with("helpDesk", settings.helpDesk())
                .with("retryAfter", WINDOW.toSeconds());
    }
}
