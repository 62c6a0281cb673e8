package dev.entente.service.policy;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Circumstances;
import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.Decision;
import dev.entente.core.policy.Network;
import dev.entente.core.verify.Method;
import dev.entente.service.audit.Readings;
import dev.entente.service.people.People;
import dev.entente.service.people.Person;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Problem;
import dev.entente.wire.OneOf;
import dev.entente.wire.PolicyApi;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import java.util.stream.Collectors;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** Explaining over HTTP. */
@RestController
@RequestMapping("/api/v1")
class ExplainController {
    private final Drafts drafts;
    private final Configurations configurations;
    private final People people;
    private final List<Hindrance> hindrances;
    private final Ways ways;
    private final Readings readings;

    ExplainController(
            Drafts drafts,
            Configurations configurations,
            People people,
            List<Hindrance> hindrances,
            Ways ways,
            Readings readings) {
        this.readings = readings;
        this.drafts = drafts;
        this.configurations = configurations;
        this.people = people;
        this.hindrances = hindrances;
        this.ways = ways;
    }

    /** Why a person can or cannot do something now. */
    @Fails({"draft-invalid", "draft-not-found", "not-a-network", "person-not-found", "several-people", "unknown-action"
    })
    @GetMapping("/explain")
    @Transactional
    public PolicyApi.Explanation explain(
            @RequestParam String person,
            @RequestParam(defaultValue = "reset") @OneOf(Action.class) String action,
            @RequestParam(required = false) String network,
            @RequestParam(required = false) Instant at,
            @RequestParam(required = false) Boolean knownDevice,
            @RequestParam(required = false) UUID draft,
            @AuthenticationPrincipal String administrator) {
        var who = people.resolve(person);
        readings.ofPerson(administrator, who.id(), who.name());
        var what = Action.labelled(action)
                .orElseThrow(() -> Problem.of("unknown-action").with("action", action));
        if (network != null && Network.range(network).isEmpty()) {
            throw Problem.of("not-a-network").with("network", network);
        }
        var configuration = draft == null ? configurations.current() : drafts.configuration(draft);
        var circumstances =
                at == null ? configurations.now(network, knownDevice) : configurations.at(at, network, knownDevice);
        var notes = new ArrayList<String>();
        var situations = network == null ? situations(configuration, who, what, at, knownDevice) : List.<Told>of();
        // From where is not known: then it is explained for where it is possible, and told where it is not.
        var here = situations.stream()
                .filter(told -> told.situation().possible())
                .findFirst()
                .map(Told::circumstances)
                .orElse(circumstances);
        var decision = explained(configuration, who, what, here, notes);
        var waysIn = decision.policy()
                .map(policy -> ways.into(configuration, policy, who, what))
                .orElse(List.of());
        return new PolicyApi.Explanation(
                who.id(),
                who.name(),
                what.label(),
                decision.revision(),
                decision.possible(),
                decision.policy().map(p -> p.name()).orElse(null),
                decision.considered().stream()
                        .map(c -> new PolicyApi.Considered(c.policy(), c.covers(), c.because()))
                        .toList(),
                decision.required()
                        .map(r -> new PolicyApi.Required(
                                r.requirement().methods(),
                                r.requirement().factors(),
                                r.requirement().words(),
                                r.source(),
                                r.because()))
                        .orElse(null),
                decision.methods().stream()
                        .map(m -> new PolicyApi.MethodStanding(m.method().label(), m.enrolled(), m.usable(), m.words()))
                        .toList(),
                decision.policy().map(PolicyController::facts).orElse(List.of()),
                decision.obstacles().stream()
                        .map(o -> new PolicyApi.Obstacle(o.code(), o.cause(), o.whatToDo()))
                        .toList(),
                notes,
                situations.stream().map(Told::situation).toList(),
                waysIn,
                decision.text(who.name(), circumstances)
                        + waysIn.stream().map(w -> "  way in: " + w + "\n").collect(Collectors.joining()));
    }

    /** The decision that an attempt would meet, with everything else that stands in the way. */
    private Decision explained(
            Configuration configuration, Person who, Action action, Circumstances circumstances, List<String> notes) {
        var decision = configurations.decide(configuration, who, action, circumstances);
        if (decision.policy().isEmpty()) {
            return decision;
        }
        var more = new ArrayList<Decision.Obstacle>();
        var closed = new TreeMap<Method, String>();
        for (var hindrance : hindrances) {
            var found = hindrance.of(who, decision, circumstances);
            more.addAll(found.obstacles());
            notes.addAll(found.notes());
            closed.putAll(found.closed());
        }
        return decision.with(more, closed);
    }

    private record Told(PolicyApi.Situation situation, Circumstances circumstances) {}

    private List<Told> situations(
            Configuration configuration, Person who, Action action, Instant at, Boolean knownDevice) {
        return configurations.situations(List.of(configuration), Set.of(action), at, null).stream()
                .filter(s -> knownDevice == null
                        || s.circumstances().knownDevice() == null
                        || s.circumstances().knownDevice().equals(knownDevice))
                .filter(s -> !s.words().isEmpty())
                .map(s -> {
                    // Whatever is said of one situation is what an attempt would meet in it.
                    var decision = explained(configuration, who, action, s.circumstances(), new ArrayList<>());
                    return new Told(
                            new PolicyApi.Situation(
                                    s.words(),
                                    decision.possible(),
                                    decision.required()
                                            .map(r -> r.requirement().words())
                                            .orElse(null),
                                    decision.obstacles().stream()
                                            .map(Decision.Obstacle::cause)
                                            .toList()),
                            s.circumstances());
                })
                .toList();
    }
}
