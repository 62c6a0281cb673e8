package dev.entente.steward.order;

import static org.assertj.core.api.Assertions.assertThat;

import com.nimbusds.jose.EncryptionMethod;
import com.nimbusds.jose.JOSEException;
import com.nimbusds.jose.JWEAlgorithm;
import com.nimbusds.jose.JWEHeader;
import com.nimbusds.jose.crypto.ECDHEncrypter;
import com.nimbusds.jose.jwk.Curve;
import com.nimbusds.jose.jwk.ECKey;
import com.nimbusds.jose.util.Base64URL;
import dev.entente.core.attempt.Cause;
import dev.entente.core.delivery.Delivery;
import dev.entente.core.password.PasswordRules;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.Evidence;
import dev.entente.core.seal.Order;
import dev.entente.core.seal.Receipt;
import dev.entente.core.seal.Roster;
import dev.entente.core.seal.Seal;
import dev.entente.core.seal.SealBinding;
import dev.entente.core.seal.SealingKey;
import dev.entente.core.seal.SigningKey;
import dev.entente.steward.link.OrderCalls;
import dev.entente.steward.link.SealingKeys;
import dev.entente.steward.link.ServiceLink;
import dev.entente.steward.link.StewardState;
import dev.entente.steward.settings.StewardFile;
import dev.entente.steward.target.Target;
import dev.entente.wire.DirectoryApi.Finding;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.SecureRandom;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;
import tools.jackson.databind.json.JsonMapper;

/**
 * The real order handler of two stewards, and the service's machine for deliveries, against a directory that is only modelled, under random crashes,
 * lost answers, late writes, clocks that jump and a stranger who sets passwords: what is told in the end is never untrue,
 * and no password of ours is set twice.
 */
class InterleavingTest {
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final Delivery.Spans SPANS = new Delivery.Spans(Duration.ofSeconds(4), Duration.ofSeconds(2));
    private static final String PASSWORD = "Harbour-Quay-7-Tide";
    private static final SigningKey SERVICE = SigningKey.generate(new SecureRandom());
    private static final SigningKey OPERATOR = SigningKey.generate(new SecureRandom());
    private static final SigningKey ATTEMPT = SigningKey.generate(new SecureRandom());

    private final UUID directory = UUID.randomUUID();
    private final UUID account = UUID.randomUUID();
    private final UUID attempt = UUID.randomUUID();
    private final List<Path> folders = new ArrayList<>();

    /** The process is gone: nothing after this happens. */
    private static final class Crash extends RuntimeException {
        Crash() {
            super(null, null, false, false);
        }
    }

    /** One directory entry; on the standard kind a write holds only for the version that it names. */
    private static final class Model {
        private final boolean asserts;
        private final Random random;
        private int version = 1;
        private int ours;
        private String password = "old";
        private Runnable late;

        Model(boolean asserts, Random random) {
            this.asserts = asserts;
            this.random = random;
        }

        boolean write(String noted, String wanted) {
            if (asserts && !noted.equals(String.valueOf(version))) {
                return false;
            }
            version++;
            password = wanted;
            ours += wanted.equals(PASSWORD) ? 1 : 0;
            return true;
        }

        void stranger() {
            if (random.nextInt(12) == 0) {
                version++;
                password = "somebody else's";
            }
        }

        void arriveLate() {
            if (late != null) {
                late.run();
                late = null;
            }
        }
    }

    /** The service's side of one order: the machine that its SQL carries out, in the time of the model. */
    private final class Service implements OrderCalls {
        private final Random random;
        private final String roster;
        private final UUID order = UUID.randomUUID();
        private Instant now = Instant.ofEpochMilli(1_800_000_000_000L);
        private Delivery delivery = Delivery.waiting(now.plusSeconds(10_000), true);
        private Receipt told;
        private UUID caller;
        private final List<Roster.Member> members;

        Service(Random random, List<Roster.Member> members) {
            this.random = random;
            this.members = members;
            this.roster = new Roster(1, directory, 1, 1, members).sign(OPERATOR);
        }

        private void maybeCrash() {
            if (random.nextInt(7) == 0) {
                throw new Crash();
            }
        }

