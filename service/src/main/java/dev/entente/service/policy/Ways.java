package dev.entente.service.policy;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.Crowd;
import dev.entente.core.policy.Policy;
import dev.entente.core.policy.SelfWritten;
import dev.entente.core.policy.WaysIn;
import dev.entente.core.policy.WaysIn.Way;
import dev.entente.core.policy.WeakestWays;
import dev.entente.core.verify.Channel;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;
import dev.entente.service.approval.Switches;
import dev.entente.service.directory.Directories;
import dev.entente.service.directory.Jobs;
import dev.entente.service.people.People;
import dev.entente.service.people.Person;
import dev.entente.wire.DirectoryApi.Finding;
import dev.entente.wire.PolicyApi;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** What an attacker would need: the weakest ways in, with what the directories let people write and what is switched on. */
@Component
@Transactional(readOnly = true)
public class Ways {
    /** A preflight that worked out rights found these, or did not. */
    private static final String RIGHTS_KNOWN = "right-reset";

    private static final Map<String, Set<Channel>> WRITES = Map.of(
            Finding.MAIL_SELF_WRITABLE, Set.of(Channel.MAIL),
            Finding.PHONE_SELF_WRITABLE, Set.of(Channel.TEXT, Channel.VOICE));

    private final Configurations configurations;
    private final Everybody everybody;
    private final Directories directories;
    private final Jobs jobs;
    private final Switches switches;
    private final People people;
    private volatile Known known;

    Ways(
            Configurations configurations,
            Everybody everybody,
            Directories directories,
            Jobs jobs,
            Switches switches,
            People people) {
        this.configurations = configurations;
        this.everybody = everybody;
        this.directories = directories;
        this.jobs = jobs;
        this.switches = switches;
        this.people = people;
    }

    /** For people in the name of whom somebody would do something under one of these configurations. */
    WaysIn.Given given(List<Configuration> of, Action action) {
        var found = jobs.found(WRITES.keySet());
        return new WaysIn.Given(
                new SelfWritten(directories.all().stream()
                        .map(d -> new SelfWritten.Directory(
                                d.name(),
                                d.trust(),
                                found.getOrDefault(d.id(), Set.of()).stream()
                                        .flatMap(code -> WRITES.get(code).stream())
                                        .flatMap(channel -> Method.by(channel).stream())
                                        .collect(Collectors.toSet())))
                        .toList()),
                switches.temporaryPasswords() ? Set.of(Holding.ONE_ADMINISTRATOR) : Set.of(),
                configurations.situations(of, EnumSet.of(action, Action.DETAILS), null, null));
    }

    /** The ways through one policy of a configuration. */
    PolicyApi.WaysIn through(Configuration configuration, String policy, Action action) {
        var ways = new WeakestWays(configuration, everybody.now(), action, given(List.of(configuration), action));
        return new PolicyApi.WaysIn(
                action.label(), ways.through(policy).stream().map(Ways::shown).toList(), notes());
    }

    private static PolicyApi.WayIn shown(WeakestWays.Found found) {
        return new PolicyApi.WayIn(
                found.words(),
                found.way().holds().stream().sorted().map(Holding::words).toList(),
                found.way().adds().stream().map(Method::label).toList(),
                found.situations(),
                found.people().getCardinality(),
                found.privileged());
    }

    /** What is not known, and what is a way in whatever a policy says. */
    private List<String> notes() {
        var notes = new ArrayList<String>();
        var seen = jobs.found(Set.of(RIGHTS_KNOWN));
        var unknown = directories.all().stream()
                .filter(d -> !seen.containsKey(d.id()))
                .map(Directories.Served::title)
                .toList();
        if (!unknown.isEmpty()) {
            notes.add("Whether people can change their own address or number in " + String.join(" or ", unknown)
                    + " isn't known, so a signed-in computer isn't counted there.");
        }
        notes.add(
                "Whoever takes over the service itself can write a password as well, within the limits in each steward's"
                        + " file.");
        return notes;
    }

    /** The ways into one person's accounts, a sentence each. */
    List<String> into(Configuration configuration, Policy policy, Person person, Action action) {
        var given = given(List.of(configuration), action);
        var where = new LinkedHashMap<Way, List<String>>();
        WaysIn.of(policy, action, people.facts(person), given)
                .forEach((situation, ways) -> ways.forEach(way ->
                        where.computeIfAbsent(way, w -> new ArrayList<>()).add(situation.words())));
        return where.entrySet().stream()
                .map(e -> e.getKey().words()
                        + (e.getValue().size() == given.situations().size()
                                ? ""
                                : ", " + String.join("; ", e.getValue()))
                        + ".")
                .toList();
    }

    /** The ways to reset a password that are there after a change and were not before, each with the policy it leads through. */
    List<String> opened(Configuration before, Configuration after) {
        var crowd = everybody.now();
        var given = given(List.of(before, after), Action.RESET);
        var was = new WeakestWays(before, crowd, Action.RESET, given);
        var is = new WeakestWays(after, crowd, Action.RESET, given);
        var opened = new ArrayList<String>();
        for (var policy : after.policies()) {
            for (var found : is.through(policy.name())) {
                var there = was.through(policy.name()).stream()
                        .anyMatch(f -> f.way().equals(found.way())
                                && (f.situations().isEmpty()
                                        || !found.situations().isEmpty()
                                                && f.situations().containsAll(found.situations())));
                if (!there) {
                    opened.add(policy.title() + ": " + found.words());
                }
            }
        }
        return List.copyOf(opened);
    }

    private record Known(Crowd crowd, WaysIn.Given given, int revision, List<String> found) {}

    /** Where one thing is enough to reset the password of a privileged account, a sentence each. */
    public List<String> singleThingsToPrivileged() {
        var configuration = configurations.current();
        var crowd = everybody.now();
        var given = given(List.of(configuration), Action.RESET);
        var before = known;
        // Who is who and what is asked seldom changes between two looks, the time in a situation always does.
        if (before != null
                && before.crowd() == crowd
                && before.revision() == configuration.revision()
                && before.given().selfWritten().equals(given.selfWritten())) {
            return before.found();
        }
        var found = new WeakestWays(configuration, crowd, Action.RESET, given)
                .singleThingsToPrivileged().entrySet().stream()
                        // Who may give temporary passwords was decided by administrators, and is on another page.
                        .filter(e -> e.getKey() != Holding.ONE_ADMINISTRATOR)
                        .map(e -> {
                            var many = e.getValue().getCardinality();
                            return "To get into " + many
                                    + (many == 1
                                            ? " privileged person's accounts, "
                                            : " privileged people's accounts, ")
                                    + e.getKey().words()
                                    + " alone is enough. Ask for more in their policy, or let fewer methods count.";
                        })
                        .toList();
        known = new Known(crowd, given, configuration.revision(), found);
        return found;
    }
}
