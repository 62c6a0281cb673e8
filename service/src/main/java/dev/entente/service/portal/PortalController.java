package dev.entente.service.portal;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.policy.Action;
import dev.entente.core.policy.Terms;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.service.attempt.Acts;
import dev.entente.service.attempt.Admission;
import dev.entente.service.attempt.Attempts;
import dev.entente.service.attempt.Attempts.Attempt;
import dev.entente.service.attempt.Attempts.Holding;
import dev.entente.service.attempt.Challenges;
import dev.entente.service.attempt.Coming;
import dev.entente.service.attempt.Conclusion;
import dev.entente.service.attempt.Continuation;
import dev.entente.service.attempt.KnownPlaces;
import dev.entente.service.attempt.Offering;
import dev.entente.service.attempt.StartGate;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.delivery.Deliveries;
import dev.entente.service.notification.Notifications;
import dev.entente.service.notification.Quiet;
import dev.entente.service.platform.Answers;
import dev.entente.service.platform.ClientNetwork;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.wire.AttemptAct;
import dev.entente.wire.PortalApi;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.time.Duration;
import java.util.Base64;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Consumer;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseCookie;
import org.springframework.http.ResponseEntity;
import org.springframework.transaction.support.TransactionTemplate;
import org.springframework.web.bind.annotation.CookieValue;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PatchMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;
import org.springframework.web.context.request.async.DeferredResult;
import org.springframework.web.servlet.mvc.method.annotation.SseEmitter;

/** What the portal calls. Until the first proof every answer is the same for every name and leaves at a fixed deadline. */
@RestController
@RequestMapping(path = "/api/v1/portal", produces = MediaType.APPLICATION_JSON_VALUE)
class PortalController {
    static final String COOKIE = "__Host-entente-attempt";
    private static final String DEVICE = "__Host-entente-device";
    private static final long DEVICE_LIFE = Duration.ofDays(400).toSeconds();
    private static final long UNTIL_THE_BROWSER_QUITS = -1;
    private static final int LONGEST_NAME = 256;

    private final Attempts attempts;
    private final Admission admission;
    private final Challenges challenges;
    private final Offering offering;
    private final StartGate gate;
    private final KnownPlaces places;
    private final Acts acts;
    private final Enrolling enrolling;
    private final ClientNetwork networks;
    private final KeyRing keys;
    private final Deliveries deliveries;
    private final Notifications notifications;
    private final Quiet quiet;
    private final AttemptUpdates updates;
    private final Deadline deadline;
    private final EventLog events;
    private final ServiceSettings settings;
    private final TransactionTemplate transaction;
    private final Conclusion conclusion;
    private final Continuation continuation;

    PortalController(
            Attempts attempts,
            Admission admission,
            Challenges challenges,
            Offering offering,
            StartGate gate,
            KnownPlaces places,
            Acts acts,
            Enrolling enrolling,
            ClientNetwork networks,
            KeyRing keys,
            Deliveries deliveries,
            Notifications notifications,
            Quiet quiet,
            AttemptUpdates updates,
            Deadline deadline,
            EventLog events,
            ServiceSettings settings,
            TransactionTemplate transaction,
            Conclusion conclusion,
            Continuation continuation) {
        this.attempts = attempts;
        this.admission = admission;
        this.challenges = challenges;
        this.offering = offering;
        this.gate = gate;
        this.places = places;
        this.acts = acts;
        this.enrolling = enrolling;
        this.networks = networks;
        this.keys = keys;
        this.deliveries = deliveries;
        this.notifications = notifications;
        this.quiet = quiet;
        this.updates = updates;
        this.deadline = deadline;
        this.events = events;
        this.settings = settings;
        this.transaction = transaction;
        this.conclusion = conclusion;
        this.continuation = continuation;
    }

