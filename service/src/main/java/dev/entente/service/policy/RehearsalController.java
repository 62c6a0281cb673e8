package dev.entente.service.policy;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.Crowd;
import dev.entente.core.policy.Network;
import dev.entente.core.policy.Rehearsal;
import dev.entente.core.policy.Rehearsal.Kind;
import dev.entente.core.policy.Situations.Situation;
import dev.entente.core.policy.Survey;
import dev.entente.core.policy.WeakestWays;
import dev.entente.service.people.People;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Reads;
import dev.entente.wire.DraftApi;
import dev.entente.wire.OneOf;
import dev.entente.wire.Page;
import dev.entente.wire.PeopleApi;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import java.util.stream.IntStream;
import org.roaringbitmap.RoaringBitmap;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** A draft tried on everyone before it is published. */
@RestController
@RequestMapping("/api/v1/drafts/{id}/rehearsal")
@Transactional(readOnly = true)
class RehearsalController {
    private static final int DEPARTMENTS = 30;

    private final Drafts drafts;
    private final Configurations configurations;
    private final Everybody everybody;
    private final People people;
    private final PastAttempts past;
    private final Ways ways;

    RehearsalController(
            Drafts drafts,
            Configurations configurations,
            Everybody everybody,
            People people,
            PastAttempts past,
            Ways ways) {
        this.drafts = drafts;
        this.configurations = configurations;
        this.everybody = everybody;
        this.people = people;
        this.past = past;
        this.ways = ways;
    }

    /** What it would mean, in numbers, the gravest first. */
    @Fails({"draft-invalid", "draft-not-found", "not-a-network", "unknown-action"})
    @GetMapping
    public DraftApi.Rehearsal rehearse(
            @PathVariable UUID id,
            @RequestParam(defaultValue = "reset") @OneOf(Action.class) String action,
            @RequestParam(required = false) String network,
            @RequestParam(required = false) Instant at) {
        var what = action(action);
        var crowd = everybody.now();
        var after = drafts.configuration(id);
        var situations = situations(after, what, network, at);
        var surveyed = surveys(after, crowd, what, situations);
        var rehearsal = new Rehearsal(surveys(configurations.current(), crowd, what, situations), surveyed)
                .with(ways(after, configurations.current(), crowd, what), ways(after, after, crowd, what));
        var counts = Arrays.stream(Kind.values())
                .map(k -> new DraftApi.RehearsalCount(
                        k.label(), k.words(), rehearsal.people(k).getCardinality()))
                .toList();
        var scopes = surveyed.get(0).scopes();
        var byScope = after.scopes().keySet().stream()
                .sorted()
                .map(s -> part(rehearsal, "scope " + s, after.scopes().get(s).title(), scopes.of(s)))
                .toList();
        var byDepartment = crowd.population().values("department").entrySet().stream()
                .map(e -> part(rehearsal, "department " + e.getKey(), e.getKey(), e.getValue()))
                .sorted((a, b) -> b.losesWay() + b.lacksMethods() == a.losesWay() + a.lacksMethods()
                        ? b.people() - a.people()
                        : b.losesWay() + b.lacksMethods() - a.losesWay() - a.lacksMethods())
                .limit(DEPARTMENTS)
                .toList();
        return new DraftApi.Rehearsal(
                what.label(),
                network,
                configurations.current().revision(),
                crowd.population().size(),
                counts,
                IntStream.range(0, situations.size())
                        .mapToObj(i -> new DraftApi.RehearsalSituation(
                                situations.get(i).words(), rehearsal.losesWay(i), rehearsal.lacksMethods(i)))
                        .toList(),
                rehearsal.moves().stream()
                        .map(m -> new DraftApi.RehearsalMove(m.from(), m.to(), m.people()))
                        .toList(),
                byScope,
                byDepartment,
                List.of(
                        part(rehearsal, "privileged", "privileged", crowd.privileged(true)),
                        part(rehearsal, "not-privileged", "not privileged", crowd.privileged(false))));
    }

    private static DraftApi.RehearsalPart part(Rehearsal rehearsal, String key, String name, RoaringBitmap some) {
        var part = rehearsal.part(name, some);
        return new DraftApi.RehearsalPart(key, part.name(), part.size(), part.losesWay(), part.lacksMethods());
    }

