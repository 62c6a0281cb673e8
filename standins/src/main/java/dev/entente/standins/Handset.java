package dev.entente.standins;

import com.sun.net.httpserver.HttpExchange;
import java.io.IOException;
import java.math.BigInteger;
import java.net.URI;
import java.net.URLDecoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.KeyPair;
import java.security.KeyPairGenerator;
import java.security.MessageDigest;
import java.security.Signature;
import java.security.interfaces.ECPublicKey;
import java.security.spec.ECGenParameterSpec;
import java.util.ArrayList;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CopyOnWriteArrayList;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * A telephone with an app that approves, as a page for a small screen: {@code /handset}. Makes its keys and signatures by code of its
 * own, after {@code docs/methods/push.md}. Each link that is opened adds an account.
 */
final class Handset {
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final Map<String, String> WANTED = Map.of(
            "reset", "choose a new password",
            "change", "change the password",
            "unlock", "end a lockout",
            "details", "change how you are recognised");
    private static final Base64.Encoder TEXT = Base64.getUrlEncoder().withoutPadding();

    private final List<Account> accounts = new CopyOnWriteArrayList<>();
    private final HttpClient http = HttpClient.newHttpClient();

    /** One registration. */
    private record Account(String service, String device, String check, String organisation, KeyPair key) {}

    /** {@code GET} shows the app; {@code POST} opens a link, approves or denies. */
    void page(HttpExchange exchange) throws IOException {
        var said = "";
        if (exchange.getRequestMethod().equals("POST")) {
            var form = form(new String(exchange.getRequestBody().readNBytes(16 * 1024), StandardCharsets.UTF_8));
            said = form.containsKey("link") ? open(form.get("link").strip()) : answer(form);
        }
        Standins.answer(exchange, 200, "text/html; charset=utf-8", html(said));
    }

    private static Map<String, String> form(String body) {
        var form = new LinkedHashMap<String, String>();
        for (var part : body.split("&")) {
            var pair = part.split("=", 2);
            form.put(pair[0], pair.length < 2 ? "" : URLDecoder.decode(pair[1], StandardCharsets.UTF_8));
        }
        return form;
    }

