package dev.entente.bench;

import dev.entente.core.attempt.Cause;
import dev.entente.core.attempt.Outcome;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.Order;
import dev.entente.core.seal.Receipt;
import dev.entente.core.seal.Roster;
import dev.entente.core.seal.SealingKey;
import dev.entente.core.seal.SigningKey;
import dev.entente.wire.DirectoryApi;
import dev.entente.wire.StewardApi;
import dev.entente.wire.StewardCall;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.security.GeneralSecurityException;
import java.security.KeyPairGenerator;
import java.security.SecureRandom;
import java.security.interfaces.ECPublicKey;
import java.security.spec.ECGenParameterSpec;
import java.time.Duration;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Queue;
import java.util.UUID;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.Supplier;
import tools.jackson.databind.json.JsonMapper;

/**
 * A steward without a directory, by the protocol of docs/protocol.md: it joined, waits for work, hands in the people that it is
 * given, looks for changes as stewards do, and says of every order that it was carried out, or that it failed. It opens no seal.
 */
public final class StewardDouble {
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final SecureRandom RANDOM = new SecureRandom();
    private static final Duration KEY_LIFE = Duration.ofHours(12);

    private final String url;
    private final UUID id;
    private final String name;
    private final UUID directory;
    private final SigningKey key;
    private final EcKey serviceKey;
    private final Supplier<StewardApi.Batch> contents;
    private final InstantSource clock;
    private final HttpClient http;
    private final ScheduledExecutorService timer;
    private final String instance = UUID.randomUUID().toString();
    /** In one batch. */
    private static final int MOST_PEOPLE = 500;

    private final AtomicInteger synced = new AtomicInteger();
    private final AtomicInteger failed = new AtomicInteger();
    private final AtomicInteger version = new AtomicInteger(1);
    private final Queue<Order> held = new ConcurrentLinkedQueue<>();
    private volatile boolean holding;
    private volatile Outcome outcome = Outcome.DONE;
    private volatile Cause cause;
    private volatile StewardApi.Demand demand;
    private volatile boolean over;

    private StewardDouble(
            String url,
            StewardApi.Joined joined,
            String name,
            SigningKey key,
            Supplier<StewardApi.Batch> contents,
            InstantSource clock,
            HttpClient http,
            ScheduledExecutorService timer) {
        this.url = url;
        this.id = joined.steward();
        this.name = name;
        this.directory = joined.directory();
        this.key = key;
        this.serviceKey = joined.serviceKey();
        this.contents = contents;
        this.clock = clock;
        this.http = http;
        this.timer = timer;
    }

    /**
     * Joins with a code; on no roster yet.
     *
     * @param contents what a sync of the directory reads at that moment; null for nothing
     * @param clock of its calls, which have to be of the service's time
     * @param timer shared by many
     */
    public static StewardDouble join(
            String url,
            String name,
            String code,
            Supplier<StewardApi.Batch> contents,
            InstantSource clock,
            HttpClient http,
            ScheduledExecutorService timer)
            throws IOException, InterruptedException {
        var key = SigningKey.generate(RANDOM);
        var request = HttpRequest.newBuilder(URI.create(url + "/api/v1/steward/join"))
                .header("Content-Type", "application/json")
                .POST(HttpRequest.BodyPublishers.ofString(
                        JSON.writeValueAsString(new StewardApi.Join(code, key.publicKey(), "double"))))
                .build();
        var answer = http.send(request, HttpResponse.BodyHandlers.ofString());
        if (answer.statusCode() / 100 != 2) {
            throw new IllegalStateException("not joined: " + answer.body());
        }
        return new StewardDouble(
                url, JSON.readValue(answer.body(), StewardApi.Joined.class), name, key, contents, clock, http, timer);
    }

    /** As a roster lists it. */
    public Roster.Member member() {
        return new Roster.Member(id, name, key.publicKey());
    }

    public UUID directory() {
        return directory;
    }

    /** How often it read everything. */
    public int synced() {
        return synced.get();
    }

    /** How many calls were not answered as they should be. */
    public int failed() {
        return failed.get();
    }

    /** Begins to wait for work; to be called once it is on the roster. */
    public void start() {
        waitForWork();
    }

