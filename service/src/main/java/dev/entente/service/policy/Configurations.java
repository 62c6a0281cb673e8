package dev.entente.service.policy;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Circumstances;
import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.ConfigurationReader;
import dev.entente.core.policy.Decision;
import dev.entente.core.policy.Policy;
import dev.entente.core.policy.Situations;
import dev.entente.core.policy.Survey;
import dev.entente.core.verify.Channel;
import dev.entente.core.verify.Method;
import dev.entente.service.directory.Directories;
import dev.entente.service.directory.Jobs;
import dev.entente.service.notification.MailChannel;
import dev.entente.service.notification.PhoneChannel;
import dev.entente.service.people.DirectoryContents;
import dev.entente.service.people.DirectoryGroups;
import dev.entente.service.people.People;
import dev.entente.service.people.Person;
import dev.entente.service.platform.Standing;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentHashMap;
import org.hibernate.Session;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** The configuration in force, and every one before it. */
@Component
@Transactional(readOnly = true)
public class Configurations {
    private static final Configuration EMPTY = Configuration.empty();

    private final Session database;
    private final Directories directories;
    private final People people;
    private final Everybody everybody;
    private final Stops stops;
    private final MailChannel mail;
    private final PhoneChannel phone;
    private final Standing standing;
    private final InstantSource clock;
    private final DirectoryGroups groups;
    private final DirectoryContents contents;
    // Revisions never change, so what was read once stays right.
    private final Map<Integer, Configuration> read = new ConcurrentHashMap<>();
    private volatile Marked marked;

    Configurations(
            Session database,
            Directories directories,
            People people,
            Everybody everybody,
            Stops stops,
            MailChannel mail,
            PhoneChannel phone,
            Standing standing,
            InstantSource clock,
            DirectoryGroups groups,
            DirectoryContents contents) {
        this.database = database;
        this.directories = directories;
        this.people = people;
        this.everybody = everybody;
        this.stops = stops;
        this.mail = mail;
        this.phone = phone;
        this.standing = standing;
        this.clock = clock;
        this.groups = groups;
        this.contents = contents;
    }

    /** What is in force now; what its scopes name and is gone counts as what cannot be known. */
    public Configuration current() {
        // Not the row: it holds all the files.
        var number = standing.kept(
                Standing.Topic.REVISION,
                "number",
                Integer.class,
                () -> database.createQuery("SELECT coalesce(max(number), 0) FROM RevisionRow", Integer.class)
                        .getSingleResult());
        var stamp = number + " " + people.stamp();
        var known = marked;
        if (known == null || !known.stamp().equals(stamp)) {
            var plain = revision(number);
            known = new Marked(stamp, plain.within(new DirectoryNames(directories, contents)));
            marked = known;
        }
        return known.configuration();
    }

    private record Marked(String stamp, Configuration configuration) {}

    /** What the configuration in force names and is not there any more, a sentence each. */
    public List<String> vanished() {
        return currentRow()
                .map(row -> check(row.files).problems().stream()
                        .map(p -> p.file() + ": " + p.message())
                        .toList())
                .orElse(List.of());
    }

    /** Everything that can be told apart for some actions now, or then. */
    List<Situations.Situation> situations(List<Configuration> of, Set<Action> actions, Instant at, String network) {
        return Situations.of(
                of,
                actions,
                at == null ? clock.instant() : at,
                at != null,
                network,
                now(null, null).broken());
    }

    /** A published state by its number; 0 is the empty one before the first. */
    public Configuration revision(int number) {
        if (number == 0) {
            return EMPTY;
        }
        return read.computeIfAbsent(number, n -> {
            var row = database.find(RevisionRow.class, n);
            return ConfigurationReader.read(row.files, null)
                    .configuration()
                    .orElseThrow(() -> new IllegalStateException("revision " + n + " cannot be read any more"))
                    .as(n);
        });
    }

    /** A policy as it was in a published state. */
    public Policy policy(int revision, String name) {
        return revision(revision).policies().stream()
                .filter(p -> p.name().equals(name))
                .findFirst()
                .orElseThrow();
    }

    /**
     * How things stand now for somebody who comes from somewhere.
     *
     * @param network the address; null if it is not known
     * @param knownDevice whether the person finished something on that browser before; null if that is not known
     */
    public Circumstances now(String network, Boolean knownDevice) {
        return at(clock.instant(), network, knownDevice);
    }

    Circumstances at(Instant time, String network, Boolean knownDevice) {
        var broken = new TreeSet<Method>();
        if (!mail.works()) {
            broken.addAll(Method.by(Channel.MAIL));
        }
        phone.broken().forEach(channel -> broken.addAll(Method.by(channel)));
        return new Circumstances(time, network, knownDevice, broken);
    }

    /** Decides for a person by what is in force. */
    public Decision decide(Person person, Action action, Circumstances circumstances) {
        return decide(current(), person, action, circumstances);
    }

    Decision decide(Configuration configuration, Person person, Action action, Circumstances circumstances) {
        return Decision.of(
                configuration, groups.groups(), people.facts(person), action, circumstances, stops.inForce());
    }

    Optional<RevisionRow> currentRow() {
        return database.createQuery("FROM RevisionRow ORDER BY number DESC", RevisionRow.class)
                .setMaxResults(1)
                .getResultStream()
                .findFirst();
    }

    ConfigurationReader.Result check(Map<String, String> files) {
        return ConfigurationReader.readWithin(files, new DirectoryNames(directories, contents));
    }

    /** The same without looking whether what scopes name is there: for what was published before. */
    ConfigurationReader.Result readable(Map<String, String> files) {
        return ConfigurationReader.read(files, directoryNames());
    }

    /** How many people any policy covers, and how many there are. */
    public int[] covered() {
        var crowd = everybody.now();
        var survey = new Survey(current(), crowd, Action.RESET, now(null, null));
        var all = crowd.population().size();
        return new int[] {all - survey.uncovered().getCardinality(), all};
    }

    /** Codes go to the address of the most trusted directory that a policy delivers to. */
    @EventListener
    public void mailNeeded(Jobs.MailNeeded asked) {
        var trust = new HashMap<String, Integer>();
        directories.all().forEach(d -> trust.put(d.name(), d.trust()));
        for (var policy : current().policies()) {
            var targets = policy.deliverTo().value();
            var most = targets.stream()
                    .mapToInt(d -> trust.getOrDefault(d, Integer.MAX_VALUE))
                    .min()
                    .orElse(0);
            if (!Collections.disjoint(policy.methods(), Method.by(Channel.MAIL))
                    && targets.contains(asked.directory())
                    && trust.get(asked.directory()) == most) {
                asked.needed().set(true);
            }
        }
    }

    private List<String> directoryNames() {
        return directories.all().stream().map(Directories.Served::name).toList();
    }
}
