package dev.entente.service.verify.appcode;

import dev.entente.core.verify.Method;
import dev.entente.core.verify.appcode.AppCode;
import dev.entente.core.verify.appcode.AppCodeMethod;
import dev.entente.service.approval.Approvals;
import dev.entente.service.people.People;
import dev.entente.service.people.Person;
import dev.entente.service.platform.Answers;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Problem;
import dev.entente.service.verify.BroughtIn;
import dev.entente.service.verify.Enrolments;
import dev.entente.wire.TokenApi;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import org.apache.commons.codec.binary.Base32;
import org.springframework.context.event.EventListener;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.json.JsonMapper;

/**
 * Brings in tokens that people have already. Whoever does could bring in one of their own for somebody, so it waits for another
 * administrator where weakenings do, and everybody is told of theirs.
 */
@RestController
@RequestMapping("/api/v1/app-tokens")
class TokenController {
    private static final String KIND = "app-tokens";
    private static final int LONGEST_SERIAL = 60;

    private final AppCodes codes;
    private final Enrolments enrolments;
    private final People people;
    private final BroughtIn imports;
    private final JsonMapper json;

    TokenController(AppCodes codes, Enrolments enrolments, People people, BroughtIn imports, JsonMapper json) {
        this.codes = codes;
        this.enrolments = enrolments;
        this.people = people;
        this.imports = imports;
        this.json = json;
    }

    /** Brings them in; 202 if that waits for another administrator. What can't be used is told one by one, and the rest goes on. */
    @Answers({200, 202})
    @Fails("tokens-number")
    @PostMapping
    @Transactional
    public ResponseEntity<TokenApi.Imported> bring(
            @RequestBody TokenApi.Import wanted, @AuthenticationPrincipal String administrator) {
        if (wanted.tokens() == null
                || wanted.tokens().isEmpty()
                || wanted.tokens().size() > TokenApi.MOST) {
            throw Problem.of("tokens-number").with("most", TokenApi.MOST);
        }
        var brought = imports.bring(
                KIND,
                wanted.tokens(),
                TokenApi.AppToken::serial,
                "its serial number appears twice",
                this::wrong,
                TokenController::says,
                TokenApi.Import::new,
                administrator);
        return ResponseEntity.status(brought.made() ? HttpStatus.OK : HttpStatus.ACCEPTED)
                .body(new TokenApi.Imported(brought.each().stream()
                        .map(o ->
                                new TokenApi.Outcome(o.item().serial(), o.item().login(), o.state(), o.why()))
                        .toList()));
    }

    private static String says(List<TokenApi.AppToken> tokens) {
        return tokens.size() + (tokens.size() == 1 ? " token is" : " tokens are") + " imported, for "
                + BroughtIn.named(
                        tokens.stream().map(TokenApi.AppToken::login).distinct().toList())
                + ".";
    }

    /** Why a token can't be used, to follow "refused". */
    private Optional<String> wrong(TokenApi.AppToken token) {
        if (token.serial() == null || !token.serial().matches("[\\w.:/ -]{1," + LONGEST_SERIAL + "}")) {
            return Optional.of("a serial number has 1 to " + LONGEST_SERIAL + " letters, digits, dashes and dots");
        }
        if (owner(token).isEmpty()) {
            return Optional.of("no one signs in as " + token.login());
        }
        if (codes.known(token.serial())) {
            return Optional.of("a token with this serial number is there already");
        }
        try {
            secret(token);
            return Optional.empty();
        } catch (IllegalArgumentException e) {
            return Optional.of(e.getMessage());
        }
    }

    private Optional<Person> owner(TokenApi.AppToken token) {
        return token.login() == null ? Optional.empty() : people.byLogin(token.login());
    }

    private static AppCode secret(TokenApi.AppToken token) {
        var plain = token.secret() == null
                ? ""
                : token.secret().replaceAll("[\\s=-]", "").toUpperCase(Locale.ROOT);
        if (!plain.matches("[A-Z2-7]+")) {
            throw new IllegalArgumentException("its secret isn't Base32");
        }
        return AppCode.of(
                new Base32().decode(plain), new AppCode.Kind(token.algorithm(), token.digits(), token.seconds()));
    }

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void make(Approvals.Approved change) {
        if (!change.kind().equals(KIND)) {
            return;
        }
        for (var token : json.readValue(change.wanted(), TokenApi.Import.class).tokens()) {
            // Things may have changed while it waited.
            var owner = owner(token);
            if (owner.isPresent() && !codes.known(token.serial())) {
                enrolments
                        .give(
                                owner.get().id(),
                                Method.of(AppCodeMethod.LABEL),
                                "Token " + token.serial(),
                                change.author())
                        .ifPresent(id -> codes.bring(id, owner.get().id(), secret(token), token.serial()));
            }
        }
        change.handled().set(true);
    }
}
