package dev.entente.e2e;

import dev.entente.bench.Recovery;
import dev.entente.bench.Sealer;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.Evidence;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Roster;
import dev.entente.core.seal.Seal;
import dev.entente.core.seal.SealBinding;
import dev.entente.core.seal.SealingKey;
import dev.entente.core.seal.SigningKey;
import dev.entente.core.verify.Page;
import dev.entente.core.verify.passkey.PasskeyChallenge;
import dev.entente.wire.AttemptAct;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.net.http.HttpTimeoutException;
import java.security.SecureRandom;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** Somebody who uses the portal's API without a browser, following docs/protocol.md. */
final class ApiPerson {
    static final JsonMapper JSON = JsonMapper.shared();

    final SigningKey key;
    private final Installation world;
    private final String node;
    private final HttpClient http = HttpClient.newHttpClient();
    private String languages = "en";
    String cookie = "";
    /** What the browser is known by. */
    String device = "";

    PortalApi.Attempt attempt;
    private String action = "reset";

    ApiPerson(Installation world) {
        this(world, world.url);
    }

    /** At one node of several. */
    ApiPerson(Installation world, String node) {
        this(world, node, SigningKey.generate(new SecureRandom()));
    }

    /** With a key that was made elsewhere. */
    ApiPerson(Installation world, String node, SigningKey key) {
        this.key = key;
        this.world = world;
        this.node = node;
    }

    /** The orders of the attempt, by the ids that stewards know; none before a password is handed in. */
    List<String> orders() {
        return world.query("SELECT d.id FROM delivery d JOIN attempt a ON a.id = d.attempt WHERE a.reference = '"
                        + attempt.reference().replaceAll("[^0-9]", "") + "'")
                .lines()
                .toList();
    }

    /** An answer as it came. */
    record Answer(int status, String body, long millis) {
        JsonNode json() {
            return JSON.readTree(body);
        }

        <T> T as(Class<T> type) {
            if (status / 100 != 2) {
                throw new AssertionError("status " + status + ": " + body);
            }
            return JSON.readValue(body, type);
        }
    }

    /** The reference of the attempt that was begun last, digits only; what changes something within it is signed. */
    private String reference = "";

    /** Where the person is, as a proxy on this machine tells it. */
    String network = "";

    Answer call(String method, String path, Object body) {
        var text = body == null ? "" : JSON.writeValueAsString(body);
        return send(
                method,
                path,
                text,
                !path.matches("/attempt(/.*)?") || reference.isEmpty() ? "" : act(method, path, text));
    }

    /** Shows that it is the page that began the attempt, for one call. */
    String act(String method, String path, String body) {
        return AttemptAct.sign(key, reference, method, path, body);
    }