    /** What the first page needs. */
    @GetMapping("/context")
    PortalApi.Context context(@CookieValue(name = DEVICE, required = false) String device, HttpServletRequest request) {
        return transaction.execute(status -> new PortalApi.Context(
                settings.organisation(),
                settings.helpDesk(),
                offering.actions(),
                offering.ready(),
                offering.paused(),
                device != null && places.anybody(coming(request, device)),
                places.shared(networks.of(request)),
                (int) places.idle(networks.of(request)).toSeconds(),
                settings.signInPage().isEmpty() ? null : settings.signInPage()));
    }

    /** Throws unless the call comes from the page that began the attempt. */
    private Consumer<Attempt> page(Acts.Call call) {
        return attempt -> acts.check(attempt, call);
    }

    private Attempt held(String cookie, HttpServletRequest request) {
        var attempt = attempts.held(cookie).orElseThrow(PortalController::gone);
        acts.check(attempt, PortalRequests.call(request));
        return attempt;
    }

    private Coming coming(HttpServletRequest request, String device) {
        var address = networks.of(request);
        return new Coming(
                address,
                ClientNetwork.oneNetwork(address),
                () -> places.browser(device, address),
                BrowserName.of(request.getHeader(HttpHeaders.USER_AGENT)),
                request.getHeader(HttpHeaders.ACCEPT_LANGUAGE));
    }

    /** Starts an attempt for a name, known or unknown, and leaves the one that this browser holds. */
    @Answers(201)
    @Fails({
        "busy",
        "document-format",
        "document-key",
        "key-missing",
        "name-missing",
        "no-method",
        "stopped",
        "too-many-starts",
        "unknown-action",
        "work-wanted"
    })
    @PostMapping("/attempts")
    DeferredResult<ResponseEntity<PortalApi.Attempt>> start(
            @RequestBody PortalApi.Start start,
            @CookieValue(name = COOKIE, required = false) String before,
            @CookieValue(name = DEVICE, required = false) String known,
            HttpServletRequest request) {
        if (start.name() == null || start.name().isBlank() || start.name().length() > LONGEST_NAME) {
            throw Problem.of("name-missing/own");
        }
        if (start.key() == null) {
            throw Problem.of("key-missing/attempt");
        }
        var action = Action.labelled(start.action())
                .filter(Action::available)
                .orElseThrow(() -> Problem.of("unknown-action/portal"));
        // Every browser gets one, for known and unknown names alike; it means nothing until an attempt was finished
        // with it. On a shared network none is set.
        var device = known != null && known.matches("[A-Za-z0-9_-]{43}") ? known : newDevice();
        var shared = places.shared(networks.of(request));
        var coming = coming(request, device);
        var ticket = gate.admit(coming, device.equals(known), done(start.work()));
        var answer = deadline.answer(
                () -> {
                    return transaction.execute(status -> {
                        if (before != null && !before.isEmpty()) {
                            conclusion.replaced(before);
                        }
                        var held = admission.start(start.name(), action, start.key(), coming);
                        var started =
                                ResponseEntity.status(HttpStatus.CREATED).header(HttpHeaders.SET_COOKIE, holding(held));
                        if (!shared) {
                            started.header(HttpHeaders.SET_COOKIE, cookie(DEVICE, device, DEVICE_LIFE));
                        }
                        return started.body(shown(held.attempt()));
                    });
                },
                ticket.slower());
        answer.onCompletion(ticket::close);
        return answer;
    }

    private static StartGate.Done done(PortalApi.Work work) {
        return work == null ? StartGate.Done.NOTHING : new StartGate.Done(work.seed(), work.nonce());
    }

    /** Where the attempt stands, for the page that began it; 204 if this browser holds none. */
    @Answers({200, 204})
    @GetMapping("/attempt")
    ResponseEntity<PortalApi.Attempt> attempt(
            @CookieValue(name = COOKIE, required = false) String cookie, HttpServletRequest request) {
        return cookie == null || cookie.isEmpty()
                ? ResponseEntity.noContent().build()
                : ResponseEntity.ok(transaction.execute(status -> shown(held(cookie, request))));
    }