    /** Hands in a key that passwords can be sealed to. Nobody keeps its other half: what is sealed to it is lost. */
    public void offerSealingKey() {
        try {
            var generator = KeyPairGenerator.getInstance("EC");
            generator.initialize(new ECGenParameterSpec("secp256r1"), RANDOM);
            var now = clock.instant();
            var statement = new SealingKey(
                    1,
                    id,
                    directory,
                    EcKey.of((ECPublicKey) generator.generateKeyPair().getPublic()),
                    now.toEpochMilli(),
                    now.plus(KEY_LIFE).toEpochMilli());
            call("/sealing-keys", new StewardApi.SealingKeyStatement(statement.sign(key)), answer -> {});
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Announces this demand from now on; null for none. */
    public void demand(StewardApi.Demand wanted) {
        demand = wanted;
    }

    /** Says of every order from now on that it failed. */
    public void fail(Cause why) {
        say(Outcome.FAILED, why);
    }

    /** Says of every order from now on that it was carried out. */
    public void succeed() {
        say(Outcome.DONE, null);
    }

    /** Says this of every order from now on. */
    public void say(Outcome what, Cause why) {
        outcome = what;
        cause = why;
    }

    /** Carries out nothing until it may go on, as one that is slow. */
    public void hold() {
        holding = true;
    }

    /** Carries out what was held, and from now on whatever comes. */
    public void goOn() {
        holding = false;
        for (var order = held.poll(); order != null; order = held.poll()) {
            carryOut(order);
        }
    }

    /** Says and does nothing more. */
    public void stop() {
        over = true;
    }

    private interface Answered {
        void with(HttpResponse<String> answer);
    }

    private void call(String path, Object body, Answered then) {
        var text = JSON.writeValueAsString(body);
        var uri = URI.create(url + "/api/v1/steward" + path);
        var signed = StewardCall.sign(key, id, "POST", uri.getPath(), text, clock.instant());
        var request = HttpRequest.newBuilder(uri)
                .timeout(Duration.ofSeconds(StewardApi.USUAL_WAIT + 20))
                .header("Content-Type", "application/json")
                .header("Authorization", "Steward " + id + " " + signed)
                .POST(HttpRequest.BodyPublishers.ofString(text))
                .build();
        http.sendAsync(request, HttpResponse.BodyHandlers.ofString()).whenComplete((answer, e) -> {
            if (over) {
                return;
            }
            if (e != null || answer.statusCode() / 100 != 2) {
                failed.incrementAndGet();
                if (path.equals("/work")) {
                    // A steward waits once; whoever else of it failed does not begin to wait besides.
                    timer.schedule(this::waitForWork, 1, TimeUnit.SECONDS);
                }
            } else {
                then.with(answer);
            }
        });
    }

    private void waitForWork() {
        call(
                "/work",
                new StewardApi.AskForWork(
                        "double",
                        StewardApi.USUAL_WAIT,
                        16,
                        instance,
                        "https://localhost:1",
                        null,
                        1,
                        List.of(),
                        demand),
                answer -> {
                    if (answer.statusCode() == 200) {
                        perform(JSON.readValue(answer.body(), StewardApi.Work.class));
                    }
                    waitForWork();
                });
    }

    private void perform(StewardApi.Work work) {
        for (var signed : work.orders()) {
            held.add(Order.verify(signed, serviceKey));
        }
        if (!holding) {
            goOn();
        }
        var task = work.task();
        if (task == null) {
            return;
        }
        switch (task.kind()) {
            // Nothing ever changes here: this is told when the time to look is over.
            case "changes" ->
                timer.schedule(
                        () -> call(
                                "/changes",
                                new StewardApi.Changes(task.cursor(), task.cursor(), null, null, true),
                                answer -> {}),
                        task.watchSeconds(),
                        TimeUnit.SECONDS);
            case "sync" -> {
                var read = contents == null ? null : contents.get();
                if (read == null) {
                    end(task, List.of());
                } else {
                    handIn(task, read);
                }
            }
            default -> end(task, List.of());
        }
    }

    private void handIn(StewardApi.Task task, StewardApi.Batch read) {
        var people = read.people();
        if (people.size() <= MOST_PEOPLE) {
            call("/jobs/" + task.id() + "/batch", read, answer -> end(task, null));
            return;
        }
        var first = new StewardApi.Batch(people.subList(0, MOST_PEOPLE), List.of(), List.of(), List.of());
        var rest = new StewardApi.Batch(
                people.subList(MOST_PEOPLE, people.size()), read.groups(), read.ous(), read.gone());
        call("/jobs/" + task.id() + "/batch", first, answer -> handIn(task, rest));
    }

    private void end(StewardApi.Task task, List<DirectoryApi.Finding> findings) {
        call(
                "/jobs/" + task.id() + "/end",
                new StewardApi.JobEnd(true, null, task.kind().equals("preflight") ? findings : null, "1"),
                answer -> {
                    if (task.kind().equals("sync")) {
                        synced.incrementAndGet();
                    }
                });
    }

    private void carryOut(Order order) {
        var before = String.valueOf(version.getAndIncrement());
        if (order.check()) {
            tell(order, before);
            return;
        }
        call(
                "/orders/begin",
                new StewardApi.Begins(List.of(new StewardApi.Begin(order.id(), order.epoch(), "double", before))),
                answer -> {
                    if (JSON.readValue(answer.body(), StewardApi.Begun.class)
                            .orders()
                            .contains(order.id())) {
                        tell(order, before);
                    }
                });
    }

    private void tell(Order order, String before) {
        var done = outcome == Outcome.DONE;
        var receipt = new Receipt(
                1,
                order.id(),
                order.epoch(),
                id,
                outcome,
                cause,
                null,
                "double",
                before,
                done ? String.valueOf(version.get()) : before,
                done ? "0" : null,
                null,
                Map.of(),
                clock.millis(),
                "none",
                null);
        call(
                "/orders/receipts",
                new StewardApi.Receipts(List.of(new StewardApi.ReceiptStatement(order.id(), receipt.sign(key)))),
                taken -> {});
    }
}