    /** Some of the people by what a part of the rehearsal names; null for everybody. */
    private RoaringBitmap some(String part, Crowd crowd, Configuration after, Action action, RoaringBitmap of) {
        if (part == null || part.isEmpty()) {
            return of;
        }
        var name = part.substring(part.indexOf(' ') + 1);
        RoaringBitmap some;
        if (part.startsWith("scope ") && after.scopes().containsKey(name)) {
            some = new Survey(after, crowd, action, configurations.now(null, null))
                    .scopes()
                    .of(name);
        } else if (part.startsWith("department ")) {
            some = crowd.population().values("department").getOrDefault(name, new RoaringBitmap());
        } else if (part.equals("privileged") || part.equals("not-privileged")) {
            some = crowd.privileged(part.equals("privileged"));
        } else {
            throw Problem.of("unknown-part");
        }
        return RoaringBitmap.and(some, of);
    }

    /** The people behind one of the numbers, all or those of one part; or those who go from one policy to another. */
    @Fails({
        "draft-invalid",
        "draft-not-found",
        "not-a-network",
        "page-over",
        "unknown-action",
        "unknown-kind",
        "unknown-part"
    })
    @Reads("rehearsal")
    @GetMapping("/people")
    public Page<DraftApi.RehearsedPerson> people(
            @PathVariable UUID id,
            @RequestParam(required = false) String kind,
            @RequestParam(required = false) String part,
            @RequestParam(required = false) String from,
            @RequestParam(required = false) String to,
            @RequestParam(defaultValue = "reset") @OneOf(Action.class) String action,
            @RequestParam(required = false) String network,
            @RequestParam(required = false) Instant at,
            @RequestParam(required = false) UUID after,
            @RequestParam(defaultValue = "50") int limit) {
        var crowd = everybody.now();
        var what = action(action);
        var configuration = drafts.configuration(id);
        var situations = situations(configuration, what, network, at);
        var rehearsal = new Rehearsal(
                        surveys(configurations.current(), crowd, what, situations),
                        surveys(configuration, crowd, what, situations))
                .with(
                        ways(configuration, configurations.current(), crowd, what),
                        ways(configuration, configuration, crowd, what));
        var set = from != null && to != null ? rehearsal.moved(from, to) : rehearsal.people(kind(kind));
        var page = ScopeController.page(everybody, people, some(part, crowd, configuration, what, set), after, limit);
        return new Page<>(
                page.items().stream()
                        .map(row -> {
                            var number = crowd.population().number(row.id());
                            return new DraftApi.RehearsedPerson(
                                    row.id(),
                                    row.name(),
                                    row.department(),
                                    row.accounts().stream()
                                            .map(PeopleApi.Account::login)
                                            .distinct()
                                            .toList(),
                                    rehearsal.before(number),
                                    rehearsal.after(number));
                        })
                        .toList(),
                page.after());
    }

    /** Attempts of the last days that would have begun otherwise, and why. */
    @Fails({"draft-invalid", "draft-not-found", "rehearsal-days"})
    @GetMapping("/attempts")
    public List<DraftApi.RehearsedAttempt> attempts(@PathVariable UUID id, @RequestParam(defaultValue = "7") int days) {
        if (days < 1 || days > 90) {
            throw Problem.of("rehearsal-days");
        }
        return past.otherwise(drafts.configuration(id), days);
    }

    private static Kind kind(String label) {
        return Kind.labelled(label == null ? "" : label)
                .orElseThrow(() -> Problem.of("unknown-kind")
                        .with(
                                "list",
                                String.join(
                                        ", ",
                                        Arrays.stream(Kind.values())
                                                .map(Kind::label)
                                                .toList())));
    }

    private List<Situation> situations(Configuration after, Action action, String network, Instant at) {
        if (network != null && Network.range(network).isEmpty()) {
            throw Problem.of("not-a-network").with("network", network);
        }
        return configurations.situations(List.of(configurations.current(), after), Set.of(action), at, network);
    }

    private static List<Survey> surveys(
            Configuration configuration, Crowd crowd, Action action, List<Situation> situations) {
        return Survey.in(
                configuration,
                crowd,
                action,
                situations.stream().map(Situation::circumstances).toList());
    }

    /** Ways in by one configuration, in the situations that it and the draft can tell apart. */
    private WeakestWays ways(Configuration draft, Configuration of, Crowd crowd, Action action) {
        return new WeakestWays(of, crowd, action, ways.given(List.of(configurations.current(), draft), action));
    }

    static Action action(String label) {
        return Action.labelled(label)
                .filter(Action::available)
                .orElseThrow(() -> Problem.of("unknown-action").with("action", label));
    }
}
