package dev.entente.core.policy;

import java.time.DateTimeException;
import java.time.DayOfWeek;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZoneOffset;
import java.util.EnumSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.regex.Pattern;

/** Reads the conditions of {@code when}. */
final class WhenReader {
    private static final List<String> DAYS = List.of("mon", "tue", "wed", "thu", "fri", "sat", "sun");
    private static final Pattern WEEK =
            Pattern.compile("(?i)((?:mon|tue|wed|thu|fri|sat|sun)(?:[-,](?:mon|tue|wed|thu|fri|sat|sun))*)"
                    + "(?: ([0-9]{2}:[0-9]{2})-([0-9]{2}:[0-9]{2}))?(?: (\\S+))?");
    private static final String POSSIBLE =
            "possible are \"outside NETWORK\", \"inside NETWORK\", \"privileged\", \"unknown-device\" and times such as"
                    + " \"Mon-Fri 18:00-06:00 Europe/Oslo\"";

    private final Map<String, Network> networks;

    WhenReader(Map<String, Network> networks) {
        this.networks = networks;
    }

    /** One of both is there. */
    record Read(Optional<When> when, Optional<String> problem) {
        static Read of(When when) {
            return new Read(Optional.of(when), Optional.empty());
        }

        static Read wrong(String problem) {
            return new Read(Optional.empty(), Optional.of(problem));
        }
    }

    Read read(String text) {
        if (text.startsWith("outside ") || text.startsWith("inside ")) {
            var name = text.substring(text.indexOf(' ') + 1).strip();
            var network = networks.get(name);
            if (network == null) {
                return Read.wrong("there is no network \"" + name + "\"" + Nearest.suggestion(name, networks.keySet()));
            }
            return Read.of(text.startsWith("outside ") ? new When.Outside(network) : new When.Inside(network));
        }
        if (text.equals("privileged")) {
            return Read.of(new When.Privileged());
        }
        if (text.equals("unknown-device")) {
            return Read.of(new When.UnknownDevice());
        }
        if (text.startsWith("risk")) {
            return Read.wrong("the level of risk is not available in this version yet; leave the condition out");
        }
        var week = WEEK.matcher(text);
        if (!week.matches()) {
            return Read.wrong("\"" + text + "\" is no condition; " + POSSIBLE);
        }
        try {
            var zone = week.group(4) == null ? ZoneOffset.UTC : ZoneId.of(week.group(4));
            var from = week.group(2) == null ? LocalTime.MIN : LocalTime.parse(week.group(2));
            var to = week.group(3) == null || week.group(3).equals("24:00")
                    ? LocalTime.MIN
                    : LocalTime.parse(week.group(3));
            return Read.of(new When.Week(days(week.group(1).toLowerCase(java.util.Locale.ROOT)), from, to, zone));
        } catch (DateTimeException e) {
            return Read.wrong("\"" + text + "\" names a time or time zone that there is not; " + POSSIBLE);
        }
    }

    private static Set<DayOfWeek> days(String text) {
        var days = EnumSet.noneOf(DayOfWeek.class);
        for (var part : text.split(",")) {
            var ends = part.split("-");
            var day = day(ends[0]);
            var last = day(ends[ends.length - 1]);
            days.add(day);
            while (day != last) {
                day = day.plus(1);
                days.add(day);
            }
        }
        return days;
    }

    private static DayOfWeek day(String name) {
        return DayOfWeek.of(DAYS.indexOf(name) + 1);
    }
}
