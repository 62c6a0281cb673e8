package dev.entente.service.notification;

import dev.entente.wire.MailApi;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;

/** Channels over HTTP. */
@RestController
@RequestMapping("/api/v1/channels")
class ChannelController {
    private final MailChannel mail;

    ChannelController(MailChannel mail) {
        this.mail = mail;
    }

    /** How mail is sent, and whether it works. */
    @GetMapping("/mail")
    MailApi.MailChannel mail() {
        return mail.shown();
    }

    /** Sets how mail is sent; 202 if that waits for another administrator. */
    @PutMapping("/mail")
    ResponseEntity<MailApi.MailChannel> set(
            @RequestBody MailApi.MailSettings settings, @AuthenticationPrincipal String administrator) {
        var made = mail.set(settings, administrator);
        return ResponseEntity.status(made ? HttpStatus.OK : HttpStatus.ACCEPTED).body(mail.shown());
    }

    /** Sends a test message; the answer holds the whole conversation. */
    @PostMapping("/mail/test")
    MailApi.MailTried test(@RequestBody MailApi.MailTest test, @AuthenticationPrincipal String administrator) {
        return mail.test(test.address(), administrator);
    }
}
