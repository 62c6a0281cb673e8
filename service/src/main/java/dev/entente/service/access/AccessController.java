package dev.entente.service.access;

import dev.entente.service.access.PasswordHashing.Lane;
import dev.entente.service.access.Sessions.Kind;
import dev.entente.service.access.SignIns.From;
import dev.entente.service.platform.Answers;
import dev.entente.service.platform.ClientNetwork;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.ForOneself;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Unconfirmed;
import dev.entente.wire.AccessApi;
import jakarta.servlet.http.HttpServletRequest;
import java.net.InetAddress;
import java.net.UnknownHostException;
import java.time.Duration;
import java.util.List;
import java.util.UUID;
import java.util.function.Function;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseCookie;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.CookieValue;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;
import org.springframework.web.context.request.async.DeferredResult;

/** Signing in and out, one's own account, and who administers. */
@RestController
@RequestMapping("/api/v1")
class AccessController {
    static final String SESSION = "__Host-entente-session";
    private static final String DEVICE = "__Host-entente-console";
    private static final Duration DEVICE_LIFE = Duration.ofDays(400);

    private final Administrators administrators;
    private final SignIns signIns;
    private final Sessions sessions;
    private final SecondFactors seconds;
    private final PasswordHashing hashing;
    private final FirstStart firstStart;
    private final ClientNetwork networks;

    AccessController(
            Administrators administrators,
            SignIns signIns,
            Sessions sessions,
            SecondFactors seconds,
            PasswordHashing hashing,
            FirstStart firstStart,
            ClientNetwork networks) {
        this.administrators = administrators;
        this.signIns = signIns;
        this.sessions = sessions;
        this.seconds = seconds;
        this.hashing = hashing;
        this.firstStart = firstStart;
        this.networks = networks;
    }

    /** Starts a session for the console. */
    @Fails({"busy", "second-factor", "sign-in", "too-many-tries"})
    @Unconfirmed
    @ForOneself
    @PostMapping("/session")
    DeferredResult<ResponseEntity<AccessApi.Administrator>> signIn(
            @RequestBody AccessApi.SignIn signIn,
            @CookieValue(name = DEVICE, required = false) String device,
            HttpServletRequest request) {
        var from = new From(networks.of(request), device, request.getHeader(HttpHeaders.USER_AGENT));
        return signedIn(
                signIn,
                from,
                Kind.CONSOLE,
                entered -> ResponseEntity.ok()
                        .header(
                                HttpHeaders.SET_COOKIE,
                                cookie(SESSION, entered.session().token(), Sessions.LONGEST),
                                cookie(DEVICE, entered.device(), DEVICE_LIFE))
                        .body(entered.administrator()));
    }

    private <T> DeferredResult<T> signedIn(
            AccessApi.SignIn signIn, From from, Kind kind, Function<SignIns.Entered, T> answer) {
        var admitted = signIns.admit(signIn, from);
        try {
            return hashing.answer(
                    admitted.known() ? Lane.KNOWN : Lane.STRANGERS, () -> answer.apply(signIns.signIn(admitted, kind)));
        } catch (Problem busy) {
            signIns.giveBack(admitted);
            throw busy;
        }
    }

    /** Makes a token for the command line. */
    @Fails({"busy", "second-factor", "sign-in", "too-many-tries"})
    @Unconfirmed
    @PostMapping("/tokens")
    DeferredResult<AccessApi.Token> token(@RequestBody AccessApi.SignIn signIn, HttpServletRequest request) {
        var from = new From(networks.of(request), signIn.device(), request.getHeader(HttpHeaders.USER_AGENT));
        return signedIn(
                signIn,
                from,
                Kind.COMMAND_LINE,
                entered -> new AccessApi.Token(
                        entered.session().token(),
                        entered.session().endsAt(),
                        entered.device(),
                        entered.administrator().secondFactor()));
    }

    /** Who is signed in; nothing if nobody is. */
    @Answers({200, 204})
    @ForOneself
    @GetMapping("/session")
    ResponseEntity<AccessApi.Session> session(@AuthenticationPrincipal Object principal) {
        var who = SecurityConfiguration.signedIn();
        return who == null
                ? ResponseEntity.noContent().build()
                : ResponseEntity.ok(new AccessApi.Session(
                        who.login(), who.name(), who.role(), who.secondFactor(), who.setUpFirst()));
    }

    /** Ends the session. */
    @Answers(204)
    @Fails("session-not-found")
    @Unconfirmed
    @ForOneself
    @DeleteMapping("/session")
    ResponseEntity<Void> signOut() {
        var who = SecurityConfiguration.signedIn();
        sessions.end(who.administrator(), who.session());
        return ResponseEntity.noContent()
                .header(HttpHeaders.SET_COOKIE, cookie(SESSION, "", Duration.ZERO))
                .build();
    }

    /** Where one is signed in. */
    @ForOneself
    @GetMapping("/me/sessions")
    List<AccessApi.OwnSession> ownSessions() {
        var who = SecurityConfiguration.signedIn();
        return sessions.of(who.administrator(), who.session());
    }

    /** Ends one of one's own sessions or tokens. */
    @Fails("session-not-found")
    @Unconfirmed
    @ForOneself
    @DeleteMapping("/me/sessions/{id}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void endSession(@PathVariable UUID id) {
        sessions.end(SecurityConfiguration.signedIn().administrator(), id);
    }

