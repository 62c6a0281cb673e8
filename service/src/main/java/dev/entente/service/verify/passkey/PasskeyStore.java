package dev.entente.service.verify.passkey;

import dev.entente.core.seal.Credential;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.passkey.AuthenticatorModels;
import dev.entente.core.verify.passkey.PasskeyMethod;
import dev.entente.core.verify.passkey.PasskeyVerifier;
import dev.entente.core.verify.passkey.Passkeys;
import dev.entente.core.verify.passkey.Passkeys.Passkey;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.service.policy.Configurations;
import dev.entente.service.verify.Enroller;
import dev.entente.service.verify.EnrolmentTable;
import dev.entente.service.verify.Enrolments;
import java.security.MessageDigest;
import java.security.SecureRandom;
import java.util.Base64;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.context.ApplicationEventPublisher;

/** What people's devices and security keys registered for one method, and how they register for it. */
public class PasskeyStore implements Enroller, PasskeyVerifier.Store {
    private static final int MOST = 10;
    private static final int NONCE = 32;
    private static final Base64.Encoder TEXT = Base64.getUrlEncoder().withoutPadding();

    /**
     * What differs from one method to another.
     *
     * @param unlocked whether the authenticator has to be unlocked each time, and to remember whom it is for, so that it can be asked
     *     for without a name
     */
    public record Kind(String method, String usualName, boolean unlocked) {}

    private final Kind kind;
    private final Session database;
    private final EnrolmentTable enrolments;
    private final Passkeys passkeys;
    private final KeyRing keys;
    private final ApplicationEventPublisher publisher;
    private final ServiceSettings settings;
    private final Configurations configurations;
    private final SecureRandom random;
    private final Passkey nobodys;

    PasskeyStore(
            Kind kind,
            Session database,
            EnrolmentTable enrolments,
            Passkeys passkeys,
            KeyRing keys,
            ApplicationEventPublisher publisher,
            ServiceSettings settings,
            Configurations configurations,
            SecureRandom random) {
        this.kind = kind;
        this.database = database;
        this.enrolments = enrolments;
        this.passkeys = kind.unlocked() ? passkeys : passkeys.touched();
        this.keys = keys;
        this.publisher = publisher;
        this.settings = settings;
        this.configurations = configurations;
        this.random = random;
        this.nobodys = passkeys.nobodys();
    }

    /** Who judges assertions by what is kept here. */
    public PasskeyVerifier judge() {
        return new PasskeyVerifier(passkeys, this, random);
    }

    @Override
    public Method method() {
        return Method.of(kind.method());
    }

    @Override
    public int most() {
        return MOST;
    }

    @Override
    public String usualName() {
        return kind.usualName();
    }

    /**
     * Its parts are what PublicKeyCredentialCreationOptions (WebAuthn level 2, section 5.4) needs: {@code challenge}, {@code user}
     * and {@code exclude} (base64url, separated by spaces), {@code relyingParty}, {@code organisation}, {@code login},
     * {@code residentKey}, {@code userVerification}, {@code attachment} (empty for any), {@code attestation}, {@code algorithms} (separated by spaces).
     */
    @Override
    public Offered offer(UUID id, UUID person, String login) {
        var challenge = new byte[NONCE];
        random.nextBytes(challenge);
        Sql.change(database, "INSERT INTO passkey (enrolment, challenge) VALUES (:id, :challenge)")
                .setParameter("id", id)
                .setParameter("challenge", challenge)
                .executeUpdate();
        return new Offered(
                false,
                Map.ofEntries(
                        Map.entry("challenge", TEXT.encodeToString(challenge)),
                        Map.entry("user", TEXT.encodeToString(handle(person))),
                        Map.entry("exclude", registered(person)),
                        Map.entry("relyingParty", passkeys.relyingParty()),
                        Map.entry("organisation", settings.organisation()),
                        Map.entry("login", login),
                        Map.entry("residentKey", kind.unlocked() ? "required" : "discouraged"),
                        // What only signs when it is touched is a key of its own, not the computer that it is plugged
                        // into.
                        Map.entry("attachment", kind.unlocked() ? "" : "cross-platform"),
                        Map.entry("userVerification", kind.unlocked() ? "required" : "discouraged"),
                        Map.entry("attestation", taken().asked() ? "direct" : "none"),
                        Map.entry(
                                "algorithms",
                                Passkeys.algorithms().stream()
                                        .map(String::valueOf)
                                        .collect(Collectors.joining(" ")))),
                List.of());
    }

    private AuthenticatorModels taken() {
        if (method().ownSettings().isEmpty()) {
            return AuthenticatorModels.ANY;
        }
        var settings = configurations.current().methods().get(method());
        return new AuthenticatorModels(settings.own(PasskeyMethod.AUTHENTICATORS), settings.own(PasskeyMethod.ROOTS));
    }

