package dev.entente.service.policy;

import dev.entente.core.policy.Crowd;
import dev.entente.service.people.People;
import java.util.ArrayList;
import java.util.List;
import org.hibernate.Session;
import org.roaringbitmap.RoaringBitmap;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Everybody laid out for questions about all of them, read anew when anything about people changed. */
@Component
@Transactional(readOnly = true)
class Everybody {
    private final Session database;
    private final People people;
    private volatile Read read = new Read("", new Crowd(), List.of());

    Everybody(Session database, People people) {
        this.database = database;
        this.people = people;
    }

    /**
     * Everybody at one time; not to be changed.
     *
     * @param numbers each person's own number, by the number in the crowd
     */
    record Read(String stamp, Crowd crowd, List<Integer> numbers) {
        /** Some of them by their own numbers. */
        RoaringBitmap own(RoaringBitmap set) {
            var own = new RoaringBitmap();
            set.forEach((int number) -> own.add(numbers.get(number)));
            return own;
        }
    }

    /** As they are now; not to be changed. */
    Crowd now() {
        return read().crowd();
    }

    /** As they are now, with their own numbers. */
    Read read() {
        var stamp = people.stamp() + " " + enrolments();
        var known = read;
        return known.stamp().equals(stamp) ? known : read(stamp);
    }

    private synchronized Read read(String stamp) {
        if (!read.stamp().equals(stamp)) {
            var crowd = new Crowd();
            var numbers = new ArrayList<Integer>();
            for (var person : people.everybody()) {
                crowd.add(people.facts(person));
                numbers.add(person.number());
            }
            crowd.population().nest(people.groups());
            read = new Read(stamp, crowd, numbers);
        }
        return read;
    }

    private String enrolments() {
        return database.createNativeQuery(
                        "SELECT concat(count(*), ' ', max(greatest(confirmed_at, removed_at))) FROM enrolment",
                        String.class)
                .getSingleResult();
    }
}