    /** Postpones the idle limit of an attempt in which something was proved. */
    @PostMapping("/attempt/presence")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void present(@CookieValue(name = COOKIE, required = false) String cookie, HttpServletRequest request) {
        conclusion.present(cookie, page(PortalRequests.call(request)));
    }

    /** Asks for a code. */
    @Answers(201)
    @Fails({
        "address-unknown",
        "busy",
        "method-not-offered",
        "no-proof-wanted",
        "number-end-missing",
        "stopped",
        "too-many-codes",
        "unknown-method"
    })
    @PostMapping("/attempt/challenges")
    DeferredResult<ResponseEntity<PortalApi.Attempt>> ask(
            @RequestBody PortalApi.Ask ask,
            @CookieValue(name = COOKIE, required = false) String cookie,
            @CookieValue(name = DEVICE, required = false) String device,
            HttpServletRequest request) {
        var method = method(ask.method());
        var coming = coming(request, device);
        var page = page(PortalRequests.call(request));
        var to = new Challenges.To(ask.end(), ask.address());
        return deadline.answer(() -> transaction.execute(status -> ResponseEntity.status(HttpStatus.CREATED)
                .body(asked(challenges.ask(cookie, method, to, coming, page)))));
    }

    /**
     * Answers a challenge; 202 while an answer from elsewhere is not there yet. If the answer to a right one got lost, the same call
     * gets another cookie.
     */
    @Answers({200, 202})
    @Fails({"answer-too-long", "busy", "code-used-up", "code-wrong", "no-proof-wanted"})
    @PostMapping("/attempt/challenges/{id}/answers")
    DeferredResult<ResponseEntity<PortalApi.Attempt>> answer(
            @PathVariable UUID id,
            @RequestBody PortalApi.Answer answer,
            @CookieValue(name = COOKIE, required = false) String cookie,
            @CookieValue(name = DEVICE, required = false) String device,
            @RequestHeader(name = AttemptAct.HEADER, required = false) String act,
            HttpServletRequest request) {
        var coming = coming(request, device);
        var call = PortalRequests.call(request);
        return deadline.answer(() -> challenges
                .answer(
                        cookie,
                        id,
                        given(answer),
                        coming,
                        page(call),
                        attempt -> act != null && acts.signed(attempt, call))
                .map(held -> answer(HttpStatus.OK, held))
                .orElseGet(() -> ResponseEntity.accepted().body(shown(cookie))));
    }

    /** Accepts the terms. */
    @Fails({"no-terms", "other-terms"})
    @PostMapping("/attempt/terms")
    PortalApi.Attempt accept(
            @RequestBody PortalApi.Acceptance acceptance,
            @CookieValue(name = COOKIE, required = false) String cookie,
            HttpServletRequest request) {
        signed(cookie, request);
        return shown(attempts.accept(cookie, acceptance.terms()));
    }

    /** For what changes something: the signature is taken once. */
    private Attempt signed(String cookie, HttpServletRequest request) {
        return signed(attempts.held(cookie).orElseThrow(PortalController::gone), request);
    }

    private Attempt signed(Attempt attempt, HttpServletRequest request) {
        acts.require(attempt, PortalRequests.call(request));
        return attempt;
    }

    /** How the person can be recognised. */
    @Fails({"method-not-found", "not-proved"})
    @GetMapping("/attempt/enrolments")
    List<PortalApi.OwnMethod> enrolments(
            @CookieValue(name = COOKIE, required = false) String cookie, HttpServletRequest request) {
        return enrolling.list(own(held(cookie, request)));
    }

    /** What the person can set up: what their policy accepts, and for what. */
    @Fails("not-proved")
    @GetMapping("/attempt/settable")
    List<PortalApi.SettableMethod> settable(
            @CookieValue(name = COOKIE, required = false) String cookie, HttpServletRequest request) {
        return enrolling.settable(own(held(cookie, request)));
    }

