package dev.entente.core.policy;

import java.time.DayOfWeek;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.format.TextStyle;
import java.util.Locale;
import java.util.Set;

/** A condition under which more is asked for, or something is refused. */
public sealed interface When {
    /** Whether it holds; it does if that cannot be determined. */
    boolean holds(PersonFacts person, Circumstances circumstances);

    /** Whether the answer depends on where, when and with what somebody comes, not on who it is. */
    default boolean circumstantial() {
        return true;
    }

    /** In words, such as "from outside the Fleet networks". */
    String words();

    /** Not from a network. */
    record Outside(Network network) implements When {
        @Override
        public boolean holds(PersonFacts person, Circumstances circumstances) {
            return circumstances.network() == null || !network.holds(circumstances.network());
        }

        @Override
        public String words() {
            return "from outside " + network.title();
        }
    }

    /** From a network. */
    record Inside(Network network) implements When {
        @Override
        public boolean holds(PersonFacts person, Circumstances circumstances) {
            return circumstances.network() == null || network.holds(circumstances.network());
        }

        @Override
        public String words() {
            return "from inside " + network.title();
        }
    }

    /** One of the accounts is in a protected group of its directory. */
    record Privileged() implements When {
        @Override
        public boolean holds(PersonFacts person, Circumstances circumstances) {
            return person.privileged() == null || person.privileged();
        }

        @Override
        public boolean circumstantial() {
            return false;
        }

        @Override
        public String words() {
            return "for privileged accounts";
        }
    }

    /** From a browser on which this person got no new password before. */
    record UnknownDevice() implements When {
        @Override
        public boolean holds(PersonFacts person, Circumstances circumstances) {
            return circumstances.knownDevice() == null || !circumstances.knownDevice();
        }

        @Override
        public String words() {
            return "from an unknown device";
        }
    }

    /**
     * On certain days between two times.
     *
     * @param from the first minute
     * @param to the minute after the last; not after {@code from} if it goes over midnight, and then the days are those on
     *     which it begins
     * @param zone whose clock
     */
    record Week(Set<DayOfWeek> days, LocalTime from, LocalTime to, ZoneId zone) implements When {
        public Week {
            days = Set.copyOf(days);
        }

        @Override
        public boolean holds(PersonFacts person, Circumstances circumstances) {
            var there = circumstances.at().atZone(zone);
            var time = there.toLocalTime();
            var day = there.getDayOfWeek();
            if (from.isBefore(to)) {
                return days.contains(day) && !time.isBefore(from) && time.isBefore(to);
            }
            return (days.contains(day) && !time.isBefore(from)) || (days.contains(day.minus(1)) && time.isBefore(to));
        }

        @Override
        public String words() {
            return "on "
                    + String.join(
                            ", ",
                            days.stream()
                                    .sorted()
                                    .map(d -> d.getDisplayName(TextStyle.SHORT, Locale.ENGLISH))
                                    .toList())
                    + " from " + from + " to " + to + " (" + zone + ")";
        }
    }
}
