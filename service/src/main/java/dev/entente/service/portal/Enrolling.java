package dev.entente.service.portal;

import dev.entente.core.verify.Method;
import dev.entente.core.verify.RecoveryCode;
import dev.entente.service.attempt.Attempts.Attempt;
import dev.entente.service.attempt.PersonNotices;
import dev.entente.service.enrolment.Enrolments;
import dev.entente.service.people.Addresses;
import dev.entente.service.people.People;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.wire.PortalApi;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** A person who has proved to be the one sets up how to be recognised, and is told of every change. */
@Component
@Transactional
class Enrolling {
    private final Enrolments enrolments;
    private final People people;
    private final ServiceSettings settings;
    private final PersonNotices notices;
    private final Addresses addresses;

    Enrolling(
            Enrolments enrolments,
            People people,
            ServiceSettings settings,
            PersonNotices notices,
            Addresses addresses) {
        this.enrolments = enrolments;
        this.people = people;
        this.settings = settings;
        this.notices = notices;
        this.addresses = addresses;
    }

    List<PortalApi.OwnMethod> list(Attempt attempt) {
        var person = attempt.person().orElseThrow();
        var all = new ArrayList<PortalApi.OwnMethod>();
        people.find(person)
                .flatMap(addresses::mail)
                .ifPresent(mail -> all.add(
                        new PortalApi.OwnMethod(null, Method.EMAIL_CODE.label(), covered(mail), null, null, null)));
        for (var one : enrolments.of(person)) {
            all.add(new PortalApi.OwnMethod(
                    one.id(),
                    one.method().label(),
                    one.label(),
                    one.since(),
                    one.lastUsed(),
                    one.method() == Method.RECOVERY_CODE ? one.left() : null));
        }
        return all;
    }

    PortalApi.OfferedApp offerApp(Attempt attempt, String label) {
        var person = people.find(attempt.person().orElseThrow()).orElseThrow();
        var offered = enrolments.offerApp(person.id(), label);
        return new PortalApi.OfferedApp(
                offered.enrolment(),
                offered.secret().base32(),
                offered.secret().uri(settings.organisation(), person.login()));
    }

    List<PortalApi.OwnMethod> confirmApp(Attempt attempt, UUID app, String code) {
        enrolments.confirmApp(attempt.person().orElseThrow(), app, code, by(attempt));
        notices.methodsChanged(attempt, "an authenticator app was added");
        return list(attempt);
    }

    PortalApi.RecoveryCodes newRecoveryCodes(Attempt attempt) {
        var codes = enrolments.newRecoveryCodes(attempt.person().orElseThrow(), by(attempt));
        notices.methodsChanged(attempt, "new recovery codes were made");
        return new PortalApi.RecoveryCodes(
                codes.stream().map(RecoveryCode::spaced).toList());
    }

    List<PortalApi.OwnMethod> remove(Attempt attempt, UUID enrolment) {
        var removed = enrolments.remove(attempt.person().orElseThrow(), enrolment, by(attempt));
        notices.methodsChanged(attempt, removed.label() + " was removed");
        return list(attempt);
    }

    private static Enrolments.By by(Attempt attempt) {
        return new Enrolments.By(attempt.id(), attempt.revision(), null);
    }

    /** An address to recognise, without telling it to whoever looks over a shoulder. */
    private static String covered(String mail) {
        var at = mail.lastIndexOf('@');
        return at < 1 ? "…" : mail.charAt(0) + "…" + mail.substring(at);
    }
}
