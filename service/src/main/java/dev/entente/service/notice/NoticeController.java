package dev.entente.service.notice;

import dev.entente.service.platform.Fails;
import dev.entente.service.platform.ForOneself;
import dev.entente.service.platform.Unconfirmed;
import dev.entente.wire.NotificationApi;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** What the administrator who is signed in is told of. */
@ForOneself
@RestController
@RequestMapping("/api/v1/me/notices")
class NoticeController {
    private final Notices notices;

    NoticeController(Notices notices) {
        this.notices = notices;
    }

    /** What they are told of, where and when. */
    @GetMapping
    NotificationApi.Notices notices(@AuthenticationPrincipal String administrator) {
        return notices.of(administrator);
    }

    /** Chooses what to be told of. */
    @Fails({"notices-address", "notices-concern", "notices-hour", "notices-pace"})
    @Unconfirmed
    @PutMapping
    NotificationApi.Notices choose(
            @RequestBody NotificationApi.NoticesWanted wanted, @AuthenticationPrincipal String administrator) {
        return notices.choose(wanted, administrator);
    }
}