    /** Begins to set up a method; some, such as recovery codes, count at once. */
    @Fails({"name-too-long", "not-proved", "not-self-enrolled", "too-many-enrolments", "unknown-method"})
    @PostMapping("/attempt/enrolments")
    @ResponseStatus(HttpStatus.CREATED)
    PortalApi.OfferedEnrolment newEnrolment(
            @RequestBody PortalApi.NewEnrolment enrolment,
            @CookieValue(name = COOKIE, required = false) String cookie,
            HttpServletRequest request) {
        return enrolling.offer(own(signed(cookie, request)), method(enrolment.method()), enrolment.label());
    }

    /** Shows that the person, or their device, has what was offered. */
    @Fails({
        "answer-blocked",
        "answer-in-question",
        "answer-personal",
        "answer-too-long",
        "answer-too-short",
        "answer-twice",
        "answers-number",
        "code-wrong",
        "device-missing",
        "method-not-found",
        "not-begun",
        "not-proved",
        "own-question-length",
        "passkey-known",
        "passkey-not-taken",
        "passkey-refused",
        "question-twice",
        "too-few-questions",
        "too-many-own-questions",
        "unknown-question"
    })
    @PostMapping("/attempt/enrolments/{id}/confirmation")
    List<PortalApi.OwnMethod> confirmEnrolment(
            @PathVariable UUID id,
            @RequestBody PortalApi.Answer answer,
            @CookieValue(name = COOKIE, required = false) String cookie,
            HttpServletRequest request) {
        return enrolling.confirm(own(signed(cookie, request)), id, given(answer));
    }

    /** Gives a method another name. */
    @Fails({"method-not-found", "name-too-long", "not-proved"})
    @PatchMapping("/attempt/enrolments/{id}")
    List<PortalApi.OwnMethod> renameEnrolment(
            @PathVariable UUID id,
            @RequestBody PortalApi.Naming naming,
            @CookieValue(name = COOKIE, required = false) String cookie,
            HttpServletRequest request) {
        return enrolling.rename(own(signed(cookie, request)), id, naming.label());
    }

    private static Method method(String label) {
        return Method.labelled(label).orElseThrow(() -> Problem.of("unknown-method"));
    }

    private static Answer given(PortalApi.Answer answer) {
        try {
            return new Answer(answer.code(), answer.parts());
        } catch (IllegalArgumentException e) {
            throw Problem.of("answer-too-long");
        }
    }

    /** Takes a method away. */
    @Fails({"method-not-found", "not-proved"})
    @DeleteMapping("/attempt/enrolments/{id}")
    List<PortalApi.OwnMethod> removeEnrolment(
            @PathVariable UUID id,
            @CookieValue(name = COOKIE, required = false) String cookie,
            HttpServletRequest request) {
        return enrolling.remove(own(signed(cookie, request)), id);
    }

    /** Done with the details. */
    @Fails("nothing-to-finish")
    @PostMapping("/attempt/end")
    PortalApi.Attempt finish(@CookieValue(name = COOKIE, required = false) String cookie, HttpServletRequest request) {
        signed(cookie, request);
        return shown(conclusion.finish(cookie));
    }

    /** The attempt of somebody who has proved to be the one whose details these are. */
    private Attempt own(Attempt attempt) {
        if (attempt.action() != Action.DETAILS
                || attempt.state() != AttemptState.PROVED
                || attempts.terms(attempt).isPresent()) {
            throw Problem.of("not-proved");
        }
        return attempt;
    }

    private static PortalApi.Terms terms(Terms terms, String wanted) {
        var language = terms.language(wanted);
        return new PortalApi.Terms(terms.name(), language, terms.texts().get(language));
    }

