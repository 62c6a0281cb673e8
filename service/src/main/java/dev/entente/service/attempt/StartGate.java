package dev.entente.service.attempt;

import dev.entente.core.guess.Charge;
import dev.entente.service.platform.Limits;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import java.time.Duration;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import org.springframework.http.HttpStatus;
import org.springframework.stereotype.Component;

/**
 * How fast one network may start attempts. The more it starts, the longer each answer takes; only then it is refused. Asks
 * nothing about the name. A browser on which somebody proved who they are has a limit of its own, so that a stranger behind
 * the same address does not stand in its way.
 */
@Component
public class StartGate {
    private static final Duration WINDOW = Duration.ofMinutes(15);
    private static final int FROM_KNOWN_BROWSER = 30;
    /** How many times longer answers take when a third, a half, two thirds and more of what is permitted is used. */
    private static final int[] SLOWER = {0, 0, 1, 3, 7, 15};

    private static final int WAITING_AT_ONCE = 32;

    private final Limits limits;
    private final KnownPlaces places;
    private final Pressure pressure;
    private final ServiceSettings settings;
    private final Map<String, Integer> waiting = new ConcurrentHashMap<>();

    StartGate(Limits limits, KnownPlaces places, Pressure pressure, ServiceSettings settings) {
        this.limits = limits;
        this.places = places;
        this.pressure = pressure;
        this.settings = settings;
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
     * @throws Problem 429 if the network or the browser started too many, or has too many starts waiting
     */
    public Ticket admit(Coming coming, boolean back) {
        if (back && places.anybody(coming.browser())) {
            var browser = HexFormat.of().formatHex(coming.browser());
            if (!limits.use("start-browser", browser, FROM_KNOWN_BROWSER, WINDOW)) {
                throw refused(coming);
            }
            return ticket(coming, "browser " + browser, 0);
        }
        var charge = new Charge("start-network", coming.network(), WINDOW, 1, settings.startsPerNetwork());
        var charged = limits.charge(List.of(charge));
        if (!charged.taken()) {
            throw refused(coming);
        }
        var share = (int) Math.min(SLOWER.length - 1, 6 * charged.used() / Math.max(1, charge.max()));
        return ticket(coming, coming.network(), SLOWER[share]);
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
        return Problem.of(
                HttpStatus.TOO_MANY_REQUESTS,
                "too-many-starts",
                "Too many attempts were started from your network. Try again in 15 minutes, or contact the help desk: "
                        + settings.helpDesk() + ".",
                Map.of("retryAfter", WINDOW.toSeconds()));
    }
}