        private void maybeLose() throws IOException {
            if (random.nextInt(9) == 0) {
                throw new IOException("lost");
            }
        }

        Optional<Order> lease(UUID steward, Seal seal, String evidence) {
            var leased = delivery.lease(steward, now, SPANS);
            delivery = leased.orElse(delivery);
            return leased.map(d -> order(seal, evidence, false));
        }

        Order order(Seal seal, String evidence, boolean check) {
            return new Order(
                    1,
                    order,
                    delivery.epoch(),
                    attempt,
                    "R 1",
                    directory,
                    account,
                    "reset",
                    seal.text(),
                    evidence,
                    new PasswordRules(8, 128, 1, false, List.of()),
                    true,
                    false,
                    delivery.noted() == null
                            ? null
                            : new Order.Begun(
                                    delivery.noted().server(), delivery.noted().version()),
                    check,
                    SPANS.lease().toMillis(),
                    delivery.expiresAt().toEpochMilli(),
                    null,
                    null);
        }

        @Override
        public boolean begin(UUID id, int asked, String server, String version) throws IOException {
            maybeCrash();
            maybeLose();
            var begun = delivery.begin(caller, asked, new Delivery.Noted(server, version), now, SPANS);
            delivery = begun.orElse(delivery);
            maybeCrash();
            maybeLose();
            return begun.isPresent();
        }

        @Override
        public CompletableFuture<Boolean> receipt(UUID id, String signed) {
            maybeCrash();
            try {
                take(signed);
                return CompletableFuture.completedFuture(true);
            } catch (IOException e) {
                return CompletableFuture.failedFuture(e);
            }
        }

        private void take(String signed) throws IOException {
            maybeLose();
            var member = members.stream()
                    .filter(m -> m.id().equals(caller))
                    .findFirst()
                    .orElseThrow();
            var receipt = Receipt.verify(signed, member);
            var received = delivery.receive(caller, receipt.epoch(), receipt.outcome(), receipt.cause(), signed, now);
            delivery = received.delivery();
            told = received.effect() == Delivery.Effect.ENDED ? receipt : told;
            maybeLose();
        }

        @Override
        public ServiceLink.Standing standingFor(String digest) {
            return new ServiceLink.Standing(roster, Roster.verify(roster, OPERATOR.publicKey(), directory));
        }

        boolean ended() {
            return delivery.state().ended();
        }

        void sweep() {
            delivery = delivery.giveUp(null, now).orElse(delivery);
        }
    }

    private record Steward(StewardState state, Path folder, SealingKeys keys) {}

    private final class Directory implements Target {
        private final Model model;
        private final Service service;

        Directory(Model model, Service service) {
            this.model = model;
            this.service = service;
        }

        @Override
        public Visit visit() {
            return new ModelVisit();
        }

        @Override
        public Visit visit(String server) {
            return new ModelVisit();
        }

        @Override
        public String read(Reading reading, Sink sink) {
            throw new UnsupportedOperationException();
        }

        @Override
        public List<String> unresolved(StewardFile.Guard guard) {
            return List.of();
        }

        @Override
        public List<Finding> examine(boolean mailNeeded) {
            throw new UnsupportedOperationException();
        }

        @Override
        public String current() {
            return "one";
        }

        @Override
        public Optional<Instant> certificateEnds() {
            return Optional.empty();
        }

        @Override
        public void close() {
            // Nothing to close.
        }

        private final class ModelVisit implements Visit {
            private void breakSometimes() throws Lost {
                service.maybeCrash();
                if (service.random.nextInt(9) == 0) {
                    throw new Lost("broken");
                }
            }

            @Override
            public String server() {
                return "one";
            }

            @Override
            public Optional<Entry> find(UUID id) throws Lost {
                breakSometimes();
                model.stranger();
                return Optional.of(new Entry(
                        id,
                        "uid=a,ou=people,dc=x",
                        "a",
                        List.of("a"),
                        String.valueOf(model.version),
                        false,
                        0,
                        null,
                        false));
            }

            @Override
            public boolean memberOf(Entry entry, List<String> groups) {
                return false;
            }