    /** What the browser needs to seal. */
    @Fails({
        "no-password-wanted",
        "no-sealing-key",
        "no-steward-yet",
        "nothing-to-seal",
        "stopped",
        "suspended",
        "terms-not-accepted"
    })
    @GetMapping("/attempt/sealing")
    PortalApi.Sealing sealing(@CookieValue(name = COOKIE, required = false) String cookie, HttpServletRequest request) {
        return transaction.execute(status -> {
            var attempt = held(cookie, request);
            if (attempt.state() != AttemptState.PROVED) {
                throw Problem.of("no-password-wanted");
            }
            return deliveries.sealing(attempt);
        });
    }

    /** Hands in sealed passwords. */
    @Answers(202)
    @Fails({
        "document-binding",
        "document-clock",
        "document-evidence",
        "document-expired",
        "document-format",
        "document-key",
        "document-recipients",
        "document-signature",
        "document-type",
        "no-password-wanted",
        "stopped",
        "terms-not-accepted",
        "too-many-passwords",
        "wrong-number-of-seals"
    })
    @PostMapping("/attempt/passwords")
    ResponseEntity<PortalApi.Attempt> passwords(
            @RequestBody PortalApi.SealedPasswords passwords,
            @CookieValue(name = COOKIE, required = false) String cookie,
            HttpServletRequest request) {
        var page = page(PortalRequests.call(request));
        try {
            return transaction.execute(status -> {
                var attempt = attempts.heldForChange(cookie).orElseThrow(PortalController::gone);
                page.accept(attempt);
                return ResponseEntity.accepted().body(shown(deliveries.accept(attempt, passwords.passwords())));
            });
        } catch (InvalidDocument e) {
            transaction.executeWithoutResult(status -> {
                var attempt = attempts.held(cookie).orElseThrow(PortalController::gone);
                events.write(NewEvent.of("password.seal-refused", attempt.id(), attempt.revision())
                        .with("why", e.getMessage()));
            });
            throw e;
        }
    }

    /** Goes on without proving again: to a new password after an unlock, to another try after a failure. */
    @Fails({"nothing-follows", "only-unlocked", "stopped", "too-late"})
    @PostMapping("/attempt/continuation")
    PortalApi.Attempt goOn(@CookieValue(name = COOKIE, required = false) String cookie, HttpServletRequest request) {
        signed(cookie, request);
        return shown(continuation.goOn(cookie));
    }

    /** The attempt again whenever something about it changes. */
    @GetMapping(path = "/attempt/updates", produces = MediaType.TEXT_EVENT_STREAM_VALUE)
    SseEmitter updates(
            @CookieValue(name = COOKIE, required = false) String cookie,
            HttpServletRequest request,
            HttpServletResponse response) {
        response.setHeader("X-Accel-Buffering", "no");
        var now = transaction.execute(status -> {
            var attempt = held(cookie, request);
            return new AttemptUpdates.Now(attempt.id(), shown(attempt));
        });
        return updates.follow(now, () -> shown(cookie));
    }

    /**
     * Leaves the attempt: it ends, nothing that was proved in it counts any more, and nothing that was asked elsewhere. What stewards
     * have already goes its way.
     */
    @Answers(204)
    @DeleteMapping("/attempt")
    ResponseEntity<Void> leave(
            @CookieValue(name = COOKIE, required = false) String cookie, HttpServletRequest request) {
        conclusion.leave(cookie, page(PortalRequests.call(request)));
        return ResponseEntity.noContent()
                .header(HttpHeaders.SET_COOKIE, cookie(COOKIE, "", 0))
                .build();
    }

    /** What an alarm would bring about, by the link in a message; changes nothing. */
    @Fails("message-not-found")
    @PostMapping("/alarms/find")
    PortalApi.AlarmAsked askedAlarm(@RequestBody PortalApi.Alarm alarm) {
        var possible = notifications.asked(alarm.token());
        return new PortalApi.AlarmAsked(
                possible.contains(Notifications.Done.ATTEMPT_ENDED),
                possible.contains(Notifications.Done.SELF_SERVICE_CLOSED));
    }

