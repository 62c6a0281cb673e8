package dev.entente.service.policy;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Circumstances;
import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.Decision;
import dev.entente.core.policy.Network;
import dev.entente.core.policy.Policy;
import dev.entente.core.policy.Survey;
import dev.entente.service.people.People;
import dev.entente.service.platform.Problem;
import dev.entente.wire.AdminApi;
import dev.entente.wire.OneOf;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Drafts, revisions, published policies and explaining over HTTP. */
@RestController
@RequestMapping("/api/v1")
class PolicyController {
    private final Drafts drafts;
    private final Configurations configurations;
    private final People people;
    private final Everybody everybody;
    private final PlannedChanges planned;
    private final List<Hindrance> hindrances;

    PolicyController(
            Drafts drafts,
            Configurations configurations,
            People people,
            Everybody everybody,
            PlannedChanges planned,
            List<Hindrance> hindrances) {
        this.drafts = drafts;
        this.configurations = configurations;
        this.people = people;
        this.everybody = everybody;
        this.planned = planned;
        this.hindrances = hindrances;
    }

    @GetMapping("/drafts")
    List<AdminApi.Draft> drafts() {
        return drafts.list();
    }

    @PostMapping("/drafts")
    ResponseEntity<AdminApi.Draft> start(
            @RequestBody AdminApi.NewDraft wanted, @AuthenticationPrincipal String author) {
        return tagged(HttpStatus.CREATED, drafts.start(wanted.name(), author));
    }

    @GetMapping("/drafts/{id}")
    ResponseEntity<AdminApi.Draft> draft(@PathVariable UUID id) {
        return tagged(HttpStatus.OK, drafts.get(id));
    }

    /** Replaces all files; problems come back with the draft, which is kept as it is. */
    @PutMapping("/drafts/{id}/files")
    ResponseEntity<AdminApi.Draft> load(
            @PathVariable UUID id,
            @RequestHeader(value = HttpHeaders.IF_MATCH, required = false) String version,
            @RequestBody AdminApi.DraftFiles files,
            @AuthenticationPrincipal String author) {
        return tagged(HttpStatus.OK, drafts.load(id, files.files(), expected(version), author));
    }

    @GetMapping("/drafts/{id}/comparison")
    AdminApi.Comparison compare(@PathVariable UUID id) {
        return drafts.compare(id);
    }

    /** Brings in what was published since the draft was started. */
    @PostMapping("/drafts/{id}/merge")
    AdminApi.Merge merge(@PathVariable UUID id, @AuthenticationPrincipal String author) {
        return drafts.merge(id, author);
    }

    /** Publishes now, or plans it; the answer is empty if it is only planned. */
    @PostMapping("/drafts/{id}/publish")
    @Transactional
    public ResponseEntity<AdminApi.Revision> publish(
            @PathVariable UUID id,
            @RequestBody AdminApi.Publication publication,
            @AuthenticationPrincipal String author) {
        if (publication.at() != null) {
            drafts.configuration(id);
            planned.plan(id, publication, null, author);
            return ResponseEntity.accepted().build();
        }
        var revision = drafts.publish(id, publication, author);
        planned.plan(null, publication, revision.number(), author);
        return ResponseEntity.ok(revision);
    }

    /** What happens by itself. */
    @GetMapping("/planned-changes")
    List<AdminApi.Planned> plannedChanges() {
        return planned.list();
    }

    @DeleteMapping("/planned-changes/{id}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void cancel(@PathVariable UUID id, @AuthenticationPrincipal String administrator) {
        planned.cancel(id, administrator);
    }

    /** What a draft makes weaker, and whether a second person has to agree. */
    @GetMapping("/drafts/{id}/approval")
    AdminApi.Approval approval(@PathVariable UUID id) {
        return drafts.approval(id);
    }

    @PostMapping("/drafts/{id}/submission")
    AdminApi.Approval submit(@PathVariable UUID id, @AuthenticationPrincipal String author) {
        return drafts.submit(id, author);
    }

    @PostMapping("/drafts/{id}/approval")
    AdminApi.Approval approve(@PathVariable UUID id, @AuthenticationPrincipal String approver) {
        return drafts.approve(id, approver);
    }

    @DeleteMapping("/drafts/{id}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void discard(@PathVariable UUID id) {
        drafts.discard(id);
    }

    @GetMapping("/revisions")
    List<AdminApi.Revision> revisions() {
        return drafts.revisions();
    }

    @GetMapping("/revisions/{number}")
    AdminApi.Revision revision(@PathVariable int number) {
        return drafts.revision(number);
    }

    /** What restoring it would change. */
    @GetMapping("/revisions/{number}/comparison")
    AdminApi.Comparison compareRevision(@PathVariable int number) {
        return drafts.compare(number);
    }

    /** What it changed, beside the revision before it. */
    @GetMapping("/revisions/{number}/changes")
    AdminApi.Comparison changesOfRevision(@PathVariable int number) {
        return drafts.changes(number);
    }

    /** What is wrong with files; nothing is kept. */
    @PostMapping("/configuration-check")
    List<AdminApi.Problem> check(@RequestBody AdminApi.DraftFiles files) {
        return drafts.problems(files.files());
    }

