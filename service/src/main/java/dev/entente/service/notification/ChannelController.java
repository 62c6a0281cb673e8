package dev.entente.service.notification;

import dev.entente.service.platform.Answers;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Unconfirmed;
import dev.entente.wire.MailApi;
import dev.entente.wire.PhoneApi;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Channels over HTTP. */
@RestController
@RequestMapping("/api/v1/channels")
class ChannelController {
    private final MailChannel mail;
    private final PhoneChannel phone;
    private final Bounces bounces;

    ChannelController(MailChannel mail, PhoneChannel phone, Bounces bounces) {
        this.bounces = bounces;
        this.mail = mail;
        this.phone = phone;
    }

    /** Through whom telephones are reached, whether it works, and what was spent. */
    @GetMapping("/phone")
    PhoneApi.PhoneChannel phone() {
        return phone.shown();
    }

    /** Sets through whom telephones are reached; 202 if that waits for another administrator. */
    @Answers({200, 202})
    @Fails({
        "bounce-mailbox",
        "bounce-mailbox-not-found",
        "bounce-password",
        "gateway-name",
        "gateway-price",
        "gateway-secret",
        "gateway-sends",
        "gateway-url",
        "mail-administrators",
        "mail-host",
        "mail-pace",
        "mail-password-missing",
        "mail-password-needs-tls",
        "mail-port",
        "mail-security",
        "mail-selector",
        "mail-sender",
        "phone-limit",
        "too-many-gateways"
    })
    @PutMapping("/phone")
    ResponseEntity<PhoneApi.PhoneChannel> set(
            @RequestBody PhoneApi.PhoneSettings settings, @AuthenticationPrincipal String administrator) {
        var made = phone.set(settings, administrator);
        return ResponseEntity.status(made ? HttpStatus.OK : HttpStatus.ACCEPTED).body(phone.shown());
    }

    /** Sends a test message, or has a test call made. */
    @Fails({"gateway-not-found", "gateway-sends", "mail-test-address", "phone-test-number"})
    @Unconfirmed
    @PostMapping("/phone/test")
    PhoneApi.PhoneTried test(@RequestBody PhoneApi.PhoneTest test, @AuthenticationPrincipal String administrator) {
        return phone.test(test, administrator);
    }

    /** How mail is sent, and whether it works. */
    @GetMapping("/mail")
    MailApi.MailChannel mail() {
        return mail.shown();
    }

    /** Sets how mail is sent; 202 if that waits for another administrator. */
    @Answers({200, 202})
    @Fails({
        "bounce-mailbox",
        "bounce-mailbox-not-found",
        "bounce-password",
        "gateway-name",
        "gateway-price",
        "gateway-secret",
        "gateway-sends",
        "gateway-url",
        "mail-administrators",
        "mail-host",
        "mail-pace",
        "mail-password-missing",
        "mail-password-needs-tls",
        "mail-port",
        "mail-security",
        "mail-selector",
        "mail-sender",
        "phone-limit",
        "too-many-gateways"
    })
    @PutMapping("/mail")
    ResponseEntity<MailApi.MailChannel> set(
            @RequestBody MailApi.MailSettings settings, @AuthenticationPrincipal String administrator) {
        var made = mail.set(settings, administrator);
        return ResponseEntity.status(made ? HttpStatus.OK : HttpStatus.ACCEPTED).body(mail.shown());
    }

    /** Sends a test message; the answer holds the whole conversation. */
    @Fails({"gateway-not-found", "gateway-sends", "mail-test-address", "phone-test-number"})
    @Unconfirmed
    @PostMapping("/mail/test")
    MailApi.MailTried test(@RequestBody MailApi.MailTest test, @AuthenticationPrincipal String administrator) {
        return mail.test(test.address(), administrator);
    }

    /** The mailbox from which is read what comes back, and whether it can be read. */
    @Fails("bounce-mailbox-not-found")
    @GetMapping("/mail/bounces")
    MailApi.BounceMailbox bounces() {
        return bounces.shown();
    }

    /** Names the mailbox from which is read what comes back: that of the sender's address. */
    @Fails({
        "bounce-mailbox",
        "bounce-mailbox-not-allowed",
        "bounce-mailbox-not-found",
        "bounce-password",
        "gateway-name",
        "gateway-price",
        "gateway-secret",
        "gateway-sends",
        "gateway-url",
        "mail-administrators",
        "mail-host",
        "mail-pace",
        "mail-password-missing",
        "mail-password-needs-tls",
        "mail-port",
        "mail-security",
        "mail-selector",
        "mail-sender",
        "phone-limit",
        "too-many-gateways"
    })
    @Answers(
            value = {200, 202},
            empty = 202)
    @PutMapping("/mail/bounces")
    ResponseEntity<MailApi.BounceMailbox> set(
            @RequestBody MailApi.BounceSettings settings, @AuthenticationPrincipal String administrator) {
        return bounces.set(settings, administrator)
                ? ResponseEntity.ok(bounces.shown())
                : ResponseEntity.accepted().build();
    }

    /** What comes back isn't read any more. */
    @DeleteMapping("/mail/bounces")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void removeBounces(@AuthenticationPrincipal String administrator) {
        bounces.remove(administrator);
    }
}