            @Override
            public void reset(Entry entry, String password, boolean clearLockout, boolean mustChange)
                    throws Refused, Lost {
                service.maybeCrash();
                if (service.random.nextInt(6) == 0) {
                    // Sent, but it takes effect only within the time that an order is held for.
                    model.late = () -> model.write(entry.version(), password);
                    throw new Lost("no answer");
                }
                if (!model.write(entry.version(), password)) {
                    throw new Refused(Cause.DIRECTORY_ERROR, "the entry changed");
                }
                breakSometimes();
            }

            @Override
            public void change(Entry entry, String old, String password) {
                throw new UnsupportedOperationException();
            }

            @Override
            public void unlock(Entry entry) {
                throw new UnsupportedOperationException();
            }

            @Override
            public int triesLeft(Entry entry) {
                return 9;
            }

            @Override
            public Optional<Instant> earliestChange(Entry entry) {
                return Optional.empty();
            }

            @Override
            public Judged judge(Entry entry, String password) {
                service.maybeCrash();
                if (service.random.nextInt(9) == 0) {
                    return new Judged(Proof.SAYS_NOTHING, "49/775");
                }
                return model.password.equals(password) ? new Judged(Proof.RIGHT, "0") : new Judged(Proof.WRONG, "49");
            }

            @Override
            public boolean judges() {
                return true;
            }

            @Override
            public void close() {
                // Nothing to close.
            }
        }
    }

    private Steward steward() throws IOException {
        var folder = Files.createTempDirectory("interleaving");
        folders.add(folder);
        var state = new StewardState(
                UUID.randomUUID(),
                directory,
                "d",
                SERVICE.publicKey(),
                OPERATOR.publicKey(),
                SigningKey.generate(new SecureRandom()));
        return new Steward(state, folder, new SealingKeys(folder, state, InstantSource.system()));
    }

    @AfterEach
    void removeFolders() throws IOException {
        for (var folder : folders) {
            try (var files = Files.walk(folder)) {
                for (var file : files.sorted((a, b) -> b.compareTo(a)).toList()) {
                    Files.delete(file);
                }
            }
        }
    }

    private static StewardFile file(Path state) {
        return new StewardFile(
                "http://localhost",
                null,
                state,
                null,
                new StewardFile.Guard(
                        List.of("ou=people,dc=x"),
                        List.of(),
                        List.of(),
                        Duration.ofDays(1),
                        1000,
                        1000,
                        Duration.ZERO,
                        Set.of("reset"),
                        StewardFile.Demand.NONE));
    }

    /** Other interleavings: {@code -Dinterleaving.seed=NUMBER}. */
    @RepeatedTest(60)
    void nothing_untrue_is_told_and_nothing_is_set_twice(RepetitionInfo round) throws Exception {
        var random = new Random(31 * Long.getLong("interleaving.seed", 1) + round.getCurrentRepetition());
        var asserts = random.nextBoolean();
        var stewards = List.of(steward(), steward());
        var members = stewards.stream()
                .map(s -> new Roster.Member(
                        s.state().steward(), "s", s.state().identity().publicKey()))
                .toList();
        var service = new Service(random, members);
        var model = new Model(asserts, random);
        var target = new Directory(model, service);
        var seal = seal(stewards, members, service);
        var evidence = new Evidence(
                        1,
                        attempt,
                        directory,
                        "reset",
                        List.of(account),
                        seal.digest(),
                        System.currentTimeMillis(),
                        seal.binding().exp())
                .sign(ATTEMPT);
        for (var step = 0; step < 60 && !service.ended(); step++) {
            var who = stewards.get(random.nextInt(2));
            service.caller = who.state().steward();
            // Each steward's clock is its own, and jumps.
            InstantSource clock = () -> Instant.now().plusSeconds(random.nextInt(20) - 10);
            try (var journal = new Journal(who.folder(), clock)) {
                var handler =
                        new OrderHandler(who.state(), service, target, file(who.folder()), journal, who.keys(), clock);
                handler.tellUnsent();
                var order = service.lease(who.state().steward(), seal, evidence);
                if (order.isPresent()) {
                    handler.handle(order.get().sign(SERVICE));
                }
            } catch (Crash e) {
                // It starts again in one of the next steps, with what its journal kept.
            }
            // What was sent takes effect at latest when the directory's time-out is over, so before anybody takes over.
            if (random.nextBoolean()) {
                model.arriveLate();
            }
            service.now = service.now.plusMillis(random.nextInt(5000));
            if (service.delivery.heldUntil() != null
                    && service.delivery.heldUntil().isBefore(service.now)) {
                model.arriveLate();
            }
            service.sweep();
        }
        model.arriveLate();
        while (!service.ended()) {
            service.now = service.now.plusSeconds(10_000);
            service.sweep();
        }
        assertTrue(service, model);
    }

