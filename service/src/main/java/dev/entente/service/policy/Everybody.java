package dev.entente.service.policy;

import dev.entente.core.policy.Crowd;
import dev.entente.service.people.People;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Everybody laid out for questions about all of them, read anew when anything about people changed. */
@Component
@Transactional(readOnly = true)
class Everybody {
    private final Session database;
    private final People people;
    private volatile Read read = new Read("", new Crowd());

    Everybody(Session database, People people) {
        this.database = database;
        this.people = people;
    }

    private record Read(String stamp, Crowd crowd) {}

    /** As they are now; not to be changed. */
    Crowd now() {
        var stamp = people.stamp() + " " + enrolments();
        var known = read;
        if (!known.stamp().equals(stamp)) {
            known = read(stamp);
        }
        return known.crowd();
    }

    private synchronized Read read(String stamp) {
        if (!read.stamp().equals(stamp)) {
            var crowd = new Crowd();
            people.everybody().forEach(p -> crowd.add(people.facts(p)));
            crowd.population().nest(people.groups());
            read = new Read(stamp, crowd);
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
