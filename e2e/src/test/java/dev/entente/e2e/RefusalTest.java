package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import com.unboundid.ldap.sdk.SearchScope;
import dev.entente.bench.Sealer;
import dev.entente.core.attempt.Cause;
import dev.entente.core.attempt.Outcome;
import dev.entente.core.password.PasswordRules;
import dev.entente.core.seal.Credential;
import dev.entente.core.seal.CredentialStatement;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.Evidence;
import dev.entente.core.seal.Order;
import dev.entente.core.seal.Proof;
import dev.entente.core.seal.Receipt;
import dev.entente.core.seal.Roster;
import dev.entente.core.seal.Seal;
import dev.entente.core.seal.SealBinding;
import dev.entente.core.seal.SealingKey;
import dev.entente.core.seal.SigningKey;
import dev.entente.core.verify.Page;
import dev.entente.steward.StewardCommand;
import dev.entente.wire.StewardApi;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.SecureRandom;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.Executors;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestInstance;
import org.junit.jupiter.api.io.TempDir;

/**
 * A service that was taken over: it signs whatever it wants with the service's key. The steward is a real process beside the
 * real directory and has to refuse everything that the person did not agree to.
 */
@TestInstance(TestInstance.Lifecycle.PER_CLASS)
class RefusalTest {
    private static final String OFFICERS = "cn=Bridge,ou=groups,dc=fleet,dc=skerry,dc=test";
    private static final PasswordRules RULES = new PasswordRules(12, 128, 3, true, List.of());

    private final SecureRandom random = new SecureRandom();
    private final SigningKey serviceKey = SigningKey.generate(random);
    private final SigningKey operatorKey = SigningKey.generate(random);
    private final SigningKey attemptKey = SigningKey.generate(random);
    private final World world = World.get();
    private final UUID directory = UUID.randomUUID();
    private final UUID steward = UUID.randomUUID();
    private final BlockingQueue<String> orders = new ArrayBlockingQueue<>(10);
    private final BlockingQueue<String> receipts = new LinkedBlockingQueue<>();
    private volatile EcKey identity;
    private volatile String roster;
    private volatile String sealingKey;
    private HttpServer server;
    private Process process;
    private UUID account;
    private Crew crew;
    /** The steward's own. */
    private Path file;

