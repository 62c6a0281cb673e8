package dev.entente.core.guess;

import java.util.HashMap;
import java.util.List;
import java.util.Map;

/** Counts in memory as the service counts in its database: all of a charge or nothing, in windows that follow each other. */
final class Ledger {
    private final Map<String, Long> used = new HashMap<>();
    long seconds;

    boolean take(List<Charge> charges) {
        for (var charge : charges) {
            if (used.getOrDefault(key(charge), 0L) + charge.amount() > charge.max()) {
                return false;
            }
        }
        charges.forEach(charge -> used.merge(key(charge), charge.amount(), Long::sum));
        return true;
    }

    private String key(Charge charge) {
        var window = charge.window() == null ? 0 : seconds / charge.window().toSeconds();
        return charge.limit() + "|" + charge.subject() + "|" + charge.window() + "|" + window;
    }
}