    /** "This was not me". Self-service is closed only where that was asked for. */
    @Fails("message-not-found")
    @PostMapping("/alarms")
    @ResponseStatus(HttpStatus.CREATED)
    PortalApi.AlarmRaised alarm(@RequestBody PortalApi.Alarm alarm) {
        var raised = notifications.alarm(alarm.token(), Boolean.TRUE.equals(alarm.close()));
        return new PortalApi.AlarmRaised(
                raised.attempt()
                        .map(id -> attempts.get(id).reference().toString())
                        .orElse(null),
                settings.organisation(),
                settings.helpDesk(),
                raised.done().contains(Notifications.Done.ATTEMPT_ENDED),
                raised.done().contains(Notifications.Done.SELF_SERVICE_CLOSED));
    }

    /** Chooses whether to be told of something, by the link in a message about it. */
    @Fails("message-not-found")
    @PostMapping("/quiet")
    PortalApi.Told quiet(@RequestBody PortalApi.Quiet wanted) {
        var occasion = quiet.choose(wanted.token(), wanted.off());
        return new PortalApi.Told(occasion.label(), !wanted.off());
    }

    private static Problem gone() {
        return Problem.of("attempt-gone");
    }

    private ResponseEntity<PortalApi.Attempt> answer(HttpStatus status, Holding held) {
        return ResponseEntity.status(status)
                .header(HttpHeaders.SET_COOKIE, holding(held))
                .body(shown(held.attempt()));
    }

    private String newDevice() {
        return Base64.getUrlEncoder().withoutPadding().encodeToString(keys.randomBytes(32));
    }

    private String holding(Holding held) {
        return cookie(COOKIE, held.cookie(), UNTIL_THE_BROWSER_QUITS);
    }

    private static String cookie(String name, String value, long seconds) {
        return ResponseCookie.from(name, value)
                .httpOnly(true)
                .secure(true)
                .sameSite("Strict")
                .path("/")
                .maxAge(seconds)
                .build()
                .toString();
    }

    private PortalApi.Attempt shown(String cookie) {
        return transaction.execute(status -> shown(attempts.held(cookie).orElseThrow(PortalController::gone)));
    }

    private PortalApi.Attempt shown(Attempt attempt) {
        return shown(
                attempt, attempt.state() == AttemptState.PROVING ? challenges.open(attempt.id()) : Optional.empty());
    }

    private PortalApi.Attempt asked(Challenges.Now now) {
        return shown(now.attempt(), Optional.of(now.asked()));
    }

    private PortalApi.Attempt shown(Attempt attempt, Optional<Challenges.Asked> asked) {
        var open = asked.map(c -> new PortalApi.Challenge(
                        c.id(),
                        c.method().label(),
                        c.triesLeft(),
                        Challenges.MOST - attempt.challenges(),
                        c.expiresAt(),
                        c.shown()))
                .orElse(null);
        var standing =
                attempt.sealings() == 0 ? new Deliveries.Standing(List.of(), false) : deliveries.standing(attempt);
        var methods = offering.methods(attempt);
        return new PortalApi.Attempt(
                attempt.reference().toString(),
                attempt.state().name().toLowerCase(Locale.ROOT),
                attempt.action().label(),
                methods.stream().map(Method::label).toList(),
                offering.addresses(attempt, methods).entrySet().stream()
                        .map(a -> new PortalApi.Address(a.getKey(), a.getValue()))
                        .toList(),
                attempt.proved().stream().map(Method::label).toList(),
                open,
                attempts.terms(attempt).map(t -> terms(t, attempt.language())).orElse(null),
                standing.results(),
                attempt.state() == AttemptState.DELIVERING && standing.waitsForSteward(),
                continuation.possible(attempt),
                attempt.mailed() && !attempt.proved().isEmpty(),
                attempt.expiresAt());
    }
}