    @BeforeAll
    void startSteward() throws Exception {
        crew = world.crew();
        account = idOf(crew.fleet());
        server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 10);
        server.setExecutor(Executors.newCachedThreadPool());
        server.createContext("/api/v1/steward/", this::answer);
        server.start();
        var folder = Files.createDirectories(world.dir.resolve("steward-refusing"));
        file = folder.resolve("steward.yaml");
        Files.writeString(
                file,
                Files.readString(Path.of(world.stewardFile("fleet")))
                        .replaceAll(
                                "service: .*",
                                "service: http://127.0.0.1:"
                                        + server.getAddress().getPort())
                        .replace("state: state-fleet", "state: state")
                        .replace(
                                "protected-groups: []",
                                "protected-groups: ['cn=Engine,ou=groups,dc=fleet,dc=skerry,dc=test', '" + OFFICERS
                                        + "']\n" + "  demand: { groups: ['" + OFFICERS
                                        + "'], proof: [passkey] }"));
        var code = "code." + serviceKey.publicKey().thumbprint() + "."
                + operatorKey.publicKey().thumbprint();
        world.entente("steward", "join", "--file", file.toString(), code).expect(0);
        process = new ProcessBuilder(
                        World.ROOT.resolve("bin/entente").toString(), "steward", "run", "--file", file.toString())
                .redirectErrorStream(true)
                .redirectOutput(world.dir.resolve("logs/steward-refusing.log").toFile())
                .start();
        World.waitUntil(Duration.ofSeconds(20), "the steward has a sealing key", () -> sealingKey != null);
    }

    @AfterAll
    void stop() {
        process.destroyForcibly();
        server.stop(0);
    }

    private UUID idOf(String uid) throws Exception {
        try (var connection = world.ldap("fleet")) {
            connection.bind("cn=svc-entente,ou=services,dc=fleet,dc=skerry,dc=test", "Svc-Quiet-Water-7");
            return UUID.fromString(connection
                    .searchForEntry("dc=fleet,dc=skerry,dc=test", SearchScope.SUB, "(uid=" + uid + ")", "entryUUID")
                    .getAttributeValue("entryUUID"));
        }
    }

    // ---- the service that was taken over

    private void answer(HttpExchange exchange) throws IOException {
        try {
            var path = exchange.getRequestURI().getPath().substring("/api/v1/steward".length());
            var body = new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8);
            if (path.equals("/join")) {
                identity = ApiPerson.JSON.readValue(body, StewardApi.Join.class).identityKey();
                roster = new Roster(1, directory, 1, 1, List.of(new Roster.Member(steward, "s", identity)))
                        .sign(operatorKey);
                send(
                        exchange,
                        new StewardApi.Joined(
                                steward, directory, "fleet", serviceKey.publicKey(), operatorKey.publicKey()));
            } else if (path.equals("/state")) {
                send(exchange, new StewardApi.State(roster, null, null, null));
            } else if (path.equals("/sealing-keys")) {
                sealingKey = ApiPerson.JSON
                        .readValue(body, StewardApi.SealingKeyStatement.class)
                        .statement();
                send(exchange, null);
            } else if (path.equals("/work")) {
                var order = orders.poll(2, TimeUnit.SECONDS);
                send(exchange, order == null ? null : new StewardApi.Work(List.of(order), null));
            } else if (path.equals("/orders/begin")) {
                send(
                        exchange,
                        new StewardApi.Begun(ApiPerson.JSON.readValue(body, StewardApi.Begins.class).begins().stream()
                                .map(StewardApi.Begin::order)
                                .toList()));
            } else {
                var statements = ApiPerson.JSON
                        .readValue(body, StewardApi.Receipts.class)
                        .receipts();
                statements.forEach(s -> receipts.add(s.receipt()));
                send(
                        exchange,
                        new StewardApi.ReceiptsTaken(statements.stream()
                                .map(StewardApi.ReceiptStatement::order)
                                .toList()));
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } finally {
            exchange.close();
        }
    }

    private static void send(HttpExchange exchange, Object body) throws IOException {
        if (body == null) {
            exchange.sendResponseHeaders(204, -1);
            return;
        }
        var bytes = ApiPerson.JSON.writeValueAsBytes(body);
        exchange.getResponseHeaders().set("Content-Type", "application/json");
        exchange.sendResponseHeaders(200, bytes.length);
        exchange.getResponseBody().write(bytes);
    }

    // ---- orders, right ones and wrong ones

    private EcKey recipient() {
        return SealingKey.verify(sealingKey, new Roster.Member(steward, "s", identity), directory, Instant.now())
                .key();
    }

    private SealBinding binding(UUID attempt, String action, List<UUID> accounts, String rosterDigest, long exp) {
        var recipient = recipient().thumbprint();
        return new SealBinding(
                1,
                ApiPerson.randomId(),
                attempt,
                directory,
                action,
                accounts,
                rosterDigest,
                attemptKey.publicKey().thumbprint(),
                List.of(recipient),
                exp);
    }

    private SealBinding right(UUID attempt) {
        return binding(attempt, "reset", List.of(account), Roster.digest(roster), soon());
    }

    private static long soon() {
        return System.currentTimeMillis() + 300_000;
    }

    private Seal seal(SealBinding binding, String password) {
        return Seal.parse(Sealer.seal(binding, recipient(), password));
    }

    private Order order(UUID attempt, UUID target, String action, Seal seal, String evidence) {
        return new Order(
                1,
                UUID.randomUUID(),
                1,
                attempt,
                "R 1",
                directory,
                target,
                action,
                seal.text(),
                evidence,
                RULES,
                true,
                false,
                null,
                false,
                20_000,
                soon(),
                null,
                null);
    }

    /** A steward may say a receipt twice, when the answer to the first was late: only this order's own is the answer. */
    private Receipt carriedOut(Order order) throws InterruptedException {
        orders.add(order.sign(serviceKey));
        var receipt = receiptFor(order, Duration.ofSeconds(30));
        assertThat(receipt).as("a receipt for this order came").isNotNull();
        return receipt;
    }

    private Receipt receiptFor(Order order, Duration within) throws InterruptedException {
        var until = System.nanoTime() + within.toNanos();
        while (System.nanoTime() < until) {
            var text = receipts.poll(1, TimeUnit.SECONDS);
            if (text != null) {
                var receipt = Receipt.verify(text, new Roster.Member(steward, "s", identity));
                if (receipt.order().equals(order.id())) {
                    return receipt;
                }
            }
        }
        return null;
    }

    private void assertRefused(Order order, Cause cause, String because) throws InterruptedException {
        var set = world.passwordsSet("fleet", crew.fleet());
        var receipt = carriedOut(order);
        assertThat(receipt.outcome()).isEqualTo(Outcome.REFUSED);
        assertThat(receipt.cause()).isEqualTo(cause);
        assertThat(receipt.detail()).contains(because);
        assertThat(world.passwordsSet("fleet", crew.fleet())).isEqualTo(set);
    }

    private String agreed(Seal seal) {
        return ApiPerson.evidence(seal).sign(attemptKey);
    }

    @Test
    void what_the_person_agreed_to_is_done_once_and_the_same_seal_never_again() throws InterruptedException {
        var attempt = UUID.randomUUID();
        var seal = seal(right(attempt), "Refusal-Quay-101");
        var first = carriedOut(order(attempt, account, "reset", seal, agreed(seal)));
        assertThat(first.outcome()).isEqualTo(Outcome.DONE);
        assertThat(world.binds("fleet", crew.fleet(), "Refusal-Quay-101")).isTrue();

        assertRefused(order(attempt, account, "reset", seal, agreed(seal)), Cause.SEEN_BEFORE, "used before");
    }

    @Test
    void a_seal_bound_to_another_attempt() throws InterruptedException {
        var seal = seal(right(UUID.randomUUID()), "Refusal-Quay-102");
        assertRefused(
                order(UUID.randomUUID(), account, "reset", seal, agreed(seal)),
                Cause.BAD_SEAL,
                "bound to another attempt");
    }

    @Test
    void a_seal_bound_to_another_account() throws Exception {
        var attempt = UUID.randomUUID();
        var other = idOf(world.crew().fleet());
        var seal = seal(right(attempt), "Refusal-Quay-103");
        assertRefused(order(attempt, other, "reset", seal, agreed(seal)), Cause.BAD_SEAL, "bound to another account");
    }

    @Test
    void a_seal_bound_to_another_action() throws InterruptedException {
        var attempt = UUID.randomUUID();
        var seal =
                seal(binding(attempt, "change", List.of(account), Roster.digest(roster), soon()), "Refusal-Quay-104");
        assertRefused(order(attempt, account, "reset", seal, agreed(seal)), Cause.BAD_SEAL, "bound to another action");
    }

    @Test
    void a_seal_made_for_another_roster() throws InterruptedException {
        var attempt = UUID.randomUUID();
        var seal =
                seal(binding(attempt, "reset", List.of(account), Roster.digest("other"), soon()), "Refusal-Quay-105");
        assertRefused(order(attempt, account, "reset", seal, agreed(seal)), Cause.BAD_SEAL, "another roster");
    }

    @Test
    void an_expired_seal() throws InterruptedException {
        var attempt = UUID.randomUUID();
        var past = System.currentTimeMillis() - 1000;
        var seal = seal(binding(attempt, "reset", List.of(account), Roster.digest(roster), past), "Refusal-Quay-106");
        assertRefused(order(attempt, account, "reset", seal, agreed(seal)), Cause.EXPIRED, "has expired");
    }

    @Test
    void a_seal_that_is_valid_for_longer_than_the_stewards_own_limit() throws InterruptedException {
        var attempt = UUID.randomUUID();
        var late = System.currentTimeMillis() + 3_600_000;
        var seal = seal(binding(attempt, "reset", List.of(account), Roster.digest(roster), late), "Refusal-Quay-107");
        assertRefused(order(attempt, account, "reset", seal, agreed(seal)), Cause.BAD_SEAL, "longer than this steward");
    }

    @Test
    void evidence_signed_by_another_key_than_the_seal_names() throws InterruptedException {
        var attempt = UUID.randomUUID();
        var seal = seal(right(attempt), "Refusal-Quay-108");
        var forged = ApiPerson.evidence(seal).sign(SigningKey.generate(random));
        assertRefused(order(attempt, account, "reset", seal, forged), Cause.BAD_EVIDENCE, "another key");
    }

    @Test
    void evidence_about_another_seal() throws InterruptedException {
        var attempt = UUID.randomUUID();
        var seal = seal(right(attempt), "Refusal-Quay-109");
        var other = seal(right(attempt), "Refusal-Quay-110");
        assertRefused(
                order(attempt, account, "reset", seal, agreed(other)),
                Cause.BAD_EVIDENCE,
                "something else than this seal");
    }

    @Test
    void evidence_with_another_expiry() throws InterruptedException {
        var attempt = UUID.randomUUID();
        var seal = seal(right(attempt), "Refusal-Quay-111");
        var e = ApiPerson.evidence(seal);
        var longer = new Evidence(
                1, e.attempt(), e.directory(), e.action(), e.accounts(), e.seal(), e.iat(), e.exp() + 60_000);
        assertRefused(
                order(attempt, account, "reset", seal, longer.sign(attemptKey)), Cause.BAD_EVIDENCE, "something else");
    }

    @Test
    void a_seal_whose_ciphertext_was_changed() throws InterruptedException {
        var attempt = UUID.randomUUID();
        var text = Sealer.seal(right(attempt), recipient(), "Refusal-Quay-112");
        var at = text.indexOf("\"ciphertext\":\"") + 20;
        var changed = text.substring(0, at) + (text.charAt(at) == 'A' ? 'B' : 'A') + text.substring(at + 1);
        var seal = Seal.parse(changed);
        assertRefused(order(attempt, account, "reset", seal, agreed(seal)), Cause.BAD_SEAL, "cannot be opened");
    }

    @Test
    void a_protected_account_whatever_the_service_says() throws Exception {
        // Members of this group are protected in this steward's own file.
        try (var connection = world.ldap("fleet")) {
            connection.bind("cn=svc-entente,ou=services,dc=fleet,dc=skerry,dc=test", "Svc-Quiet-Water-7");
            var group = connection.getEntry("cn=Engine,ou=groups,dc=fleet,dc=skerry,dc=test", "member");
            var engineer = connection.getEntry(group.getAttributeValue("member"), "entryUUID");
            var id = UUID.fromString(engineer.getAttributeValue("entryUUID"));
            var attempt = UUID.randomUUID();
            var seal = seal(binding(attempt, "reset", List.of(id), Roster.digest(roster), soon()), "Refusal-Quay-113");
            assertRefused(order(attempt, id, "reset", seal, agreed(seal)), Cause.PROTECTED, "in a protected group");
        }
    }

    // ---- a steward that demands a proof of its own

    /** A bridge officer: protected, but for whoever shows to be the one. */
    private record Officer(UUID id, String dn) {}

    private Officer officer(int which) throws Exception {
        try (var connection = world.ldap("fleet")) {
            connection.bind("cn=svc-entente,ou=services,dc=fleet,dc=skerry,dc=test", "Svc-Quiet-Water-7");
            var dn = connection.getEntry(OFFICERS, "member").getAttributeValues("member")[which];
            return new Officer(
                    UUID.fromString(connection.getEntry(dn, "entryUUID").getAttributeValue("entryUUID")), dn);
        }
    }

    private boolean binds(Officer officer, String password) throws Exception {
        try (var connection = world.ldap("fleet")) {
            return connection.bind(officer.dn(), password).getResultCode().intValue() == 0;
        } catch (com.unboundid.ldap.sdk.LDAPBindException e) {
            return false;
        }
    }

    private String stated(SigningKey by, UUID of, Credential credential, boolean removed) {
        return new CredentialStatement(1, directory, of, null, null, credential, removed, System.currentTimeMillis())
                .sign(by);
    }

    private Order with(Order plain, List<Proof> proofs, List<String> credentials) {
        return new Order(
                plain.v(),
                plain.id(),
                plain.epoch(),
                plain.attempt(),
                plain.reference(),
                plain.directory(),
                plain.account(),
                plain.action(),
                plain.seal(),
                plain.evidence(),
                plain.rules(),
                plain.clearLockout(),
                plain.mustChange(),
                plain.begun(),
                plain.check(),
                plain.leaseMillis(),
                plain.exp(),
                proofs,
                credentials);
    }

    private Order unlock(Officer of) {
        var attempt = UUID.randomUUID();
        var evidence = new Evidence(
                        1, attempt, directory, "unlock", List.of(of.id()), null, System.currentTimeMillis(), soon())
                .sign(attemptKey);
        return new Order(
                1,
                UUID.randomUUID(),
                1,
                attempt,
                "R 1",
                directory,
                of.id(),
                "unlock",
                null,
                evidence,
                null,
                true,
                false,
                null,
                false,
                20_000,
                soon(),
                null,
                null);
    }

    private Order reset(Officer of, String password, List<Proof> proofs, List<String> credentials) {
        var attempt = UUID.randomUUID();
        var seal = seal(binding(attempt, "reset", List.of(of.id()), Roster.digest(roster), soon()), password);
        return with(order(attempt, of.id(), "reset", seal, agreed(seal)), proofs, credentials);
    }

    private void assertDemanded(Order order, Officer of, String password, String because) throws Exception {
        var receipt = carriedOut(order);
        assertThat(receipt.outcome()).as(receipt.detail()).isEqualTo(Outcome.REFUSED);
        assertThat(receipt.cause()).isEqualTo(Cause.PROOF_DEMANDED);
        assertThat(receipt.detail()).contains(because);
        assertThat(receipt.credentials()).isEmpty();
        assertThat(binds(of, password)).isFalse();
    }

    private SoftPasskey passkey() throws Exception {
        var made = new SoftPasskey("https://recover.skerry.test");
        made.relyingParty = "recover.skerry.test";
        return made;
    }

    private Page mine() {
        return page(attemptKey, "reset");
    }

    private static Page page(SigningKey key, String action) {
        return new Page(key.publicKey().thumbprint(), "R 1", action);
    }

    @Test
    void a_service_with_all_its_keys_gets_nothing_written_where_a_proof_is_demanded() throws Exception {
        var victim = officer(0);
        var own = passkey();
        var proof = own.proof(mine());
        var password = "Refusal-Quay-201";
        assertDemanded(reset(victim, password, List.of(), List.of()), victim, password, "carries none");
        assertDemanded(reset(victim, password, List.of(proof), List.of()), victim, password, "isn't known here");
        // Signed by the service's own key, by the attempt's, by a steward that is not on the roster.
        for (var signer : List.of(serviceKey, attemptKey, SigningKey.generate(random))) {
            assertDemanded(
                    reset(
                            victim,
                            password,
                            List.of(own.proof(mine())),
                            List.of(stated(signer, victim.id(), own.credential(), false))),
                    victim,
                    password,
                    "isn't known here");
        }
        // Of another account, and of another directory, signed by the operator.
        assertDemanded(
                reset(
                        victim,
                        password,
                        List.of(own.proof(mine())),
                        List.of(
                                stated(operatorKey, UUID.randomUUID(), own.credential(), false),
                                new CredentialStatement(
                                                1,
                                                UUID.randomUUID(),
                                                victim.id(),
                                                null,
                                                null,
                                                own.credential(),
                                                false,
                                                1)
                                        .sign(operatorKey))),
                victim,
                password,
                "isn't known here");
        // An unlock is a write, too.
        assertDemanded(unlock(victim), victim, password, "carries none");
        // Credentials that are brought with a reset that shows nothing are not taken.
        var attempt = UUID.randomUUID();
        var seal = seal(binding(attempt, "reset", List.of(victim.id()), Roster.digest(roster), soon()), password);
        assertDemanded(
                order(attempt, victim.id(), "reset", seal, bringing(seal, own.credential())),
                victim,
                password,
                "carries none");
        assertDemanded(
                reset(victim, password, List.of(own.proof(mine())), List.of()), victim, password, "isn't known here");
    }

    private String bringing(Seal seal, Credential credential) {
        return bringing(seal, List.of(credential), List.of());
    }

    private String bringing(Seal seal, List<Credential> credentials, List<String> withdrawn) {
        var plain = ApiPerson.evidence(seal);
        return new Evidence(
                        1,
                        plain.attempt(),
                        plain.directory(),
                        plain.action(),
                        plain.accounts(),
                        plain.seal(),
                        plain.iat(),
                        plain.exp(),
                        credentials,
                        withdrawn)
                .sign(attemptKey);
    }

    @Test
    void who_is_recognised_by_the_steward_itself_is_let_through_until_that_was_withdrawn() throws Exception {
        var officer = officer(1);
        var key = passkey();
        var statement = List.of(stated(operatorKey, officer.id(), key.credential(), false));
        var elsewhere = page(SigningKey.generate(random), "reset");
        assertDemanded(
                reset(officer, "Refusal-Quay-210", List.of(key.proof(elsewhere)), statement),
                officer,
                "Refusal-Quay-210",
                "isn't right");
        var forged = key.proof(mine());
        assertDemanded(
                reset(
                        officer,
                        "Refusal-Quay-211",
                        List.of(Proof.passkey(
                                forged.credential(),
                                forged.nonce(),
                                forged.at(),
                                passkey().proof(mine()).signed())),
                        statement),
                officer,
                "Refusal-Quay-211",
                "isn't right");
        key.verifiesUser = false;
        assertDemanded(
                reset(officer, "Refusal-Quay-212", List.of(key.proof(mine())), statement),
                officer,
                "Refusal-Quay-212",
                "isn't right");
        key.verifiesUser = true;
        var done = carriedOut(reset(officer, "Refusal-Quay-213", List.of(key.proof(mine())), statement));
        assertThat(done.outcome()).as(done.detail()).isEqualTo(Outcome.DONE);
        assertThat(binds(officer, "Refusal-Quay-213")).isTrue();
        // Known from now on, without the statement; for an unlock, too.
        var fellow = passkey();
        var unlocked = carriedOut(with(
                unlock(officer),
                List.of(fellow.proof(page(attemptKey, "unlock"))),
                List.of(stated(operatorKey, officer.id(), fellow.credential(), false))));
        assertThat(unlocked.outcome()).as(unlocked.detail()).isEqualTo(Outcome.DONE);
        assertThat(carriedOut(reset(officer, "Refusal-Quay-214", List.of(key.proof(mine())), List.of()))
                        .outcome())
                .isEqualTo(Outcome.DONE);
        assertDemanded(
                reset(
                        officer,
                        "Refusal-Quay-215",
                        List.of(key.proof(mine())),
                        List.of(stated(operatorKey, officer.id(), key.credential(), true))),
                officer,
                "Refusal-Quay-215",
                "isn't known here");
        assertDemanded(
                reset(officer, "Refusal-Quay-216", List.of(key.proof(mine())), statement),
                officer,
                "Refusal-Quay-216",
                "isn't known here");
    }

    @Test
    void a_proof_is_of_now_of_this_page_and_for_this_action_and_a_phones_is_none() throws Exception {
        var officer = officer(3);
        var key = passkey();
        var statement = List.of(stated(operatorKey, officer.id(), key.credential(), false));
        var now = System.currentTimeMillis();
        for (var at : List.of(now - 3_600_000, now + 3_600_000)) {
            assertDemanded(
                    reset(officer, "Refusal-Quay-301", List.of(key.proof(mine(), at)), statement),
                    officer,
                    "Refusal-Quay-301",
                    "made at another time");
        }
        for (var other : List.of(
                page(attemptKey, "unlock"),
                new Page(attemptKey.publicKey().thumbprint(), "R 2", "reset"),
                // What a service has a person sign that hands out a challenge of its own: its own key's.
                page(serviceKey, "reset"))) {
            assertDemanded(
                    reset(officer, "Refusal-Quay-302", List.of(key.proof(other)), statement),
                    officer,
                    "Refusal-Quay-302",
                    "isn't right");
        }
        // As pages of a version before made it.
        var proof = key.proof(mine());
        assertDemanded(
                reset(
                        officer,
                        "Refusal-Quay-303",
                        List.of(new Proof(1, "passkey", proof.credential(), proof.nonce(), proof.signed(), null)),
                        statement),
                officer,
                "Refusal-Quay-303",
                "older version");
        var device = SigningKey.generate(random);
        var phone = Credential.device(UUID.randomUUID().toString(), device.publicKey());
        assertDemanded(
                reset(
                        officer,
                        "Refusal-Quay-304",
                        List.of(new Proof(1, "push", phone.id(), null, "a.b.c", null)),
                        List.of(stated(operatorKey, officer.id(), phone, false))),
                officer,
                "Refusal-Quay-304",
                "carries none by passkey");
        // The same assertion once more, as when an order is leased again: its counter is no reason to refuse it.
        key.counter = 7;
        var again = key.proof(mine());
        for (var password : List.of("Refusal-Quay-305", "Refusal-Quay-306")) {
            assertThat(carriedOut(reset(officer, password, List.of(again), List.of()))
                            .outcome())
                    .isEqualTo(Outcome.DONE);
        }
        key.counter = 3;
        assertDemanded(
                reset(officer, "Refusal-Quay-307", List.of(key.proof(mine())), List.of()),
                officer,
                "Refusal-Quay-307",
                "went back");
    }

    @Test
    void a_statement_counts_for_the_entry_that_it_names_and_what_was_withdrawn_by_hand_counts_at_once(
            @TempDir Path folder) throws Exception {
        var alice = officer(4);
        var bob = officer(5);
        var key = passkey();
        // The operator means Bob; the service gave Alice's id for him.
        var meantForBob = CredentialStatement.of(
                        directory,
                        alice.id(),
                        login(bob),
                        bob.dn(),
                        key.credential(),
                        false,
                        System.currentTimeMillis())
                .sign(operatorKey);
        assertDemanded(
                reset(alice, "Refusal-Quay-310", List.of(key.proof(mine())), List.of(meantForBob)),
                alice,
                "Refusal-Quay-310",
                "isn't known here");
        assertThat(log()).contains("was signed for " + login(bob));
        var right = CredentialStatement.of(
                        directory, bob.id(), login(bob), bob.dn(), key.credential(), false, System.currentTimeMillis())
                .sign(operatorKey);
        assertThat(carriedOut(reset(bob, "Refusal-Quay-311", List.of(key.proof(mine())), List.of(right)))
                        .outcome())
                .isEqualTo(Outcome.DONE);

        var withdrawal = CredentialStatement.of(
                        directory, bob.id(), login(bob), bob.dn(), key.credential(), true, System.currentTimeMillis())
                .sign(operatorKey);
        var signed = Files.writeString(folder.resolve("withdrawn"), withdrawal + "\n");
        var forged = Files.writeString(
                folder.resolve("forged"), stated(serviceKey, bob.id(), key.credential(), true) + "\n");
        assertThat(StewardCommand.run("forget", "--file", file.toString(), forged.toString()))
                .as("not the operator's")
                .isEqualTo(1);
        assertThat(StewardCommand.run("forget", "--file", file.toString(), signed.toString()))
                .isZero();
        // The service leaves it out, and goes on as if nothing had been said.
        assertDemanded(
                reset(bob, "Refusal-Quay-312", List.of(key.proof(mine())), List.of(right)),
                bob,
                "Refusal-Quay-312",
                "isn't known here");
        assertThat(log()).contains("the service leaves out that a credential of " + login(bob) + " was withdrawn");
    }

    private static String login(Officer officer) {
        return officer.dn().replaceAll("^[^=]+=([^,]+),.*$", "$1");
    }

    /** What the steward keeps in its journal. */
    private String log() throws IOException {
        var text = new StringBuilder();
        try (var files = Files.walk(file.getParent())) {
            for (var one : files.filter(Files::isRegularFile).toList()) {
                text.append(new String(Files.readAllBytes(one), StandardCharsets.ISO_8859_1));
            }
        }
        return text.toString();
    }

    private Receipt changed(Officer of, String old, String password, Credential brings) throws InterruptedException {
        return changed(of, old, password, List.of(brings), List.of());
    }

    private Receipt changed(Officer of, String old, String password, List<Credential> brings, List<String> withdraws)
            throws InterruptedException {
        var attempt = UUID.randomUUID();
        var seal = Seal.parse(Sealer.seal(
                binding(attempt, "change", List.of(of.id()), Roster.digest(roster), soon()),
                List.of(recipient()),
                Map.of("v", 1, "password", password, "old", old)));
        return carriedOut(order(attempt, of.id(), "change", seal, bringing(seal, brings, withdraws)));
    }

    @Test
    void who_knows_the_password_brings_a_credential_and_who_does_not_brings_none() throws Exception {
        var officer = officer(2);
        var key = passkey();
        var first = "Refusal-Quay-220";
        // As an operator would, so that the present password is known here.
        var signedIn = passkey();
        assertThat(carriedOut(reset(
                                officer,
                                first,
                                List.of(signedIn.proof(mine())),
                                List.of(stated(operatorKey, officer.id(), signedIn.credential(), false))))
                        .outcome())
                .as("recognised by what the operator signed")
                .isEqualTo(Outcome.DONE);
        var wrong = changed(officer, "Not-The-Password-9", "Refusal-Quay-221", key.credential());
        assertThat(wrong.cause()).isEqualTo(Cause.WRONG_OLD);
        assertThat(wrong.credentials()).isEmpty();
        var unknown = carriedOut(reset(officer, "Refusal-Quay-222", List.of(key.proof(mine())), List.of()));
        assertThat(unknown.cause()).isEqualTo(Cause.PROOF_DEMANDED);
        var right = changed(officer, first, "Refusal-Quay-223", key.credential());
        assertThat(right.outcome()).as(right.detail()).isEqualTo(Outcome.DONE);
        var statement = CredentialStatement.verify(right.credentials().get(0), List.of(identity), directory);
        assertThat(statement.account()).isEqualTo(officer.id());
        assertThat(statement.credential()).isEqualTo(key.credential());
        var done = carriedOut(reset(officer, "Refusal-Quay-224", List.of(key.proof(mine())), List.of()));
        assertThat(done.outcome()).as(done.detail()).isEqualTo(Outcome.DONE);
        assertThat(binds(officer, "Refusal-Quay-224")).isTrue();
        // Nor is one withdrawn by who does not know the password, and it is by who does.
        var thumbprint = List.of(key.credential().thumbprint());
        assertThat(changed(officer, "Not-The-Password-8", "Refusal-Quay-226", List.of(), thumbprint)
                        .credentials())
                .isEmpty();
        var attempt = UUID.randomUUID();
        var seal = seal(
                binding(attempt, "reset", List.of(officer.id()), Roster.digest(roster), soon()), "Refusal-Quay-227");
        assertThat(carriedOut(order(attempt, officer.id(), "reset", seal, bringing(seal, List.of(), thumbprint)))
                        .cause())
                .isEqualTo(Cause.PROOF_DEMANDED);
        assertThat(carriedOut(reset(officer, "Refusal-Quay-228", List.of(key.proof(mine())), List.of()))
                        .outcome())
                .isEqualTo(Outcome.DONE);
        var withdrawn = changed(officer, "Refusal-Quay-228", "Refusal-Quay-229", List.of(), thumbprint);
        assertThat(CredentialStatement.verify(withdrawn.credentials().get(0), List.of(identity), directory)
                        .removed())
                .isTrue();
        assertThat(carriedOut(reset(officer, "Refusal-Quay-240", List.of(key.proof(mine())), List.of()))
                        .cause())
                .isEqualTo(Cause.PROOF_DEMANDED);
        // Whoever could clear the lockout in between still guesses no password by changes.
        Receipt last = null;
        for (var i = 0; i < 8 && (last == null || last.cause() != Cause.GUARD_RAIL); i++) {
            if (i % 2 == 0) {
                carriedOut(reset(officer, "Refusal-Quay-23" + i, List.of(signedIn.proof(mine())), List.of()));
            }
            last = changed(officer, "Guess-Quay-90" + i, "Refusal-Quay-225", key.credential());
        }
        assertThat(last.cause()).as(last.detail()).isEqualTo(Cause.GUARD_RAIL);
        assertThat(last.detail()).contains("6 passwords were tried");
    }

    @Test
    void where_nothing_is_demanded_no_credential_is_taken() throws Exception {
        var other = world.crew().fleet();
        var person = new Officer(idOf(other), World.fleetDn(other));
        var first = "Refusal-Quay-320";
        assertThat(carriedOut(reset(person, first, List.of(), List.of())).outcome())
                .isEqualTo(Outcome.DONE);
        var changed = changed(person, first, "Refusal-Quay-321", passkey().credential());
        assertThat(changed.outcome()).as(changed.detail()).isEqualTo(Outcome.DONE);
        assertThat(changed.credentials())
                .as("it would count from the day on which a proof is demanded")
                .isEmpty();
    }

    /** An order to look again, as a service asks for one that nobody answered: its bind would tell whether a password is right. */
    private Order lookAgain(UUID attempt, UUID target, Seal seal) {
        return new Order(
                1,
                UUID.randomUUID(),
                2,
                attempt,
                "R 1",
                directory,
                target,
                "reset",
                seal.text(),
                agreed(seal),
                RULES,
                true,
                false,
                new Order.Begun(server(), "1"),
                true,
                20_000,
                soon(),
                null,
                null);
    }

    private String server() {
        try {
            var file = Files.readString(Path.of(world.stewardFile("fleet")));
            var server = Pattern.compile("ldaps://[0-9.:]+").matcher(file);
            assertThat(server.find()).isTrue();
            return server.group();
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }

    @Test
    void looking_again_tries_no_password_of_a_protected_entry_or_of_one_outside_the_bases() throws Exception {
        try (var connection = world.ldap("fleet")) {
            connection.bind("cn=svc-entente,ou=services,dc=fleet,dc=skerry,dc=test", "Svc-Quiet-Water-7");
            var group = connection.getEntry("cn=Engine,ou=groups,dc=fleet,dc=skerry,dc=test", "member");
            var targets = Map.of(
                    group.getAttributeValue("member"),
                    "in a protected group",
                    "cn=svc-none,ou=services,dc=fleet,dc=skerry,dc=test",
                    "not below any base");
            for (var target : targets.entrySet()) {
                var id = UUID.fromString(
                        connection.getEntry(target.getKey(), "entryUUID").getAttributeValue("entryUUID"));
                var attempt = UUID.randomUUID();
                var seal =
                        seal(binding(attempt, "reset", List.of(id), Roster.digest(roster), soon()), "Harbour-Light-42");
                var receipt = carriedOut(lookAgain(attempt, id, seal));
                assertThat(receipt.outcome()).isEqualTo(Outcome.UNKNOWN);
                assertThat(receipt.detail()).contains("may not be judged here", target.getValue());
            }
        }
    }

    @Test
    void passwords_of_one_entry_are_tried_a_few_times_an_hour_only() throws Exception {
        var other = idOf(world.crew().fleet());
        var outcomes = new ArrayList<String>();
        for (var i = 0; i < 9; i++) {
            var attempt = UUID.randomUUID();
            var seal =
                    seal(binding(attempt, "reset", List.of(other), Roster.digest(roster), soon()), "Guess-Quay-80" + i);
            outcomes.add(carriedOut(lookAgain(attempt, other, seal)).detail());
        }
        assertThat(outcomes).filteredOn(o -> o.contains("does not bind")).hasSize(6);
        assertThat(outcomes.subList(6, 9)).allMatch(o -> o.contains("6 passwords were tried"));
    }

    @Test
    void an_entry_outside_the_bases_of_the_stewards_file() throws Exception {
        try (var connection = world.ldap("fleet")) {
            connection.bind("cn=svc-entente,ou=services,dc=fleet,dc=skerry,dc=test", "Svc-Quiet-Water-7");
            var service = connection.getEntry("cn=svc-none,ou=services,dc=fleet,dc=skerry,dc=test", "entryUUID");
            var id = UUID.fromString(service.getAttributeValue("entryUUID"));
            var attempt = UUID.randomUUID();
            var seal = seal(binding(attempt, "reset", List.of(id), Roster.digest(roster), soon()), "Refusal-Quay-114");
            assertRefused(order(attempt, id, "reset", seal, agreed(seal)), Cause.PROTECTED, "not below any base");
        }
    }

    @Test
    void a_password_that_does_not_meet_the_rules_once_it_is_opened() throws InterruptedException {
        var attempt = UUID.randomUUID();
        var seal = seal(right(attempt), "short");
        assertRefused(order(attempt, account, "reset", seal, agreed(seal)), Cause.OUR_RULES, "rules are not met");
    }

    @Test
    void an_order_that_another_key_signed_is_not_even_answered() throws InterruptedException {
        var attempt = UUID.randomUUID();
        var seal = seal(right(attempt), "Refusal-Quay-115");
        var order = order(attempt, account, "reset", seal, agreed(seal));
        orders.add(order.sign(SigningKey.generate(random)));
        assertThat(receiptFor(order, Duration.ofSeconds(4))).isNull();
        assertThat(world.binds("fleet", crew.fleet(), "Refusal-Quay-115")).isFalse();
    }

    @Test
    void a_journal_that_was_changed_stops_the_steward() throws IOException {
        var folder = Files.createDirectories(world.dir.resolve("steward-tampered"));
        var from = world.dir.resolve("steward-refusing");
        World.run(Map.of(), "cp", "-r", from + "/.", folder.toString()).expect(0);
        var journal = folder.resolve("state/journal.jsonl");
        Files.writeString(journal, "{\"at\":1,\"kind\":\"note\",\"prev\":\"00\",\"seq\":1,\"text\":\"x\"}\n");
        var ran = World.run(
                Map.of(),
                World.ROOT.resolve("bin/entente").toString(),
                "steward",
                "run",
                "--file",
                folder.resolve("steward.yaml").toString());
        assertThat(ran.code()).isEqualTo(3);
        assertThat(ran.err()).contains("the journal was changed");
    }
}
