package dev.entente.service.verify.push;

import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Verifier;
import dev.entente.core.verify.push.DeviceDocuments;
import dev.entente.core.verify.push.PushMethod;
import dev.entente.core.verify.push.PushVerifier;
import dev.entente.service.people.People;
import dev.entente.service.people.Person;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.service.verify.Enroller;
import dev.entente.service.verify.EnrolmentTable;
import dev.entente.service.verify.Enrolments;
import dev.entente.wire.DeviceApi;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.SecureRandom;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.context.annotation.Bean;
import org.springframework.http.HttpStatus;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.json.JsonMapper;

/** Registered devices and what they are asked. */
@Component
class PushDevices implements Enroller, PushVerifier.Store {
    private static final int MOST = 5;
    private static final int WORD = 24;
    /** A device that was told so many wrong numbers for one request is not asked again. */
    private static final int WRONG = 3;

    private static final Duration KEPT = Duration.ofDays(1);

    private final Session database;
    private final EnrolmentTable enrolments;
    private final People people;
    private final KeyRing keys;
    private final ServiceSettings settings;
    private final ApplicationEventPublisher publisher;
    private final SecureRandom random;
    private final InstantSource clock;
    private final JsonMapper json;

    PushDevices(
            Session database,
            EnrolmentTable enrolments,
            People people,
            KeyRing keys,
            ServiceSettings settings,
            ApplicationEventPublisher publisher,
            SecureRandom random,
            InstantSource clock,
            JsonMapper json) {
        this.database = database;
        this.enrolments = enrolments;
        this.people = people;
        this.keys = keys;
        this.settings = settings;
        this.publisher = publisher;
        this.random = random;
        this.clock = clock;
        this.json = json;
    }

    @Bean
    static Verifier push(PushDevices store, SecureRandom random) {
        return new PushVerifier(store, random);
    }

    @Override
    public Method method() {
        return Method.of(PushMethod.LABEL);
    }

    @Override
    public int most() {
        return MOST;
    }

    @Override
    public String usualName() {
        return "Phone";
    }

    /** Its only part is {@code link}, which the device opens to register; good for once. */
    @Override
    public Offered offer(UUID id, UUID person, String login) {
        var bytes = new byte[WORD];
        random.nextBytes(bytes);
        var word = Base64.getUrlEncoder().withoutPadding().encodeToString(bytes);
        Sql.change(database, "INSERT INTO push_device (enrolment, word_hash) VALUES (:id, :hash)")
                .setParameter("id", id)
                .setParameter("hash", keys.blind("device", word))
                .executeUpdate();
        // What stands behind # is sent to no server and written to no log.
        return new Offered(
                false,
                Map.of("link", settings.publicUrl().resolve("/api/v1/devices/registrations") + "#" + word),
                List.of());
    }

    private record Waiting(UUID enrolment) {}

    /** A device brings its key, once. */
    @Transactional
    public DeviceApi.Registered register(DeviceApi.Registration registration) {
        var waiting = Sql.rows(database, """
                        UPDATE push_device SET word_hash = NULL, public_key = cast(:key AS jsonb) WHERE word_hash = :hash
                        RETURNING enrolment""", Waiting.class)
                .setParameter("key", json.writeValueAsString(registration.key()))
                .setParameter("hash", keys.blind("device", registration.word() == null ? "" : registration.word()))
                .getResultStream()
                .findFirst()
                .orElseThrow(() -> Problem.of(
                        HttpStatus.GONE,
                        "link-used-up",
                        "This link was used before, or isn't valid any more. Show a new one on the page."));
        return new DeviceApi.Registered(
                waiting.enrolment(),
                DeviceDocuments.check(waiting.enrolment(), registration.key()),
                settings.organisation());
    }

    @Override
    public void confirm(UUID id, UUID person, Answer answer) {
        var key = key(id);
        if (key.isEmpty()) {
            throw Problem.invalid(
                    "device-missing", "The device hasn't opened the link yet. Scan the image with it first.");
        }
        if (!MessageDigest.isEqual(
                DeviceDocuments.check(id, key.get()).getBytes(StandardCharsets.US_ASCII),
                answer.typed().replaceAll("\\s", "").getBytes(StandardCharsets.UTF_8))) {
            throw Problem.invalid("code-wrong", "Those aren't the six digits that the device shows. Check them.");
        }
    }

    @Override
    public void forget(UUID id) {
        Sql.change(database, "DELETE FROM push_device WHERE enrolment = :id")
                .setParameter("id", id)
                .executeUpdate();
    }

    private Optional<EcKey> key(UUID device) {
        return Sql.values(
                        database,
                        "SELECT cast(public_key AS text) FROM push_device WHERE enrolment = :id AND public_key IS NOT NULL",
                        String.class)
                .setParameter("id", device)
                .getResultStream()
                .findFirst()
                .map(text -> json.readValue(text, EcKey.class));
    }

    @Override
    public void ask(Verifier.Ring ring, String number) {
        Sql.change(database, """
                        INSERT INTO push_request (challenge, person, shown, attempt_key, action, network, created_at, expires_at)
                        VALUES (:challenge, :person, :number, :key, :action, :network, :now, :expires)""")
                .setParameter("challenge", ring.challenge())
                .setParameter("person", ring.person())
                .setParameter("number", number)
                .setParameter("key", ring.key())
                .setParameter("action", ring.action())
                .setParameter("network", ring.network())
                .setParameter("now", clock.instant())
                .setParameter("expires", ring.expires())
                .executeUpdate();
    }