    /** A call with a signature of its own choice, or with none. */
    Answer send(String method, String path, String body, String act) {
        var begun = System.nanoTime();
        try {
            var builder = HttpRequest.newBuilder(URI.create(node + "/api/v1/portal" + path))
                    .timeout(Duration.ofSeconds(30))
                    .header("Content-Type", "application/json")
                    .header("Accept-Language", languages)
                    .header("Cookie", device.isEmpty() ? cookie : cookie + "; " + device)
                    .method(
                            method,
                            body.isEmpty()
                                    ? HttpRequest.BodyPublishers.noBody()
                                    : HttpRequest.BodyPublishers.ofString(body));
            if (!act.isEmpty()) {
                builder.header(AttemptAct.HEADER, act);
            }
            if (!network.isEmpty()) {
                builder.header("X-Forwarded-For", network);
            }
            var response = http.send(builder.build(), HttpResponse.BodyHandlers.ofString());
            if (path.equals("/attempts") && response.statusCode() / 100 == 2) {
                reference = JSON.readValue(response.body(), PortalApi.Attempt.class)
                        .reference()
                        .replaceAll("[^0-9]", "");
            }
            for (var set : response.headers().allValues("Set-Cookie")) {
                if (set.startsWith("__Host-entente-device")) {
                    device = set.split(";", 2)[0];
                } else {
                    cookie = set.split(";", 2)[0];
                }
            }
            return new Answer(response.statusCode(), response.body(), (System.nanoTime() - begun) / 1_000_000);
        } catch (HttpTimeoutException e) {
            throw new IllegalStateException(method + " " + path + " was not answered; " + world.doing(), e);
        } catch (IOException e) {
            throw new IllegalStateException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }

    /** What a passkey is asked to sign now, worked out as the page does it. */
    PasskeyChallenge passkeyChallenge() {
        return new PasskeyChallenge(
                attempt.challenge().parts().get("nonce"),
                new Page(key.publicKey().thumbprint(), reference, action),
                System.currentTimeMillis());
    }

    Answer start(String name) {
        return start(name, key.publicKey());
    }

    Answer start(String name, EcKey attemptKey) {
        var answer = begin(name, attemptKey, null);
        // As the page does: what other tests did from this network is no matter of this one.
        return answer.status() == 428 ? begin(name, attemptKey, Recovery.work(answer.json())) : answer;
    }

    /** One call, with work that was done or without. */
    Answer begin(String name, EcKey attemptKey, PortalApi.Work work) {
        return call("POST", "/attempts", new PortalApi.Start(name, action, attemptKey, work));
    }

    /** Which languages the browser asks for. */
    ApiPerson reads(String wanted) {
        languages = wanted;
        return this;
    }

    /** What is wanted instead of a reset. */
    ApiPerson wants(String wanted) {
        action = wanted;
        return this;
    }

    Answer ask() {
        return ask("email-code");
    }

    Answer ask(String method) {
        return ask(method, null);
    }

    /** @param end of the telephone number, for what goes to one */
    Answer ask(String method, String end) {
        return call("POST", "/attempt/challenges", new PortalApi.Ask(method, end, null));
    }

    /** Begins to set up a method. */
    PortalApi.OfferedEnrolment setUp(String method, String label) {
        return call("POST", "/attempt/enrolments", new PortalApi.NewEnrolment(method, label))
                .as(PortalApi.OfferedEnrolment.class);
    }

    /** Asks by a method and answers. */
    Answer proveBy(String method, String code) {
        attempt = ask(method).as(PortalApi.Attempt.class);
        var answer = answer(code);
        if (answer.status() == 200) {
            attempt = answer.as(PortalApi.Attempt.class);
        }
        return answer;
    }

    Answer answer(String code) {
        return call(
                "POST", "/attempt/challenges/" + attempt.challenge().id() + "/answers", PortalApi.Answer.typed(code));
    }

    /** Up to the proof. */
    ApiPerson prove(String login, String address) {
        start(login).as(PortalApi.Attempt.class);
        attempt = ask().as(PortalApi.Attempt.class);
        attempt = answer(world.mailbox.codeOf(attempt.reference(), address)).as(PortalApi.Attempt.class);
        return this;
    }

    PortalApi.Sealing sealing() {
        return call("GET", "/attempt/sealing", null).as(PortalApi.Sealing.class);
    }

    /** Seals for every directory and hands in. */
    ApiPerson choose(String password) {
        var sealing = sealing();
        var sealed = new ArrayList<PortalApi.SealedPassword>();
        for (var target : sealing.targets()) {
            sealed.add(seal(sealing, target, password));
        }
        attempt = handIn(sealed).as(PortalApi.Attempt.class);
        return this;
    }

    /** Seals the old and the new password together, as a change does. */
    ApiPerson change(String old, String password) {
        var sealing = sealing();
        var sealed = new ArrayList<PortalApi.SealedPassword>();
        for (var target : sealing.targets()) {
            var recipients = recipients(target, world.now());
            var seal = Seal.parse(Sealer.seal(
                    binding(sealing, target, recipients, key.publicKey()),
                    recipients,
                    Map.of("v", 1, "password", password, "old", old)));
            sealed.add(new PortalApi.SealedPassword(seal.text(), evidence(seal).sign(key)));
        }
        attempt = handIn(sealed).as(PortalApi.Attempt.class);
        return this;
    }

    /** Agrees to an unlock in every directory. */
    ApiPerson unlock() {
        var sealing = sealing();
        attempt = handIn(sealing.targets().stream()
                        .map(t -> new PortalApi.SealedPassword(
                                null, unlockEvidence(sealing, t).sign(key)))
                        .toList())
                .as(PortalApi.Attempt.class);
        return this;
    }

    static Evidence unlockEvidence(PortalApi.Sealing sealing, PortalApi.Target target) {
        return new Evidence(
                1,
                sealing.attempt(),
                target.directory(),
                sealing.action(),
                target.accounts().stream().map(PortalApi.TargetAccount::id).toList(),
                null,
                System.currentTimeMillis(),
                sealing.expiresAt().toEpochMilli());
    }

    /** Goes on without proving again. */
    Answer goOn() {
        return call("POST", "/attempt/continuation", null);
    }

    /** What the page says about one directory's account. */
    PortalApi.AccountResult account(String directoryTitle) {
        return attempt.accounts().stream()
                .filter(a -> a.directory().equals(directoryTitle))
                .findFirst()
                .orElseThrow();
    }

    Answer handIn(List<PortalApi.SealedPassword> sealed) {
        return call("POST", "/attempt/passwords", new PortalApi.SealedPasswords(sealed));
    }

    PortalApi.SealedPassword seal(PortalApi.Sealing sealing, PortalApi.Target target, String password) {
        var recipients = recipients(target, world.now());
        var seal = Seal.parse(Sealer.seal(
                binding(sealing, target, recipients, key.publicKey()),
                recipients,
                Map.of("v", 1, "password", password)));
        return new PortalApi.SealedPassword(seal.text(), evidence(seal).sign(key));
    }

    /** The key of the first steward on the roster. */
    static EcKey recipient(PortalApi.Target target) {
        return recipients(target, Instant.now()).get(0);
    }

    /** The keys of all stewards on the roster that are ready, in its order. */
    static List<EcKey> recipients(PortalApi.Target target, Instant now) {
        var roster = Roster.verify(target.roster(), target.operatorKey(), target.directory());
        var keys = new ArrayList<EcKey>();
        for (var steward : roster.stewards()) {
            for (var statement : target.sealingKeys()) {
                try {
                    keys.add(SealingKey.verify(statement, steward, target.directory(), now)
                            .key());
                } catch (InvalidDocument e) {
                    // Another steward's.
                }
            }
        }
        return keys;
    }

    static SealBinding binding(PortalApi.Sealing sealing, PortalApi.Target target, EcKey recipient, EcKey attemptKey) {
        return binding(sealing, target, List.of(recipient), attemptKey);
    }

    static SealBinding binding(
            PortalApi.Sealing sealing, PortalApi.Target target, List<EcKey> recipients, EcKey attemptKey) {
        return new SealBinding(
                1,
                randomId(),
                sealing.attempt(),
                target.directory(),
                sealing.action(),
                target.accounts().stream().map(PortalApi.TargetAccount::id).toList(),
                Roster.digest(target.roster()),
                attemptKey.thumbprint(),
                recipients.stream().map(EcKey::thumbprint).toList(),
                sealing.expiresAt().toEpochMilli());
    }

    static String randomId() {
        var bytes = new byte[16];
        new SecureRandom().nextBytes(bytes);
        return Base64.getUrlEncoder().withoutPadding().encodeToString(bytes);
    }

    static Evidence evidence(Seal seal) {
        var binding = seal.binding();
        return new Evidence(
                1,
                binding.attempt(),
                binding.directory(),
                binding.action(),
                binding.accounts(),
                seal.digest(),
                System.currentTimeMillis(),
                binding.exp());
    }

    /** Where the attempt stands now. */
    PortalApi.Attempt look() {
        attempt = call("GET", "/attempt", null).as(PortalApi.Attempt.class);
        return attempt;
    }

    /** Waits until the deliveries have ended. */
    PortalApi.Attempt waitForOutcome(Duration patience) {
        try {
            World.waitUntil(
                    patience, "the attempt is told", () -> !look().state().equals("delivering"));
        } catch (AssertionError late) {
            throw new AssertionError(
                    late.getMessage() + "; its orders: "
                            + world.query("SELECT d.directory, d.state, d.epoch,"
                                    + " d.steward, d.leased_at, d.begun_at, d.held_until, entente_time() FROM delivery d WHERE d.reference = '"
                                    + attempt.reference().replaceAll("[^0-9]", "") + "'"),
                    late);
        }
        return attempt;
    }

    /** The state of one directory's account. */
    String result(String directoryTitle) {
        return attempt.accounts().stream()
                .filter(a -> a.directory().equals(directoryTitle))
                .map(PortalApi.AccountResult::state)
                .findFirst()
                .orElseThrow();
    }
}
