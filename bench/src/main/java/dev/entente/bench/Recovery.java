package dev.entente.bench;

import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.Evidence;
import dev.entente.core.seal.Roster;
import dev.entente.core.seal.Seal;
import dev.entente.core.seal.SealBinding;
import dev.entente.core.seal.SealingKey;
import dev.entente.core.seal.SigningKey;
import dev.entente.wire.AttemptAct;
import dev.entente.wire.PortalApi;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.math.BigInteger;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.security.SecureRandom;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.concurrent.atomic.AtomicInteger;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** One recovery through the portal's API, with the calls that a browser makes; see docs/protocol.md. */
public final class Recovery {
    private static final int WORK_WANTED = 428;
    static final JsonMapper JSON = JsonMapper.shared();
    private static final SecureRandom RANDOM = new SecureRandom();
    private static final AtomicInteger NUMBER = new AtomicInteger();
    private static final HttpClient HTTP;

    static {
        // A server closes connections that were idle for twenty seconds; a call on one of them gets no answer.
        // Seconds.
        System.setProperty("jdk.httpclient.keepalive.timeout", "10");
        HTTP = HttpClient.newBuilder().version(HttpClient.Version.HTTP_1_1).build();
    }

    private final String url;
    private final String login;
    private final String address;
    private final SigningKey key = SigningKey.generate(RANDOM);
    private String cookie = "";
    private String reference = "";
    private List<PortalApi.SealedPassword> sealed;

    Recovery(String url, String login, String address) {
        this.url = url;
        this.login = login;
        this.address = address;
    }

    /** One that nobody used before and that every directory takes. */
    static String password() {
        return "Bench-Quay-" + NUMBER.incrementAndGet() + "-" + Long.toString(System.nanoTime(), 36);
    }

    private HttpRequest.Builder request(String method, String path, String body) {
        var request = HttpRequest.newBuilder(URI.create(url + "/api/v1/portal" + path))
                .header("Content-Type", "application/json")
                .header("Cookie", cookie);
        return path.equals("/attempts")
                ? request
                : request.header(AttemptAct.HEADER, AttemptAct.sign(key, reference, method, path, body));
    }

    /** Does the work that the problem {@code work-wanted} asks for, as the page does. */
    public static PortalApi.Work work(JsonNode wanted) {
        var seed = wanted.path("seed").asString();
        try {
            var sha256 = MessageDigest.getInstance("SHA-256");
            for (var nonce = 0; ; nonce++) {
                var hash = sha256.digest((seed + "." + nonce).getBytes(StandardCharsets.US_ASCII));
                if (new BigInteger(1, hash).bitLength()
                        <= 256 - wanted.path("bits").asInt()) {
                    return new PortalApi.Work(seed, String.valueOf(nonce));
                }
            }
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("the JDK has no SHA-256", e);
        }
    }

    private <T> T call(String method, String path, Object body, Class<T> type)
            throws IOException, InterruptedException {
        var text = body == null ? "" : JSON.writeValueAsString(body);
        var request = request(method, path, text)
                .method(
                        method,
                        body == null ? HttpRequest.BodyPublishers.noBody() : HttpRequest.BodyPublishers.ofString(text))
                .build();
        var answer = HTTP.send(request, HttpResponse.BodyHandlers.ofString());
        if (answer.statusCode() == WORK_WANTED && body instanceof PortalApi.Start start) {
            return call(
                    method,
                    path,
                    new PortalApi.Start(start.name(), start.action(), start.key(), work(JSON.readTree(answer.body()))),
                    type);
        }
        if (answer.statusCode() / 100 != 2) {
            throw new IllegalStateException(path + " " + answer.statusCode() + " " + answer.body());
        }
        answer.headers().firstValue("Set-Cookie").ifPresent(set -> cookie = set.split(";", 2)[0]);
        var said = JSON.readValue(answer.body(), type);
        if (body instanceof PortalApi.Start && said instanceof PortalApi.Attempt started) {
            reference = started.reference().replaceAll("[^0-9]", "");
        }
        return said;
    }