    /** Makes what it held the next revision. */
    @PostMapping("/revisions/{number}/restoration")
    @ResponseStatus(HttpStatus.CREATED)
    AdminApi.Revision restore(
            @PathVariable int number,
            @RequestBody AdminApi.Publication publication,
            @AuthenticationPrincipal String author) {
        return drafts.restore(number, publication, author);
    }

    /** The published policies in order, with how many people each covers. */
    @GetMapping("/policies")
    @Transactional(readOnly = true)
    public List<AdminApi.Policy> policies() {
        return shown(configurations.current());
    }

    /** The policies as a draft would have them. */
    @GetMapping("/drafts/{id}/policies")
    @Transactional(readOnly = true)
    public List<AdminApi.Policy> policies(@PathVariable UUID id) {
        return shown(drafts.configuration(id));
    }

    private List<AdminApi.Policy> shown(Configuration configuration) {
        var coverage =
                new Survey(configuration, everybody.now(), Action.RESET, configurations.now(null, null)).covered();
        return configuration.policies().stream()
                .map(policy -> new AdminApi.Policy(
                        policy.name(),
                        policy.title(),
                        policy.scope(),
                        policy
                                .sentences(configuration
                                        .scopes()
                                        .get(policy.scope())
                                        .title())
                                .stream()
                                .map(s -> new AdminApi.Sentence(s.text(), s.facts()))
                                .toList(),
                        facts(policy),
                        coverage.get(policy.name()).getCardinality()))
                .toList();
    }

    /** Why a person can or cannot do something now. */
    @GetMapping("/explain")
    @Transactional(readOnly = true)
    public AdminApi.Explanation explain(
            @RequestParam String person,
            @RequestParam(defaultValue = "reset") @OneOf(Action.class) String action,
            @RequestParam(required = false) String network,
            @RequestParam(required = false) Instant at,
            @RequestParam(required = false) Boolean knownDevice,
            @RequestParam(required = false) UUID draft) {
        var who = people.resolve(person);
        var what = Action.labelled(action)
                .orElseThrow(
                        () -> Problem.invalid("unknown-action", "There is no action \"" + action + "\". Try reset."));
        if (network != null && Network.range(network).isEmpty()) {
            throw Problem.invalid(
                    "not-a-network", "\"" + network + "\" isn't a network address. Try one such as 203.0.113.7.");
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
        var decision = explained(configuration, who, what, here, network, notes);
        return new AdminApi.Explanation(
                who.id(),
                who.name(),
                what.label(),
                decision.revision(),
                decision.possible(),
                decision.policy().map(p -> p.name()).orElse(null),
                decision.considered().stream()
                        .map(c -> new AdminApi.Considered(c.policy(), c.covers(), c.because()))
                        .toList(),
                decision.required()
                        .map(r -> new AdminApi.Required(
                                r.requirement().methods(),
                                r.requirement().factors(),
                                r.requirement().words(),
                                r.source(),
                                r.because()))
                        .orElse(null),
                decision.methods().stream()
                        .map(m -> new AdminApi.MethodStanding(m.method().label(), m.enrolled(), m.usable(), m.why()))
                        .toList(),
                decision.policy().map(PolicyController::facts).orElse(List.of()),
                decision.obstacles().stream()
                        .map(o -> new AdminApi.Obstacle(o.code(), o.cause(), o.whatToDo()))
                        .toList(),
                notes,
                situations.stream().map(Told::situation).toList(),
                decision.text(who.name(), circumstances));
    }

    /** The decision that an attempt would meet, with everything else that stands in the way. */
    private Decision explained(
            Configuration configuration,
            People.Person who,
            Action action,
            Circumstances circumstances,
            String network,
            List<String> notes) {
        var decision = configurations.decide(configuration, who, action, circumstances);
        if (decision.policy().isEmpty()) {
            return decision;
        }
        var more = new ArrayList<Decision.Obstacle>();
        for (var hindrance : hindrances) {
            var found = hindrance.of(who, decision, network);
            more.addAll(found.obstacles());
            notes.addAll(found.notes());
        }
        return decision.with(more);
    }

    private record Told(AdminApi.Situation situation, Circumstances circumstances) {}

    private List<Told> situations(
            Configuration configuration, People.Person who, Action action, Instant at, Boolean knownDevice) {
        return configurations.situations(List.of(configuration), action, at, null).stream()
                .filter(s -> knownDevice == null
                        || s.circumstances().knownDevice() == null
                        || s.circumstances().knownDevice().equals(knownDevice))
                .filter(s -> !s.words().isEmpty())
                .map(s -> {
                    var decision = configurations.decide(configuration, who, action, s.circumstances());
                    return new Told(
                            new AdminApi.Situation(
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

    private static List<AdminApi.Fact> facts(Policy policy) {
        return policy.facts().entrySet().stream()
                .map(e -> new AdminApi.Fact(
                        e.getKey(), e.getValue().value(), e.getValue().source()))
                .toList();
    }

    private static ResponseEntity<AdminApi.Draft> tagged(HttpStatus status, AdminApi.Draft draft) {
        return ResponseEntity.status(status).eTag("\"" + draft.version() + "\"").body(draft);
    }

    private static Integer expected(String header) {
        if (header == null || header.equals("*")) {
            return null;
        }
        try {
            return Integer.parseInt(header.replace("\"", ""));
        } catch (NumberFormatException e) {
            throw Problem.invalid("if-match", "If-Match must hold the ETag of the draft as it was read.");
        }
    }
}
