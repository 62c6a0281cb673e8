package dev.entente.service.portal;

import dev.entente.service.attempt.Attempts;
import dev.entente.service.attempt.Attempts.Attempt;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Problem;
import dev.entente.service.verify.emaillink.EmailLinks;
import dev.entente.service.verify.emaillink.EmailLinks.Followed;
import dev.entente.wire.PortalApi;
import org.springframework.web.bind.annotation.CookieValue;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** Links in mails that let an attempt go on. */
@RestController
@RequestMapping("/api/v1/portal/links")
class LinkController {
    private final EmailLinks links;
    private final Attempts attempts;

    LinkController(EmailLinks links, Attempts attempts) {
        this.links = links;
        this.attempts = attempts;
    }

    /** Follows a link; in the browser that asked the attempt goes on, elsewhere it takes the number shown there. */
    @Fails({"link-over", "number-wrong"})
    @PostMapping
    PortalApi.FollowedLink follow(
            @RequestBody PortalApi.Link link,
            @CookieValue(name = PortalController.COOKIE, required = false) String cookie) {
        var holds = attempts.held(cookie).map(Attempt::id).orElse(null);
        var outcome = links.follow(link.token(), holds, link.number());
        if (outcome.followed() == Followed.NUMBER_WRONG) {
            throw Problem.of("number-wrong/link");
        }
        var request = outcome.request();
        return new PortalApi.FollowedLink(
                outcome.followed() == Followed.AGREED,
                request.attempt().equals(holds),
                request.action(),
                request.network(),
                request.createdAt());
    }
}