    /** What an authenticator remembers a person by: says nothing about who it is. */
    private byte[] handle(UUID person) {
        return keys.blind("passkey handle", person.toString());
    }

    /** The answer's only part is {@code credential}: RegistrationResponseJSON. */
    @Override
    public void confirm(UUID id, UUID person, Answer answer) {
        var challenge = Sql.values(
                        database,
                        "SELECT challenge FROM passkey WHERE enrolment = :id AND challenge IS NOT NULL",
                        byte[].class)
                .setParameter("id", id)
                .getSingleResult();
        Passkey made;
        try {
            made = passkeys.register(answer.parts().getOrDefault("credential", ""), challenge, taken());
        } catch (Passkeys.Refused e) {
            if (e.otherModel()) {
                throw Problem.of("passkey-not-taken");
            }
            throw Problem.of("passkey-refused");
        }
        var kept = Sql.change(database, """
                        UPDATE passkey SET challenge = NULL, credential_id = :credential, data = :data, counter = :counter,
                            synced = :synced
                        WHERE enrolment = :id AND NOT EXISTS (SELECT FROM passkey WHERE credential_id = :credential)""")
                .setParameter("id", id)
                .setParameter("credential", made.id())
                .setParameter("data", made.data())
                .setParameter("counter", made.counter())
                .setParameter("synced", made.synced())
                .executeUpdate();
        if (kept == 0) {
            throw Problem.of("passkey-known");
        }
    }

    @Override
    public void forget(UUID id) {
        Sql.change(database, "DELETE FROM passkey WHERE enrolment = :id")
                .setParameter("id", id)
                .executeUpdate();
    }

    @Override
    public Map<UUID, Credential> credentials(Collection<UUID> ids) {
        // Stewards believe in what was unlocked alone.
        if (!kind.unlocked()) {
            return Map.of();
        }
        var url = settings.publicUrl();
        return Sql.rows(database, """
                        SELECT enrolment, credential_id, data, counter, synced FROM passkey
                        WHERE enrolment = ANY (:ids) AND credential_id IS NOT NULL""", Stored.class)
                .setParameter("ids", ids.toArray(UUID[]::new))
                .getResultStream()
                .collect(Collectors.toMap(
                        Stored::enrolment,
                        k -> Credential.passkey(
                                TEXT.encodeToString(k.credentialId()),
                                TEXT.encodeToString(k.data()),
                                url.getScheme() + "://" + url.getAuthority(),
                                passkeys.relyingParty(),
                                k.synced())));
    }

    private record Stored(UUID enrolment, byte[] credentialId, byte[] data, long counter, boolean synced) {
        Passkey passkey() {
            return new Passkey(credentialId, data, counter, synced);
        }
    }

    private List<Stored> stored(UUID person) {
        var ids = enrolments.of(person, method());
        return ids.isEmpty()
                ? List.of()
                : Sql.rows(database, """
                        SELECT enrolment, credential_id, data, counter, synced FROM passkey
                        WHERE enrolment IN (:ids) AND credential_id IS NOT NULL""", Stored.class).setParameter("ids", ids).getResultList();
    }

    /** Ids of those that a person has. */
    public List<byte[]> of(UUID person) {
        return stored(person).stream().map(Stored::credentialId).toList();
    }

    /** Everything that the person registered for any of the methods: one device must not count as two of them. */
    private String registered(UUID person) {
        var ids = enrolments.of(person);
        return ids.isEmpty()
                ? ""
                : Sql.values(database, """
                        SELECT credential_id FROM passkey WHERE credential_id IS NOT NULL AND enrolment IN (:ids)""", byte[].class)
                        .setParameter("ids", ids)
                        .getResultStream()
                        .map(TEXT::encodeToString)
                        .collect(Collectors.joining(" "));
    }

    private Optional<Stored> stored(UUID person, byte[] id) {
        return stored(person).stream()
                .filter(k -> MessageDigest.isEqual(k.credentialId(), id))
                .findFirst();
    }

    @Override
    public Passkey passkey(Optional<UUID> person, byte[] id) {
        return person.flatMap(p -> stored(p, id))
                .map(Stored::passkey)
                .orElse(new Passkey(id, nobodys.data(), 0, false));
    }

    @Override
    public boolean isHandle(UUID person, byte[] handle) {
        return MessageDigest.isEqual(handle(person), handle);
    }

    @Override
    public void used(UUID person, byte[] id, long counter) {
        var enrolment = stored(person, id).orElseThrow().enrolment();
        Sql.change(database, "UPDATE passkey SET counter = :counter WHERE enrolment = :id")
                .setParameter("counter", counter)
                .setParameter("id", enrolment)
                .executeUpdate();
        enrolments.used(enrolment);
    }

    @Override
    public void cloned(UUID person, byte[] id, UUID challenge) {
        stored(person, id)
                .ifPresent(one -> publisher.publishEvent(
                        new Enrolments.Copied(challenge, person, method(), enrolments.label(one.enrolment()))));
    }
}
