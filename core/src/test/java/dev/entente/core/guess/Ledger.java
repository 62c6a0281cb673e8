package dev.entente.core.guess;

import java.time.Duration;
import java.util.HashMap;
import java.util.List;
import java.util.Map;

/** Counts in memory as the service counts in its database: all of a charge or nothing, in windows that follow each other. */
final class Ledger {
    private final Map<Window, Long> used = new HashMap<>();
    long seconds;

    private record Window(String limit, String subject, Duration length, long number) {}

    boolean take(List<Charge> charges) {
        for (var charge : charges) {
            if (used.getOrDefault(window(charge), 0L) + charge.amount() > charge.max()) {
                return false;
            }
        }
        charges.forEach(charge -> used.merge(window(charge), charge.amount(), Long::sum));
        return true;
    }

    private Window window(Charge charge) {
        var number = charge.window() == null ? 0 : seconds / charge.window().toSeconds();
        return new Window(charge.limit(), charge.subject(), charge.window(), number);
    }
}