    private static void assertTrue(Service service, Model model) {
        assertThat(model.ours).as("set by us").isLessThanOrEqualTo(1);
        switch (service.delivery.state().outcome()) {
            case DONE -> {
                assertThat(model.ours).as("done means set").isEqualTo(1);
                assertThat(service.told.versionAfter()).isNotEqualTo(service.told.versionBefore());
            }
            case REFUSED, FAILED ->
                assertThat(model.ours).as("not done means not set").isZero();
            case UNKNOWN ->
                assertThat(service.delivery.begunAt())
                        .as("unknown only after begin")
                        .isNotNull();
        }
    }

    private Seal seal(List<Steward> stewards, List<Roster.Member> members, Service service)
            throws IOException, JOSEException {
        var keys = new ArrayList<EcKey>();
        for (var i = 0; i < stewards.size(); i++) {
            var statement = stewards.get(i).keys().current().get(0);
            keys.add(SealingKey.verify(statement, members.get(i), directory, Instant.now())
                    .key());
        }
        var id = new byte[16];
        new SecureRandom().nextBytes(id);
        var binding = new SealBinding(
                1,
                Base64.getUrlEncoder().withoutPadding().encodeToString(id),
                attempt,
                directory,
                "reset",
                List.of(account),
                Roster.digest(service.roster),
                ATTEMPT.publicKey().thumbprint(),
                keys.stream().map(EcKey::thumbprint).toList(),
                System.currentTimeMillis() + 3_600_000);
        // Each steward opens with its own key: here each recipient gets the whole message, as one of several would.
        return Seal.parse(sealed(binding, keys));
    }

    private static String sealed(SealBinding binding, List<EcKey> keys) throws JOSEException {
        var aad = Base64URL.encode(JSON.writeValueAsString(Map.of("enc", "A256GCM", "entente", binding)))
                .toString();
        var content = JSON.writeValueAsBytes(Map.of("v", 1, "password", PASSWORD));
        var padded = Arrays.copyOf(content, Seal.PLAINTEXT_LENGTH);
        Arrays.fill(padded, content.length, padded.length, (byte) ' ');
        var cek = new javax.crypto.spec.SecretKeySpec(SecureRandom.getSeed(32), "AES");
        var recipients = new ArrayList<Map<String, Object>>();
        var parts = new com.nimbusds.jose.JWECryptoParts[1];
        for (var key : keys) {
            var to = new ECKey.Builder(Curve.P_256, Base64URL.from(key.x()), Base64URL.from(key.y())).build();
            var encrypter = new ECDHEncrypter(to.toECPublicKey(), cek);
            var one = encrypter.encrypt(
                    new JWEHeader.Builder(JWEAlgorithm.ECDH_ES_A256KW, EncryptionMethod.A256GCM).build(),
                    padded,
                    aad.getBytes(StandardCharsets.US_ASCII));
            parts[0] = parts[0] == null ? one : parts[0];
            recipients.add(Map.of(
                    "header",
                    Map.of(
                            "alg", "ECDH-ES+A256KW",
                            "kid", key.thumbprint(),
                            "epk", one.getHeader().getEphemeralPublicKey().toJSONObject()),
                    "encrypted_key",
                    one.getEncryptedKey().toString()));
        }
        return JSON.writeValueAsString(Map.of(
                "protected", aad,
                "recipients", recipients,
                "iv", parts[0].getInitializationVector().toString(),
                "ciphertext", parts[0].getCipherText().toString(),
                "tag", parts[0].getAuthenticationTag().toString()));
    }
}