    private String open(String link) {
        try {
            var parts = link.split("#", 2);
            if (parts.length < 2) {
                return "This isn't a link that registers a phone.";
            }
            var generator = KeyPairGenerator.getInstance("EC");
            generator.initialize(new ECGenParameterSpec("secp256r1"));
            var key = generator.generateKeyPair();
            var answer = post(URI.create(parts[0]), Map.of("word", parts[1], "key", jwk(key)));
            if (answer.statusCode() != 201) {
                return JSON.readTree(answer.body()).path("detail").asString("It didn't work.");
            }
            var made = JSON.readTree(answer.body());
            accounts.add(new Account(
                    parts[0].substring(0, parts[0].lastIndexOf('/')),
                    made.path("device").asString(),
                    made.path("check").asString(),
                    made.path("organisation").asString(),
                    key));
            return "";
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    private String answer(Map<String, String> form) {
        var account = accounts.get(Integer.parseInt(form.get("account")));
        var payload = new LinkedHashMap<String, Object>();
        payload.put("v", 1);
        payload.put("device", account.device());
        payload.put("request", form.get("request"));
        payload.put("key", form.get("key"));
        payload.put("verdict", form.get("verdict"));
        payload.put("number", form.get("verdict").equals("deny") ? null : form.get("number"));
        payload.put("at", System.currentTimeMillis() / 1000);
        var answer = post(
                URI.create(account.service() + "/" + account.device() + "/answers"),
                Map.of("signed", sign(account, "entente-device-answer+jws", payload)));
        return answer.statusCode() == 204
                ? form.get("verdict").equals("deny") ? "Denied. Your organisation is told." : "Approved."
                : JSON.readTree(answer.body()).path("detail").asString("It didn't work.");
    }

    private List<JsonNode> waiting(Account account) {
        var payload = new LinkedHashMap<String, Object>();
        payload.put("v", 1);
        payload.put("device", account.device());
        payload.put("at", System.currentTimeMillis() / 1000);
        var answer = post(
                URI.create(account.service() + "/" + account.device() + "/requests"),
                Map.of("signed", sign(account, "entente-device-look+jws", payload)));
        var all = new ArrayList<JsonNode>();
        if (answer.statusCode() == 200) {
            JSON.readTree(answer.body()).forEach(all::add);
        }
        return all;
    }

    private HttpResponse<String> post(URI at, Map<String, Object> body) {
        try {
            return http.send(
                    HttpRequest.newBuilder(at)
                            .header("Content-Type", "application/json")
                            .POST(HttpRequest.BodyPublishers.ofString(JSON.writeValueAsString(body)))
                            .build(),
                    HttpResponse.BodyHandlers.ofString());
        } catch (IOException e) {
            throw new IllegalStateException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }

    /** RFC 7517, with the members in the order of RFC 7638. */
    private static Map<String, Object> jwk(KeyPair key) {
        var point = ((ECPublicKey) key.getPublic()).getW();
        var jwk = new LinkedHashMap<String, Object>();
        jwk.put("crv", "P-256");
        jwk.put("kty", "EC");
        jwk.put("x", TEXT.encodeToString(fixed(point.getAffineX())));
        jwk.put("y", TEXT.encodeToString(fixed(point.getAffineY())));
        return jwk;
    }

    private static byte[] fixed(BigInteger number) {
        var bytes = number.toByteArray();
        var fixed = new byte[32];
        var from = Math.max(0, bytes.length - 32);
        System.arraycopy(bytes, from, fixed, 32 - (bytes.length - from), bytes.length - from);
        return fixed;
    }

    private static String sign(Account account, String typ, Map<String, Object> payload) {
        try {
            var thumbprint = TEXT.encodeToString(MessageDigest.getInstance("SHA-256")
                    .digest(JSON.writeValueAsString(jwk(account.key())).getBytes(StandardCharsets.US_ASCII)));
            var header = new LinkedHashMap<String, Object>();
            header.put("alg", "ES256");
            header.put("typ", typ);
            header.put("kid", thumbprint);
            var input = TEXT.encodeToString(JSON.writeValueAsBytes(header)) + "."
                    + TEXT.encodeToString(JSON.writeValueAsBytes(payload));
            var signature = Signature.getInstance("SHA256withECDSAinP1363Format");
            signature.initSign(account.key().getPrivate());
            signature.update(input.getBytes(StandardCharsets.US_ASCII));
            return input + "." + TEXT.encodeToString(signature.sign());
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    private String html(String said) {
        var html = new StringBuilder("""
                <!doctype html><html lang=en><meta charset=utf-8><meta name=viewport content='width=device-width'>
                <title>Stand-in phone</title><style>
                body{font:17px/1.5 system-ui;margin:0 auto;max-width:26rem;padding:1rem;background:#f3f5f4;color:#16211d}
                section{background:#fff;border-radius:12px;padding:1rem;margin:0 0 1rem;border:1px solid #d5dcd9}
                input,button{font:inherit;padding:.7rem .9rem;border-radius:8px;border:1px solid #6b7a74;width:100%;
                box-sizing:border-box;margin-top:.5rem}button{background:#16543f;color:#fff;border-color:#16543f}
                button.no{background:#fff;color:#8a1c1c;border-color:#8a1c1c}p{margin:.3rem 0}h1{font-size:1.3rem}
                h2{font-size:1.05rem;margin:0}.check{font-size:2rem;letter-spacing:.2em}</style>
                <h1>Approvals</h1>""");
        if (!said.isEmpty()) {
            html.append("<section role=status><p>")
                    .append(Standins.escape(said))
                    .append("</p></section>");
        }
        var any = false;
        for (var i = accounts.size() - 1; i >= 0; i--) {
            for (var request : waiting(accounts.get(i))) {
                any = true;
                request(html, i, request);
            }
        }
        if (!any) {
            html.append("<section><p>Nothing waits for you. <a href='/handset'>Look again</a></p></section>");
        }
        if (!accounts.isEmpty()) {
            var last = accounts.get(accounts.size() - 1);
            html.append("<section><h2>")
                    .append(Standins.escape(last.organisation()))
                    .append("</h2><p>To register this phone, type on the page:</p><p class=check>")
                    .append(last.check())
                    .append("</p></section>");
        }
        return html.append(
                        "<section><form method=post><label>Add an account: the link from the page"
                                + "<input name=link autocomplete=off required></label><button>Add</button></form></section></html>")
                .toString();
    }

    private static void request(StringBuilder html, int account, JsonNode request) {
        html.append("<section><h2>")
                .append(Standins.escape(request.path("organisation").asString()))
                .append("</h2><p>Somebody wants to <strong>")
                .append(WANTED.getOrDefault(request.path("action").asString(), "do something"))
                .append("</strong> for the account ")
                .append(Standins.escape(request.path("login").asString()))
                .append(", from ")
                .append(Standins.escape(request.path("network").asString()))
                .append(".</p><form method=post><input type=hidden name=account value=")
                .append(account)
                .append("><input type=hidden name=request value=")
                .append(Standins.escape(request.path("request").asString()))
                .append("><input type=hidden name=key value=")
                .append(Standins.escape(request.path("key").asString()))
                .append(
                        "><label>Number on the page<input name=number inputmode=numeric maxlength=2 autocomplete=off></label>"
                                + "<button name=verdict value=approve>Approve</button>"
                                + "<button class=no name=verdict value=deny>It wasn’t me</button></form></section>");
    }
}
