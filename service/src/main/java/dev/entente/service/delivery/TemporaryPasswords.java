package dev.entente.service.delivery;

import dev.entente.core.attempt.Reference;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.service.approval.Switches;
import dev.entente.service.attempt.AttemptList;
import dev.entente.service.attempt.Attempts;
import dev.entente.service.attempt.TemporaryAttempts;
import dev.entente.service.people.People;
import dev.entente.service.platform.ClientNetwork;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Unconfirmed;
import dev.entente.wire.AttemptApi;
import dev.entente.wire.PortalApi;
import jakarta.servlet.http.HttpServletRequest;
import java.util.UUID;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/**
 * Temporary passwords that an administrator hands to a person: made and sealed in the administrator's browser, so that the
 * service never sees one. Off unless switched on, and the stewards' own files have to switch them on too. Never for
 * privileged accounts; what cannot be determined counts as privileged.
 */
@RestController
@RequestMapping("/api/v1")
class TemporaryPasswords {
    private final Attempts attempts;
    private final AttemptList list;
    private final Deliveries deliveries;
    private final ClientNetwork networks;
    private final People people;
    private final Switches switches;
    private final TemporaryAttempts temporary;

    TemporaryPasswords(
            Attempts attempts,
            AttemptList list,
            Deliveries deliveries,
            ClientNetwork networks,
            People people,
            Switches switches,
            TemporaryAttempts temporary) {
        this.attempts = attempts;
        this.list = list;
        this.deliveries = deliveries;
        this.networks = networks;
        this.people = people;
        this.switches = switches;
        this.temporary = temporary;
    }

    /** Asks for what the administrator's browser needs to seal one. */
    @Fails({
        "account-privileged",
        "key-missing",
        "no-sealing-key",
        "no-steward-yet",
        "not-covered",
        "nothing-to-seal",
        "person-not-found",
        "stopped",
        "suspended",
        "temporary-passwords-off",
        "terms-not-accepted"
    })
    @PostMapping("/people/{id}/temporary-password")
    @ResponseStatus(HttpStatus.CREATED)
    @Transactional
    public AttemptApi.Temporary ask(
            @PathVariable UUID id,
            @RequestBody AttemptApi.NewTemporary wanted,
            @AuthenticationPrincipal String administrator,
            HttpServletRequest request) {
        if (!switches.temporaryPasswords()) {
            throw Problem.of("temporary-passwords-off");
        }
        if (wanted.key() == null) {
            throw Problem.of("key-missing");
        }
        var person = people.find(id).orElseThrow(() -> Problem.of("person-not-found"));
        if (people.facts(person).privileged()) {
            throw Problem.of("account-privileged").with("name", person.name());
        }
        var attempt = temporary.start(person, wanted.key(), administrator, networks.of(request));
        return new AttemptApi.Temporary(attempt.reference().toString(), deliveries.sealing(attempt));
    }

    /** Takes the sealed temporary password. */
    @Fails({
        "attempt-gone",
        "attempt-not-found",
        "no-password-wanted",
        "not-a-reference",
        "not-temporary",
        "seal-refused",
        "stopped",
        "terms-not-accepted",
        "too-many-passwords",
        "wrong-number-of-seals"
    })
    @Unconfirmed
    @PostMapping("/attempts/{reference}/passwords")
    @ResponseStatus(HttpStatus.ACCEPTED)
    public void passwords(@PathVariable String reference, @RequestBody PortalApi.SealedPasswords passwords) {
        var attempt = attempts.get(list.show(reference).id());
        if (!attempt.action().label().equals("temporary")) {
            throw Problem.of("not-temporary")
                    .with("reference", new Reference(attempt.reference().digits()));
        }
        try {
            deliveries.accept(attempt, passwords.passwords());
        } catch (InvalidDocument e) {
            throw Problem.of("seal-refused").with("why", e.getMessage());
        }
    }
}
