package dev.entente.service.attempt;

import dev.entente.service.people.People;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Reads;
import dev.entente.wire.AttemptApi;
import java.util.Objects;
import java.util.UUID;
import java.util.stream.Collectors;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** What strangers do, and limits of one person, for administrators. */
@RestController
@RequestMapping("/api/v1")
class PressureController {
    private static final int SHOWN = 50;
    private static final int LONGEST_REASON = 200;

    private final Pressure pressure;
    private final Guesses guesses;
    private final People people;

    private final ClosedPeople closed;

    PressureController(Pressure pressure, Guesses guesses, People people, ClosedPeople closed) {
        this.closed = closed;
        this.pressure = pressure;
        this.guesses = guesses;
        this.people = people;
    }

    /** How much there is of what strangers do, from which networks and in whose name. */
    @Reads("pressure")
    @GetMapping("/pressure")
    @Transactional(readOnly = true)
    public AttemptApi.Pressure pressure() {
        var in = pressure.people(SHOWN);
        var names = people.names(in.stream().map(Pressure.Source::person).collect(Collectors.toSet()));
        return new AttemptApi.Pressure(
                pressure.levels().stream()
                        .map(l -> new AttemptApi.PressureLevel(
                                l.kind().label(), l.kind().words(l.lastHour()), l.lastHour(), l.usual(), l.unusual()))
                        .toList(),
                pressure.networks(SHOWN).stream()
                        .map(s -> new AttemptApi.PressureSource(
                                s.kind().label(),
                                s.network(),
                                null,
                                null,
                                s.count(),
                                s.kind().words(s.count())))
                        .toList(),
                in.stream()
                        .map(s -> new AttemptApi.PressureSource(
                                s.kind().label(),
                                null,
                                s.person(),
                                names.get(s.person()),
                                s.count(),
                                s.kind().words(s.count())))
                        .toList());
    }

    /** Counts a person's tries and codes anew, whatever was used up. */
    @Fails({"lifting-reason", "person-not-found"})
    @PostMapping("/people/{id}/limits/lifting")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    @Transactional
    public void lift(
            @PathVariable UUID id,
            @RequestBody AttemptApi.LimitLifting lifting,
            @AuthenticationPrincipal String administrator) {
        var reason = Objects.requireNonNullElse(lifting.reason(), "").strip();
        if (reason.isEmpty() || reason.length() > LONGEST_REASON || reason.contains("\n")) {
            throw Problem.of("lifting-reason").with("longestReason", LONGEST_REASON);
        }
        var person = people.find(id).orElseThrow(() -> Problem.of("person-not-found"));
        guesses.lift(person.id(), reason, administrator);
    }

    /** Whether self-service is closed for a person, because they said that something wasn't them. */
    @GetMapping("/people/{id}/self-service")
    AttemptApi.SelfService selfService(@PathVariable UUID id) {
        return closed.since(id)
                .map(c -> new AttemptApi.SelfService(true, c.since(), c.reference()))
                .orElse(new AttemptApi.SelfService(false, null, null));
    }

    /** Opens it again, once somebody has looked. */
    @Fails({"not-closed", "opening-reason", "person-not-found"})
    @PostMapping("/people/{id}/self-service/opening")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void open(
            @PathVariable UUID id,
            @RequestBody AttemptApi.Opening opening,
            @AuthenticationPrincipal String administrator) {
        closed.open(id, opening.reason(), administrator);
    }
}
