package dev.entente.service.verify.push;

import dev.entente.core.seal.Credential;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.AnsweredElsewhere;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Verifier;
import dev.entente.core.verify.push.DeviceDocuments;
import dev.entente.core.verify.push.PushMethod;
import dev.entente.service.people.People;
import dev.entente.service.people.Person;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.service.verify.Awaited;
import dev.entente.service.verify.Enroller;
import dev.entente.service.verify.EnrolmentTable;
import dev.entente.wire.DeviceApi;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.SecureRandom;
import java.time.InstantSource;
import java.util.Base64;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.context.annotation.Bean;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.json.JsonMapper;

/** Registered devices, what waits for them, and what they answer. */
@Component
class PushDevices implements Enroller {
    private static final int MOST = 5;
    private static final int WORD = 24;
    /** Of the number that is typed into the device. */
    private static final int DIGITS = 2;

    private final Session database;
    private final EnrolmentTable enrolments;
    private final People people;
    private final KeyRing keys;
    private final ServiceSettings settings;
    private final Awaited awaited;
    private final SecureRandom random;
    private final InstantSource clock;
    private final JsonMapper json;

    PushDevices(
            Session database,
            EnrolmentTable enrolments,
            People people,
            KeyRing keys,
            ServiceSettings settings,
            Awaited awaited,
            SecureRandom random,
            InstantSource clock,
            JsonMapper json) {
        this.database = database;
        this.enrolments = enrolments;
        this.people = people;
        this.keys = keys;
        this.settings = settings;
        this.awaited = awaited;
        this.random = random;
        this.clock = clock;
        this.json = json;
    }

    @Bean
    static Verifier push(Awaited awaited, SecureRandom random) {
        return new AnsweredElsewhere(Method.of(PushMethod.LABEL), DIGITS, true, awaited, random);
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
                .orElseThrow(() -> Problem.of("link-used-up"));
        return new DeviceApi.Registered(
                waiting.enrolment(),
                DeviceDocuments.check(waiting.enrolment(), registration.key()),
                settings.organisation());
    }

    @Override
    public void confirm(UUID id, UUID person, Answer answer) {
        var key = key(id);
        if (key.isEmpty()) {
            throw Problem.of("device-missing");
        }
        if (!MessageDigest.isEqual(
                DeviceDocuments.check(id, key.get()).getBytes(StandardCharsets.US_ASCII),
                answer.typed().replaceAll("\\s", "").getBytes(StandardCharsets.UTF_8))) {
            throw Problem.of("code-wrong/device");
        }
    }

    @Override
    public void forget(UUID id) {
        Sql.change(database, "DELETE FROM push_device WHERE enrolment = :id")
                .setParameter("id", id)
                .executeUpdate();
    }

    @Override
    public Map<UUID, Credential> credentials(Collection<UUID> ids) {
        return Sql.rows(
                        database,
                        "SELECT enrolment, cast(public_key AS text) AS key FROM push_device"
                                + " WHERE enrolment = ANY (:ids) AND public_key IS NOT NULL",
                        Registered.class)
                .setParameter("ids", ids.toArray(UUID[]::new))
                .getResultStream()
                .collect(Collectors.toMap(
                        Registered::enrolment,
                        one -> Credential.device(one.enrolment().toString(), json.readValue(one.key(), EcKey.class))));
    }

    private record Registered(UUID enrolment, String key) {}

    private Optional<EcKey> key(UUID device) {
        return Optional.ofNullable(credentials(List.of(device)).get(device)).map(Credential::key);
    }

    /** The device's owner; a device that does not count, or that there is not, has none. */
    private UUID owner(UUID device) {
        return enrolments.owner(device, method()).orElseThrow(PushDevices::refused);
    }

    private static Problem refused() {
        return Problem.of("device-unknown");
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
        return awaited.of(person, method()).stream()
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
        var asked = awaited.find(answer.request(), method())
                .filter(r -> r.person().equals(person))
                .orElseThrow(() -> Problem.of("request-over/device"));
        if ("deny".equals(answer.verdict())) {
            awaited.deny(asked, device.toString(), signed, "denied on a registered device");
            return true;
        }
        if ("approve".equals(answer.verdict())
                && asked.attemptKey().equals(answer.key())
                && asked.shows(answer.number())) {
            awaited.agree(asked, device.toString(), signed);
            enrolments.used(device);
            return true;
        }
        awaited.wrong(asked, device.toString(), signed);
        return false;
    }
}
