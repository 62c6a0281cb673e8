package dev.entente.service.policy;

import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.ConfigurationReader;
import dev.entente.core.scope.Scope;
import dev.entente.core.scope.ScopeSets;
import dev.entente.service.people.People;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Reads;
import dev.entente.service.platform.Unconfirmed;
import dev.entente.wire.Page;
import dev.entente.wire.PeopleApi;
import dev.entente.wire.PolicyApi;
import java.time.InstantSource;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.roaringbitmap.RoaringBitmap;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Scopes and who is in them. */
@RestController
@RequestMapping("/api/v1")
@Transactional(readOnly = true)
class ScopeController {
    private static final int SAMPLE = 20;

    private final Configurations configurations;
    private final Everybody everybody;
    private final People people;
    private final ScopeHistory history;
    private final InstantSource clock;

    ScopeController(
            Configurations configurations,
            Everybody everybody,
            People people,
            ScopeHistory history,
            InstantSource clock) {
        this.history = history;
        this.configurations = configurations;
        this.everybody = everybody;
        this.people = people;
        this.clock = clock;
    }

    /** The published scopes, with how many people are in each. */
    @GetMapping("/scopes")
    public List<PolicyApi.Scope> list() {
        var configuration = configurations.current();
        var sets = sets(configuration.scopes());
        return configuration.scopes().values().stream()
                .sorted((a, b) -> a.name().compareTo(b.name()))
                .map(scope -> shown(scope, sets.of(scope.name()), configuration))
                .toList();
    }

    /** One of them. */
    @Fails("scope-not-found")
    @GetMapping("/scopes/{name}")
    public PolicyApi.Scope show(@PathVariable String name) {
        var configuration = configurations.current();
        return shown(named(configuration, name), sets(configuration.scopes()).of(name), configuration);
    }

    /** Who is in one, in a stable order, a page at a time. */
    @Fails({"page-over", "scope-not-found"})
    @Reads("scope")
    @GetMapping("/scopes/{name}/members")
    public Page<PeopleApi.PersonRow> members(
            @PathVariable String name,
            @RequestParam(required = false) UUID after,
            @RequestParam(defaultValue = "50") int limit) {
        var configuration = configurations.current();
        named(configuration, name);
        return people(sets(configuration.scopes()).of(name), after, limit);
    }

    /** Who came to one and who left it, and why, the newest first; a scope that is not published any more keeps its own. */
    @Fails("scope-not-found")
    @Reads("scope")
    @GetMapping("/scopes/{name}/changes")
    public Page<PolicyApi.ScopeChange> changes(
            @PathVariable String name,
            @RequestParam(required = false) Long before,
            @RequestParam(defaultValue = "50") int limit) {
        var page = history.of(name, before, limit);
        if (page.items().isEmpty()) {
            named(configurations.current(), name);
        }
        return page;
    }

    /** How many people are in both of two scopes, and in one of them alone. */
    @Fails("scope-not-found")
    @GetMapping("/scopes/{name}/overlap/{other}")
    public PolicyApi.Overlap overlap(@PathVariable String name, @PathVariable String other) {
        var configuration = configurations.current();
        named(configuration, name);
        named(configuration, other);
        var sets = sets(configuration.scopes());
        var one = sets.of(name);
        var two = sets.of(other);
        var both = RoaringBitmap.andCardinality(one, two);
        return new PolicyApi.Overlap(both, one.getCardinality() - both, two.getCardinality() - both);
    }

    /** Who would be in a scope that is being written, beside those of a draft's other files. */
    @Fails({"page-over", "scope-text-missing"})
    @Unconfirmed
    @Reads("scope")
    @PostMapping("/scopes/preview")
    public PolicyApi.ScopePreview preview(@RequestBody PolicyApi.ScopeText wanted) {
        if (wanted.text() == null || wanted.files() == null || wanted.files().size() > ConfigurationReader.MAX_FILES) {
            throw Problem.of("scope-text-missing");
        }
        var path = "scopes/" + wanted.name() + ".yaml";
        var files = new HashMap<String, String>();
        wanted.files().forEach((file, text) -> {
            if (file.startsWith("scopes/")) {
                files.put(file, text);
            }
        });
        files.put(path, wanted.text());
        var result = ConfigurationReader.read(files, null);
        var problems = result.problems().stream()
                .filter(p -> p.file().equals(path))
                .map(p -> CheckedFiles.shown(p, "error"))
                .toList();
        if (result.configuration().isEmpty()) {
            return new PolicyApi.ScopePreview(null, 0, List.of(), problems);
        }
        var scopes = result.configuration().get().scopes();
        var set = sets(scopes).of(wanted.name());
        return new PolicyApi.ScopePreview(
                scopes.get(wanted.name()).words(),
                set.getCardinality(),
                people(set, null, SAMPLE).items(),
                problems);
    }

    private ScopeSets sets(Map<String, Scope> scopes) {
        return new ScopeSets(
                everybody.now().population(), scopes, LocalDate.ofInstant(clock.instant(), ZoneOffset.UTC));
    }

    private Page<PeopleApi.PersonRow> people(RoaringBitmap set, UUID after, int limit) {
        return page(everybody, people, set, after, limit);
    }

    /** A page of some people; {@code after} is the last id of the page before. */
    static Page<PeopleApi.PersonRow> page(
            Everybody everybody, People people, RoaringBitmap set, UUID after, int limit) {
        var population = everybody.now().population();
        var from = after == null ? null : population.number(after);
        if (after != null && from == null) {
            throw Problem.of("page-over");
        }
        var size = Math.max(1, Math.min(limit, 500));
        var ids = new ArrayList<UUID>();
        var numbers = set.getIntIterator();
        numbers.advanceIfNeeded(from == null ? 0 : from + 1);
        while (numbers.hasNext() && ids.size() <= size) {
            ids.add(population.id(numbers.next()));
        }
        var more = ids.size() > size;
        var shown = more ? ids.subList(0, size) : ids;
        return new Page<>(people.rows(shown), more ? shown.get(shown.size() - 1).toString() : null);
    }

    private static Scope named(Configuration configuration, String name) {
        var scope = configuration.scopes().get(name);
        if (scope == null) {
            throw Problem.of("scope-not-found")
                    .with("name", name)
                    .with(
                            "list",
                            String.join(
                                    ", ",
                                    configuration.scopes().keySet().stream()
                                            .sorted()
                                            .toList()));
        }
        return scope;
    }

    private static PolicyApi.Scope shown(Scope scope, RoaringBitmap set, Configuration configuration) {
        return new PolicyApi.Scope(
                scope.name(),
                scope.title(),
                scope.words(),
                set.getCardinality(),
                configuration.policies().stream()
                        .filter(p -> p.scope().equals(scope.name()))
                        .map(p -> p.name())
                        .toList());
    }
}