    private record Request(
            UUID challenge, String attemptKey, String action, String network, Instant createdAt, Instant expiresAt) {}

    /** The device's owner; a device that does not count, or that there is not, has none. */
    private UUID owner(UUID device) {
        return enrolments.owner(device, method()).orElseThrow(PushDevices::refused);
    }

    private static Problem refused() {
        return Problem.of(
                HttpStatus.UNAUTHORIZED,
                "device-unknown",
                "This device isn't registered any more, its clock is off by more than five minutes, or another key signed.");
    }

    /** What waits for a device. */
    @Transactional(readOnly = true)
    public List<DeviceApi.Request> waiting(UUID device, String signed) {
        var key = key(device).orElseThrow(PushDevices::refused);
        try {
            DeviceDocuments.look(signed, device, key, clock.instant());
        } catch (InvalidDocument e) {
            throw refused();
        }
        var person = owner(device);
        var login = people.find(person).map(Person::login).orElse("");
        return Sql.rows(database, """
                        SELECT challenge, attempt_key, action, network, created_at, expires_at FROM push_request
                        WHERE person = :person AND verdict IS NULL AND expires_at > :now ORDER BY created_at LIMIT 5""", Request.class)
                .setParameter("person", person)
                .setParameter("now", clock.instant())
                .getResultStream()
                .map(r -> new DeviceApi.Request(
                        r.challenge(),
                        r.attemptKey(),
                        settings.organisation(),
                        login,
                        r.action(),
                        r.network(),
                        r.createdAt(),
                        r.expiresAt()))
                .toList();
    }

    private record Asked(UUID person, String shown, String attemptKey, int wrong) {}

    /**
     * A device answers.
     *
     * @return false if the number was wrong
     */
    @Transactional
    public boolean answer(UUID device, String signed) {
        var key = key(device).orElseThrow(PushDevices::refused);
        DeviceDocuments.Answer answer;
        try {
            answer = DeviceDocuments.answer(signed, device, key, clock.instant());
        } catch (InvalidDocument e) {
            throw refused();
        }
        var person = owner(device);
        var asked = Sql.rows(database, """
                        SELECT person, shown, attempt_key, wrong FROM push_request WHERE challenge = :id AND person = :person
                        AND verdict IS NULL AND expires_at > :now FOR UPDATE""", Asked.class)
                .setParameter("id", answer.request())
                .setParameter("person", person)
                .setParameter("now", clock.instant())
                .getResultStream()
                .findFirst()
                .orElseThrow(() -> Problem.conflict(
                        "request-over", "This request was answered already, or it's too late for it."));
        if ("deny".equals(answer.verdict())) {
            end(answer, "denied", device, signed);
            publisher.publishEvent(
                    new Enrolments.DeniedElsewhere(answer.request(), person, "denied on a registered device"));
            return true;
        }
        var right = "approve".equals(answer.verdict())
                && asked.attemptKey().equals(answer.key())
                && answer.number() != null
                && MessageDigest.isEqual(
                        asked.shown().getBytes(StandardCharsets.US_ASCII),
                        answer.number().getBytes(StandardCharsets.UTF_8));
        if (right) {
            end(answer, "approved", device, signed);
            enrolments.used(device);
            return true;
        }
        wrong(answer, asked, device, signed);
        return false;
    }

    private void wrong(DeviceDocuments.Answer answer, Asked asked, UUID device, String signed) {
        Sql.change(database, "UPDATE push_request SET wrong = wrong + 1 WHERE challenge = :id")
                .setParameter("id", answer.request())
                .executeUpdate();
        if (asked.wrong() + 1 >= WRONG) {
            end(answer, "wrong-number", device, signed);
            publisher.publishEvent(
                    new Enrolments.DeniedElsewhere(answer.request(), asked.person(), "answered with wrong numbers"));
        }
    }

    private void end(DeviceDocuments.Answer answer, String verdict, UUID device, String signed) {
        Sql.change(database, """
                        UPDATE push_request SET verdict = :verdict, device = :device, signed = :signed
                        WHERE challenge = :id""")
                .setParameter("verdict", verdict)
                .setParameter("device", device)
                .setParameter("signed", signed)
                .setParameter("id", answer.request())
                .executeUpdate();
    }

    @Override
    public boolean approved(UUID challenge) {
        return !Sql.values(
                        database,
                        "SELECT 1 FROM push_request WHERE challenge = :id AND verdict = 'approved' AND NOT used",
                        Integer.class)
                .setParameter("id", challenge)
                .getResultList()
                .isEmpty();
    }

    @Override
    public boolean take(UUID challenge, UUID person) {
        return Sql.change(database, """
                                UPDATE push_request SET used = true WHERE challenge = :id AND person = :person
                                AND verdict = 'approved' AND NOT used""")
                        .setParameter("id", challenge)
                        .setParameter("person", person)
                        .executeUpdate()
                == 1;
    }

    @Scheduled(fixedDelay = 600_000)
    @Transactional
    void purge() {
        Sql.change(database, "DELETE FROM push_request WHERE expires_at < :before")
                .setParameter("before", clock.instant().minus(KEPT))
                .executeUpdate();
    }
}