    /** Sets one's own password; all other sessions end. */
    @Answers(204)
    @Fails({"busy", "password-length", "password-wrong"})
    @Unconfirmed
    @ForOneself
    @PutMapping("/me/password")
    DeferredResult<ResponseEntity<Void>> password(@RequestBody AccessApi.PasswordChange change) {
        var who = SecurityConfiguration.signedIn();
        return hashing.answer(Lane.KNOWN, () -> {
            administrators.changePassword(who.administrator(), change.before(), change.password(), who.session());
            return ResponseEntity.noContent().build();
        });
    }

    /** Shows again that it is oneself, before something dangerous. */
    @Answers(204)
    @Fails({"busy", "confirmation-wrong", "too-many-tries"})
    @Unconfirmed
    @ForOneself
    @PostMapping("/me/confirmation")
    DeferredResult<ResponseEntity<Void>> confirm(@RequestBody AccessApi.Confirmation confirmation) {
        var who = SecurityConfiguration.signedIn();
        return hashing.answer(Lane.KNOWN, () -> {
            signIns.confirm(who, confirmation);
            return ResponseEntity.noContent().build();
        });
    }

    /** Begins to set up a second factor. */
    @Fails("second-factor-exists")
    @ForOneself
    @PostMapping("/me/second-factor")
    @ResponseStatus(HttpStatus.CREATED)
    AccessApi.OfferedSecondFactor offerSecondFactor() {
        return seconds.offer(SecurityConfiguration.signedIn().administrator());
    }

    /** The app's first code; recovery codes are shown this once. */
    @Fails({"code-wrong", "second-factor-not-begun"})
    @Unconfirmed
    @ForOneself
    @PostMapping("/me/second-factor/confirmation")
    AccessApi.SecondFactorSet confirmSecondFactor(@RequestBody AccessApi.Confirmation confirmation) {
        var who = SecurityConfiguration.signedIn();
        var codes = seconds.confirm(who.administrator(), confirmation.code());
        sessions.confirmed(who.session());
        return new AccessApi.SecondFactorSet(codes);
    }

    /** Removes one's own second factor. */
    @Fails({"administrator-not-found", "own-second-factor"})
    @ForOneself
    @DeleteMapping("/me/second-factor")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void removeSecondFactor() {
        seconds.remove(SecurityConfiguration.signedIn().administrator());
    }

    /** Everybody who administers. */
    @GetMapping("/administrators")
    List<AccessApi.Administrator> all() {
        return administrators.all();
    }

    /** Makes another administrator. */
    @Answers(201)
    @Fails({
        "administrator-exists",
        "busy",
        "own-login-missing",
        "password-length",
        "scopes-for-staff",
        "sign-in-name",
        "unknown-role",
        "unknown-scopes"
    })
    @PostMapping("/administrators")
    DeferredResult<ResponseEntity<AccessApi.Administrator>> add(
            @RequestBody AccessApi.NewAdministrator wanted, @AuthenticationPrincipal String by) {
        return hashing.answer(
                Lane.KNOWN, () -> ResponseEntity.status(HttpStatus.CREATED).body(administrators.add(wanted, by)));
    }

    /** Removes one; everything of theirs ends at once. */
    @Fails({"administrator-not-found", "last-administrator"})
    @DeleteMapping("/administrators/{login}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void remove(@PathVariable String login, @AuthenticationPrincipal String by) {
        administrators.remove(login, by);
    }

    @Fails({"administrator-not-found", "last-administrator"})
    @PostMapping("/administrators/{login}/suspension")
    AccessApi.Administrator suspend(@PathVariable String login, @AuthenticationPrincipal String by) {
        return administrators.suspend(login, true, by);
    }

    @Fails({"administrator-not-found", "last-administrator"})
    @DeleteMapping("/administrators/{login}/suspension")
    AccessApi.Administrator resume(@PathVariable String login, @AuthenticationPrincipal String by) {
        return administrators.suspend(login, false, by);
    }

    /** Removes somebody else's lost second factor. */
    @Fails({"administrator-not-found", "own-second-factor"})
    @DeleteMapping("/administrators/{login}/second-factor")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void removeSecondFactor(@PathVariable String login, @AuthenticationPrincipal String by) {
        administrators.removeSecondFactor(login, by);
    }

    /** Makes the first administrator, from the service's own machine only. */
    @Answers(201)
    @Fails({
        "busy",
        "first-administrator-exists",
        "link-expired",
        "loopback-only",
        "own-login-missing",
        "password-length",
        "scopes-for-staff",
        "sign-in-name",
        "unknown-role",
        "unknown-scopes"
    })
    @Unconfirmed
    @PostMapping("/first-administrator")
    DeferredResult<ResponseEntity<AccessApi.Administrator>> first(
            @RequestBody AccessApi.FirstAdministrator wanted, HttpServletRequest request) throws UnknownHostException {
        if (!InetAddress.getByName(networks.of(request)).isLoopbackAddress()) {
            throw Problem.of("loopback-only");
        }
        if (!firstStart.redeem(wanted.token())) {
            throw Problem.of("link-expired");
        }
        return hashing.answer(Lane.STRANGERS, () -> {
            try {
                return ResponseEntity.status(HttpStatus.CREATED).body(administrators.first(wanted));
            } catch (Problem problem) {
                firstStart.giveBack(wanted.token());
                throw problem;
            }
        });
    }

    private static String cookie(String name, String value, Duration life) {
        return ResponseCookie.from(name, value)
                .httpOnly(true)
                .secure(true)
                .sameSite("Strict")
                .path("/")
                .maxAge(life)
                .build()
                .toString();
    }
}
