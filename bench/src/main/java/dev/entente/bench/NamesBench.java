package dev.entente.bench;

import dev.entente.core.seal.SigningKey;
import dev.entente.core.verify.Method;
import dev.entente.wire.AttemptAct;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.security.SecureRandom;
import java.util.ArrayList;
import java.util.Collections;
import java.util.EnumMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Random;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Executors;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.Collectors;

/**
 * Whether the time that answers take tells names that exist from names that don't. Goes through the funnel up to a wrong answer,
 * with every method that can come first, for as many names of both kinds, one after the other by chance; first with nothing else
 * going on, then beside a crowd of strangers. For each call: the area under the curve of telling them apart by time, 0.5 if that
 * is no better than tossing a coin. What was planted is two milliseconds added to the times of names that exist: what this
 * measurement would see.
 */
public final class NamesBench {
    private static final double PLANTED_MS = 2;
    private static final SecureRandom RANDOM = new SecureRandom();
    private static final HttpClient HTTP =
            HttpClient.newBuilder().version(HttpClient.Version.HTTP_1_1).build();

    private enum Call {
        START,
        ASK,
        ANSWER
    }

    /**
     * How much of everything.
     *
     * @param calls of each kind, for each kind of name
     * @param atOnce funnels side by side
     * @param crowd of strangers side by side besides, under load
     */
    private record Extent(int warm, int calls, int atOnce, int crowd) {
        static final Extent FULL = new Extent(200, 2000, 12, 24);
        static final Extent BRIEF = new Extent(2, 4, 4, 2);
    }

    private final Surroundings at;
    private final Extent extent;
    private final List<String> known;
    private List<String> methods;
    /** One key serves for all: what is signed with it is not looked at before the first proof. */
    private final SigningKey key = SigningKey.generate(RANDOM);

    private NamesBench(Surroundings at) throws IOException {
        this.at = at;
        this.extent = at.brief() ? Extent.BRIEF : Extent.FULL;
        this.known = List.copyOf(at.people().keySet());
        this.methods = Method.known().stream()
                .filter(Method::mayComeFirst)
                .map(Method::label)
                .toList();
    }

    /** Arguments: those of {@link Surroundings}. */
    public static void main(String[] arguments) {
        try {
            new NamesBench(Surroundings.of(arguments)).run();
            System.exit(0);
        } catch (Exception e) {
            e.printStackTrace();
            // Whoever is still under way would keep the program from ending.
            System.exit(1);
        }
    }

    /** Milliseconds that each call took, for names that exist and for those that don't. */
    private static final class Times {
        private final Map<Call, List<Double>> there = new EnumMap<>(Call.class);
        private final Map<Call, List<Double>> not = new EnumMap<>(Call.class);

        private Times() {
            for (var call : Call.values()) {
                there.put(call, Collections.synchronizedList(new ArrayList<>()));
                not.put(call, Collections.synchronizedList(new ArrayList<>()));
            }
        }

        private void took(Call call, boolean exists, long nanos) {
            (exists ? there : not).get(call).add(nanos / 1e6);
        }

        private double auc(Call call, double planted) {
            return NamesBench.auc(there.get(call).stream().map(t -> t + planted).toList(), not.get(call));
        }
    }

    /** The chance that one of the first is larger than one of the others; ties count half (Mann and Whitney). */
    static double auc(List<Double> these, List<Double> others) {
        var sorted = others.stream().sorted().mapToDouble(d -> d).toArray();
        var larger = 0.0;
        for (var one : these) {
            larger += (below(sorted, one, false) + below(sorted, one, true)) / 2.0;
        }
        return larger / (1.0 * these.size() * others.size());
    }

    /** How many are less, or not more. */
    private static int below(double[] sorted, double than, boolean same) {
        var from = 0;
        var to = sorted.length;
        while (from < to) {
            var middle = (from + to) / 2;
            if (sorted[middle] < than || same && sorted[middle] == than) {
                from = middle + 1;
            } else {
                to = middle;
            }
        }
        return from;
    }

    private void run() throws Exception {
        BenchPolicy.publish(
                at.work(), "shore, fleet", "", "{ methods: 2, any-of: [" + String.join(", ", methods) + "] }");
        methods = offered();
        System.out.println("methods that are offered first: " + String.join(", ", methods));
        funnels(extent.warm(), new Times());
        var rest = new Times();
        funnels(extent.calls(), rest);
        print("at rest", rest);
        var load = new Times();
        var over = new AtomicBoolean();
        var crowd = Executors.newFixedThreadPool(extent.crowd());
        for (var i = 0; i < extent.crowd(); i++) {
            crowd.submit((Callable<Void>) () -> {
                while (!over.get()) {
                    funnel(madeUp(), methods.get(new Random().nextInt(methods.size())), false, new Times());
                }
                return null;
            });
        }
        funnels(extent.calls(), load);
        over.set(true);
        crowd.shutdown();
        print("beside " + extent.crowd() + " strangers", load);
        System.out.printf(
                Locale.ROOT,
                "names start-auc=%.3f ask-auc=%.3f answer-auc=%.3f planted-2ms-auc=%.3f%n",
                worse(Call.START, rest, load),
                worse(Call.ASK, rest, load),
                worse(Call.ANSWER, rest, load),
                rest.auc(Call.START, PLANTED_MS));
    }

    private static double worse(Call call, Times rest, Times load) {
        var one = rest.auc(call, 0);
        var other = load.auc(call, 0);
        return Math.abs(one - 0.5) > Math.abs(other - 0.5) ? one : other;
    }

