package dev.entente.service.verify.emaillink;

import dev.entente.core.verify.AnsweredElsewhere;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Verifier;
import dev.entente.core.verify.emaillink.EmailLinkMethod;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.verify.Awaited;
import dev.entente.service.verify.Awaited.Request;
import java.security.SecureRandom;
import java.util.UUID;
import org.springframework.context.annotation.Bean;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Links that were followed. To open one changes nothing, unless it is in the browser that asked: scanners open links, too. */
@Component
public class EmailLinks {
    /** Of the number that is typed where a link is opened elsewhere. */
    private static final int DIGITS = 2;

    private final Awaited awaited;
    private final ServiceSettings settings;

    EmailLinks(Awaited awaited, ServiceSettings settings) {
        this.awaited = awaited;
        this.settings = settings;
    }

    @Bean
    static Verifier emailLink(Awaited awaited, SecureRandom random) {
        return new AnsweredElsewhere(Method.of(EmailLinkMethod.LABEL), DIGITS, true, awaited, random);
    }

    /** What came of a link. */
    public enum Followed {
        /** The page that asked goes on. */
        AGREED,
        /** The number on the page that asked has to be typed. */
        NUMBER_WANTED,
        NUMBER_WRONG
    }

    /**
     * What came of a link.
     *
     * @param request what it was sent for
     */
    public record Outcome(Followed followed, Request request) {}

    /**
     * Follows a link.
     *
     * @param holds the attempt that the browser holds which opened it; null if it holds none
     * @param number as typed; null if nothing was
     * @throws Problem 410 if it was used, or is over
     */
    @Transactional
    public Outcome follow(String token, UUID holds, String number) {
        var request = awaited.linked(token, Method.of(EmailLinkMethod.LABEL))
                .orElseThrow(() -> Problem.of("link-over").with("url", settings.publicUrl()));
        if (request.attempt().equals(holds)) {
            awaited.agree(request, "the browser that asked", null);
            return new Outcome(Followed.AGREED, request);
        }
        if (number == null || number.isBlank()) {
            return new Outcome(Followed.NUMBER_WANTED, request);
        }
        if (request.shows(number)) {
            awaited.agree(request, "another browser", null);
            return new Outcome(Followed.AGREED, request);
        }
        awaited.wrong(request, "another browser", null);
        return new Outcome(Followed.NUMBER_WRONG, request);
    }
}
