package dev.entente.service.policy;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.ConfigurationReader;
import dev.entente.core.policy.Decision;
import dev.entente.service.directory.Directories;
import dev.entente.service.people.People;
import dev.entente.service.people.People.Person;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** The configuration in force, and every one before it. */
@Component
@Transactional(readOnly = true)
public class Configurations {
    private final Session database;
    private final Directories directories;
    private final People people;
    // Revisions never change, so what was read once stays right.
    private final Map<Integer, Configuration> read = new ConcurrentHashMap<>();

    Configurations(Session database, Directories directories, People people) {
        this.database = database;
        this.directories = directories;
        this.people = people;
    }

    /** What is in force now. */
    public Configuration current() {
        return revision(currentRow().map(row -> row.number).orElse(0));
    }

    /** A published state by its number; 0 is the empty one before the first. */
    public Configuration revision(int number) {
        if (number == 0) {
            return Configuration.EMPTY;
        }
        return read.computeIfAbsent(number, n -> {
            var row = database.find(RevisionRow.class, n);
            return check(row.files)
                    .configuration()
                    .orElseThrow(() -> new IllegalStateException("revision " + n + " cannot be read any more"))
                    .as(n);
        });
    }

    /** Decides for a person; empty stands for a name that is nobody's. */
    public Decision decide(Person person, Action action) {
        return decide(current(), person, action);
    }

    Decision decide(Configuration configuration, Person person, Action action) {
        return Decision.of(configuration, people.groups(), person.facts(), action);
    }

    Optional<RevisionRow> currentRow() {
        return database.createQuery("FROM RevisionRow ORDER BY number DESC", RevisionRow.class)
                .setMaxResults(1)
                .getResultStream()
                .findFirst();
    }

    ConfigurationReader.Result check(Map<String, String> files) {
        return ConfigurationReader.read(files, directoryNames());
    }

    /** How many of these people each policy covers, by policy name; people of no policy under the empty name. */
    Map<String, Integer> coverage(Configuration configuration, Collection<Person> everybody) {
        var counts = new HashMap<String, Integer>();
        var groups = people.groups();
        for (var person : everybody) {
            var decision = Decision.of(configuration, groups, person.facts(), Action.RESET);
            counts.merge(decision.policy().map(p -> p.name()).orElse(""), 1, Integer::sum);
        }
        return counts;
    }

    /** How many people any policy covers, and how many there are. */
    public int[] covered() {
        var everybody = people.everybody();
        var counts = coverage(current(), everybody);
        return new int[] {everybody.size() - counts.getOrDefault("", 0), everybody.size()};
    }

    private List<String> directoryNames() {
        return directories.all().stream().map(Directories.Served::name).toList();
    }
}
