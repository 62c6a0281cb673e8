package dev.entente.e2e;

import dev.entente.bench.Mailbox;
import dev.entente.core.seal.SigningKey;
import dev.entente.core.verify.appcode.AppCode;
import dev.entente.wire.AttemptAct;
import dev.entente.wire.PortalApi;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.SecureRandom;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.regex.Pattern;
import tools.jackson.databind.json.JsonMapper;

/**
 * Some of the demo's people set up methods, as they would: by the portal's API, after a code by e-mail. Arguments: portal and
 * stand-ins. Standard input: a line for each person with a login name, an address and the methods, separated by tabs.
 */
public final class DemoMethods {
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final Pattern CHECK = Pattern.compile("class=check>([0-9]{6})<");
    private static final int SIDE_BY_SIDE = 3;
    private static final PortalApi.Answer QUESTIONS = new PortalApi.Answer(
            null,
            Map.of(
                    "1.question",
                    "first-crossing",
                    "1.answer",
                    "Kirkwall",
                    "2.question",
                    "home-dish",
                    "2.answer",
                    "Fish soup",
                    "3.question",
                    "pin",
                    "3.answer",
                    "830164"));

    private final String portal;
    private final String box;
    private final HttpClient http = HttpClient.newHttpClient();
    private final SigningKey key = SigningKey.generate(new SecureRandom());
    private String cookie = "";
    private String reference = "";

    private DemoMethods(String portal, String box) {
        this.portal = portal;
        this.box = box;
    }

    /** Runs it. */
    public static void main(String[] arguments) throws Exception {
        var lines = new BufferedReader(new InputStreamReader(System.in, StandardCharsets.UTF_8))
                .lines()
                .toList();
        var pool = Executors.newFixedThreadPool(SIDE_BY_SIDE);
        try {
            for (var one : pool.invokeAll(lines.stream()
                    .map(line -> (Callable<Void>) () -> {
                        var parts = line.split("\t");
                        new DemoMethods(arguments[0], arguments[1])
                                .setUp(parts[0], parts[1], List.of(parts[2].split(",")));
                        return null;
                    })
                    .toList())) {
                done(one);
            }
        } finally {
            pool.shutdown();
        }
        System.out.println(lines.size() + " people have set up methods");
    }

    private static void done(Future<Void> one) throws Exception {
        try {
            one.get();
        } catch (ExecutionException e) {
            throw new IllegalStateException(e.getCause());
        }
    }

    private void setUp(String login, String address, List<String> methods)
            throws IOException, InterruptedException, GeneralSecurityException {
        var started = call(
                "POST", "/attempts", new PortalApi.Start(login, "details", key.publicKey()), PortalApi.Attempt.class);
        reference = started.reference().replaceAll("[^0-9]", "");
        var asked = call(
                "POST", "/attempt/challenges", new PortalApi.Ask("email-code", null, null), PortalApi.Attempt.class);
        call(
                "POST",
                "/attempt/challenges/" + asked.challenge().id() + "/answers",
                PortalApi.Answer.typed(new Mailbox(box).codeOf(started.reference(), address)),
                PortalApi.Attempt.class);
        for (var method : methods) {
            var offered = call(
                    "POST",
                    "/attempt/enrolments",
                    new PortalApi.NewEnrolment(method, null),
                    PortalApi.OfferedEnrolment.class);
            if (!offered.complete()) {
                var answer = switch (method) {
                    case "push" ->
                        PortalApi.Answer.typed(registered(offered.parts().get("link")));
                    case "questions" -> QUESTIONS;
                    case "passkey" -> new SoftPasskey(portal).register(offered);
                    default ->
                        PortalApi.Answer.typed(
                                AppCode.parse(offered.parts().get("secret")).at(System.currentTimeMillis() / 30_000));
                };
                call("POST", "/attempt/enrolments/" + offered.id() + "/confirmation", answer, Object.class);
            }
        }
        call("POST", "/attempt/end", null, Object.class);
    }

    /** Opens a link on the stand-in phone; the digits that it shows. */
    private String registered(String link) throws IOException, InterruptedException {
        synchronized (DemoMethods.class) {
            var answer = http.send(
                    HttpRequest.newBuilder(URI.create(box + "/handset"))
                            .POST(HttpRequest.BodyPublishers.ofString(
                                    "link=" + URLEncoder.encode(link, StandardCharsets.UTF_8)))
                            .build(),
                    HttpResponse.BodyHandlers.ofString());
            var check = CHECK.matcher(answer.body());
            if (!check.find()) {
                throw new IllegalStateException("the phone shows no digits");
            }
            return check.group(1);
        }
    }

    private <T> T call(String method, String path, Object body, Class<T> type)
            throws IOException, InterruptedException {
        var text = body == null ? "" : JSON.writeValueAsString(body);
        var request = HttpRequest.newBuilder(URI.create(portal + "/api/v1/portal" + path))
                .header("Content-Type", "application/json")
                .header("Cookie", cookie)
                .method(
                        method,
                        body == null ? HttpRequest.BodyPublishers.noBody() : HttpRequest.BodyPublishers.ofString(text));
        if (!reference.isEmpty()) {
            request.header(AttemptAct.HEADER, AttemptAct.sign(key, reference, method, path, text));
        }
        var answer = http.send(request.build(), HttpResponse.BodyHandlers.ofString());
        if (answer.statusCode() / 100 != 2) {
            throw new IllegalStateException(path + " " + answer.statusCode() + " " + answer.body());
        }
        for (var set : answer.headers().allValues("Set-Cookie")) {
            if (!set.startsWith("__Host-entente-device")) {
                cookie = set.split(";", 2)[0];
            }
        }
        return answer.body().isEmpty() ? null : JSON.readValue(answer.body(), type);
    }
}