    private static void print(String when, Times times) {
        for (var call : Call.values()) {
            var all = new ArrayList<>(times.there.get(call));
            all.addAll(times.not.get(call));
            Collections.sort(all);
            System.out.printf(
                    Locale.ROOT,
                    "%s, %s: 2 x %d calls, p50 %.1f ms, p95 %.1f ms, area %.3f, with two milliseconds planted %.3f%n",
                    when,
                    call.name().toLowerCase(Locale.ROOT),
                    times.there.get(call).size(),
                    all.get(all.size() / 2),
                    all.get(all.size() * 95 / 100),
                    times.auc(call, 0),
                    times.auc(call, PLANTED_MS));
        }
    }

    private List<String> offered() throws IOException, InterruptedException {
        var visit = new Visit();
        visit.start(madeUp());
        var attempt = visit.attempt;
        if (!at.brief() && !attempt.methods().containsAll(methods)) {
            throw new IllegalStateException("offered are only " + attempt.methods());
        }
        return attempt.methods();
    }

    /** As many of each kind of name, in an order that is by chance. */
    private void funnels(int each, Times times) throws InterruptedException, ExecutionException {
        var order = new ArrayList<Boolean>();
        for (var i = 0; i < each; i++) {
            order.add(true);
            order.add(false);
        }
        Collections.shuffle(order, RANDOM);
        var next = new AtomicInteger();
        var threads = Executors.newFixedThreadPool(extent.atOnce());
        var running = order.stream()
                .map(exists -> threads.submit((Callable<Void>) () -> {
                    var i = next.getAndIncrement();
                    funnel(
                            exists ? known.get(i % known.size()) : madeUp(),
                            methods.get(RANDOM.nextInt(methods.size())),
                            exists,
                            times);
                    return null;
                }))
                .toList();
        for (var one : running) {
            one.get();
        }
        threads.shutdown();
    }

    /** A name that nobody has, made of the letters of one that somebody has. */
    private String madeUp() {
        var letters = known.get(RANDOM.nextInt(known.size()))
                .chars()
                .mapToObj(c -> String.valueOf((char) c))
                .collect(Collectors.toList());
        Collections.shuffle(letters, RANDOM);
        return String.join("", letters);
    }

    private void funnel(String name, String method, boolean exists, Times times)
            throws IOException, InterruptedException {
        var visit = new Visit();
        times.took(Call.START, exists, visit.start(name));
        var end = Method.of(method).costs() ? "0000" : null;
        var before = System.nanoTime();
        var asked = visit.call("/attempt/challenges", new PortalApi.Ask(method, end, null), 201);
        times.took(Call.ASK, exists, System.nanoTime() - before);
        // What waits for somebody else is asked with an empty answer, and a signature is none; everything else is
        // typed.
        var answer = switch (method) {
            case "passkey" -> new PortalApi.Answer(null, Map.of("credential", "{}"));
            case "push", "email-link", "staff-confirmation" -> new PortalApi.Answer(null, Map.of());
            default -> PortalApi.Answer.typed("00000000");
        };
        before = System.nanoTime();
        visit.call("/attempt/challenges/" + asked.challenge().id() + "/answers", answer, 202, 422);
        times.took(Call.ANSWER, exists, System.nanoTime() - before);
    }

    /** A browser of its own. */
    private final class Visit {
        private String cookie = "";
        private PortalApi.Attempt attempt;

        /** Starts, after work where that is asked for; how long the call took that did. */
        private long start(String name) throws IOException, InterruptedException {
            PortalApi.Work work = null;
            while (true) {
                var before = System.nanoTime();
                var answer = send("/attempts", new PortalApi.Start(name, "reset", key.publicKey(), work));
                var took = System.nanoTime() - before;
                if (answer.statusCode() == 201) {
                    attempt = Recovery.JSON.readValue(answer.body(), PortalApi.Attempt.class);
                    return took;
                }
                if (answer.statusCode() != 428) {
                    throw new IllegalStateException("/attempts " + answer.statusCode() + " " + answer.body());
                }
                work = Recovery.work(Recovery.JSON.readTree(answer.body()));
            }
        }

        private HttpResponse<String> send(String path, Object body) throws IOException, InterruptedException {
            var text = Recovery.JSON.writeValueAsString(body);
            var request = HttpRequest.newBuilder(URI.create(at.url() + "/api/v1/portal" + path))
                    .header("Content-Type", "application/json")
                    .header("Cookie", cookie)
                    .POST(HttpRequest.BodyPublishers.ofString(text));
            if (attempt != null) {
                var reference = attempt.reference().replaceAll("[^0-9]", "");
                request.header(AttemptAct.HEADER, AttemptAct.sign(key, reference, "POST", path, text));
            }
            var answer = HTTP.send(request.build(), HttpResponse.BodyHandlers.ofString());
            answer.headers().firstValue("Set-Cookie").ifPresent(set -> cookie = set.split(";", 2)[0]);
            return answer;
        }

        private PortalApi.Attempt call(String path, Object body, Integer... expected)
                throws IOException, InterruptedException {
            var answer = send(path, body);
            if (!List.of(expected).contains(answer.statusCode())) {
                throw new IllegalStateException(path + " " + answer.statusCode() + " " + answer.body());
            }
            return answer.statusCode() / 100 == 2
                    ? Recovery.JSON.readValue(answer.body(), PortalApi.Attempt.class)
                    : null;
        }
    }
}