    /** Nanoseconds from asking for a code until it is there. */
    long askFor(Mailbox mailbox) throws IOException, InterruptedException {
        var started = call(
                "POST", "/attempts", new PortalApi.Start(login, "reset", key.publicKey()), PortalApi.Attempt.class);
        var asked = System.nanoTime();
        call("POST", "/attempt/challenges", new PortalApi.Ask("email-code", null, null), PortalApi.Attempt.class);
        mailbox.codeOf(started.reference(), address);
        return System.nanoTime() - asked;
    }

    /** Up to the passwords that are ready to be handed in. */
    void prove(Mailbox mailbox) throws IOException, InterruptedException {
        var started = call(
                "POST", "/attempts", new PortalApi.Start(login, "reset", key.publicKey()), PortalApi.Attempt.class);
        var asked = call(
                "POST", "/attempt/challenges", new PortalApi.Ask("email-code", null, null), PortalApi.Attempt.class);
        var code = mailbox.codeOf(started.reference(), address);
        call(
                "POST",
                "/attempt/challenges/" + asked.challenge().id() + "/answers",
                PortalApi.Answer.typed(code),
                PortalApi.Attempt.class);
        var sealing = call("GET", "/attempt/sealing", null, PortalApi.Sealing.class);
        var password = password();
        sealed = sealing.targets().stream()
                .map(target -> seal(sealing, target, password))
                .toList();
    }

    private PortalApi.SealedPassword seal(PortalApi.Sealing sealing, PortalApi.Target target, String password) {
        var recipients = new ArrayList<EcKey>();
        var roster = Roster.verify(target.roster(), target.operatorKey(), target.directory());
        for (var i = 0; i < roster.stewards().size(); i++) {
            recipients.add(SealingKey.verify(
                            target.sealingKeys().get(i), roster.stewards().get(i), target.directory(), Instant.now())
                    .key());
        }
        var id = new byte[16];
        RANDOM.nextBytes(id);
        var binding = new SealBinding(
                1,
                Base64.getUrlEncoder().withoutPadding().encodeToString(id),
                sealing.attempt(),
                target.directory(),
                sealing.action(),
                target.accounts().stream().map(PortalApi.TargetAccount::id).toList(),
                Roster.digest(target.roster()),
                key.publicKey().thumbprint(),
                recipients.stream().map(EcKey::thumbprint).toList(),
                sealing.expiresAt().toEpochMilli());
        var seal = Seal.parse(Sealer.seal(binding, recipients.get(0), password));
        var evidence = new Evidence(
                1,
                binding.attempt(),
                binding.directory(),
                binding.action(),
                binding.accounts(),
                seal.digest(),
                System.currentTimeMillis(),
                binding.exp());
        return new PortalApi.SealedPassword(seal.text(), evidence.sign(key));
    }

    void handIn() throws IOException, InterruptedException {
        call("POST", "/attempt/passwords", new PortalApi.SealedPasswords(sealed), PortalApi.Attempt.class);
    }

    /** Follows the attempt as the page does, until it has ended, and says how. */
    String outcome() throws IOException, InterruptedException {
        var answer =
                HTTP.send(request("GET", "/attempt/updates", "").build(), HttpResponse.BodyHandlers.ofInputStream());
        try (var lines = new BufferedReader(new InputStreamReader(answer.body(), StandardCharsets.UTF_8))) {
            for (var line = lines.readLine(); line != null; line = lines.readLine()) {
                if (line.startsWith("data:")) {
                    var state = JSON.readValue(line.substring(5), PortalApi.Attempt.class)
                            .state();
                    if (!state.equals("delivering")) {
                        return state;
                    }
                }
            }
        }
        throw new IllegalStateException("the page was told nothing of how it ended");
    }
}
