package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.BrowserContext;
import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.TimeoutError;
import com.microsoft.playwright.options.AriaRole;
import dev.entente.core.seal.SigningKey;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.appcode.AppCode;
import dev.entente.core.verify.push.DeviceDocuments;
import dev.entente.wire.DeviceApi;
import dev.entente.wire.HelpDeskApi;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.nio.file.Files;
import java.security.SecureRandom;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Queue;
import java.util.Set;
import java.util.UUID;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/**
 * Whole attempts in the browser by every method, at the size of a phone or of a desk: alone where it may be, and in pairs in which each
 * comes second once, every other one at either size; with {@code -Dentente.pairs=all} in every pair and order that there can be. Each
 * goes by the keyboard alone once, and {@link Axe} looks once at every page that is passed on the way.
 */
abstract class EveryMethod extends PublishingTest {
    private static final List<String> METHODS = List.of(
            "email-code",
            "sms-code",
            "voice-code",
            "email-link",
            "passkey",
            "security-key",
            "push",
            "app-code",
            "known-device",
            "questions",
            "staff-confirmation",
            "recovery-code");

    private static final Pattern LINK = Pattern.compile("/link#(\\S+)");
    static final Map<String, String> ANSWERS = Map.of("Which ship?", "Norda Lys", "Which book?", "Tide Tables");
    /** Sets up both questions with {@link #ANSWERS}. */
    static final PortalApi.Answer CHOSEN = new PortalApi.Answer(
            null,
            Map.of("1.question", "ship", "1.answer", "Norda Lys", "2.question", "book", "2.answer", "Tide Tables"));

    private final Telephones phones = new Telephones(world);
    private final SigningKey deviceKey = SigningKey.generate(new SecureRandom());
    private final Queue<String> recoveryCodes = new ArrayDeque<>();
    private final int width;
    private final int height;
    private final int pairsFrom;
    private ConsoleApi staff;
    private Crew crew;
    private Page page;
    private VirtualAuthenticators authenticators;
    private Person person;
    private UUID device;
    private String secret;
    private int passwords;
    private final Set<String> looked = new HashSet<>();
    private final Set<String> byKeyboard = new HashSet<>();
    private boolean keyboardOnly;

    /** @param pairsFrom with which method, in the order above, the pairs begin: 0 or 1 */
    EveryMethod(int width, int height, int pairsFrom) {
        this.width = width;
        this.height = height;
        this.pairsFrom = pairsFrom;
    }

    @BeforeEach
    void gateway() throws IOException {
        world.later(Duration.ZERO);
        var file = Files.writeString(folder.resolveSibling("gateway.secret"), Installation.GATEWAY_SECRET);
        phones.behave("north", "deliver");
        world.entente("phone", "add-gateway", "north", phones.gateway("north"), "--secret-file", file.toString())
                .expect(0);
        staff = ConsoleApi.staff(
                world, api, "vouching-" + UUID.randomUUID().toString().substring(0, 8), List.of(), "orla.sandvik");
        world.entente("phone", "limit", "--per-number", "100", "--per-prefix", "1000", "--per-country", "1000")
                .expect(0);
    }

    @AfterEach
    void none() {
        world.entente("phone", "remove-gateway", "north");
    }

    private static String policy(int methods) {
        return "prove:\n  reset: { methods: " + methods + ", any-of: [" + String.join(", ", METHODS) + "] }\n"
                + "  details: { any-of: [email-code] }\nlimit: { resets: 1000 per 24h }\nhelp-desk:\n"
                + "  checklist: [They were called back]\n";
    }

    /** Somebody who has everything. */
    private void equipped() throws IOException {
        var own = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        var app = own.setUp("app-code", null);
        secret = app.parts().get("secret");
        confirm(own, app, PortalApi.Answer.typed(appCode()));
        recoveryCodes.addAll(own.setUp("recovery-code", null).lines());
        var questions = own.setUp("questions", null);
        confirm(own, questions, CHOSEN);
        var push = own.setUp("push", "My phone");
        device = push.id();
        var registered = device(
                "/registrations",
                new DeviceApi.Registration(push.parts().get("link").replaceAll(".*#", ""), deviceKey.publicKey()));
        confirm(
                own,
                push,
                PortalApi.Answer.typed(ApiPerson.JSON
                        .readValue(registered, DeviceApi.Registered.class)
                        .check()));
        own.call("POST", "/attempt/end", null);
        var browser = new MethodsInBrowser(world.boxUrl());
        browser.addPasskey(person, crew.shore(), crew.address());
        authenticators.plugIn();
        authenticators.use(true);
        browser.addSecurityKey(person, crew.shore(), crew.address());
        // A password that is chosen in this browser makes it a known one.
        attempt("email-code");
    }

    private static void confirm(ApiPerson own, PortalApi.OfferedEnrolment offered, PortalApi.Answer answer) {
        var made = own.call("POST", "/attempt/enrolments/" + offered.id() + "/confirmation", answer);
        assertThat(made.status()).as(made.body()).isEqualTo(200);
    }

    private String device(String path, Object body) {
        var answer = DeviceCalls.post(world, path, body);
        assertThat(answer.statusCode()).as(answer.body()).isBetween(200, 204);
        return answer.body();
    }

    /** The code of now; each counts once, so that time goes on before the next one. */
    private String appCode() {
        return AppCode.parse(secret).at(world.now().getEpochSecond() / 30);
    }

    /** Goes there by Tab alone, as far as one page can be long. */
    private void reach(Locator what) {
        what.first().waitFor();
        for (var tabs = 0; tabs < 60; tabs++) {
            if (Boolean.TRUE.equals(what.first().evaluate("e => e === document.activeElement"))) {
                return;
            }
            page.keyboard().press("Tab");
        }
        throw new AssertionError("the keyboard does not reach " + what);
    }

    private void press(Locator what) {
        if (!keyboardOnly) {
            what.first().click();
            return;
        }
        reach(what);
        page.keyboard().press("Enter");
    }

    private void type(Locator field, String text) {
        if (!keyboardOnly) {
            field.first().fill(text);
            return;
        }
        reach(field);
        page.keyboard().press("Control+A");
        page.keyboard().type(text);
    }

    private void sound(String where) {
        if (looked.add(where)) {
            Axe.sound(page, where);
        }
    }

    private void choose(String method, Deque<String> seen) {
        var choice = page.locator("[data-method=" + method + "]");
        choice.waitFor();
        sound(seen.isEmpty() ? "the choice of methods" : "the choice of a second method");
        press(choice);
        seen.add(method);
    }

    /** Answers on the page of a method. */
    private void answer(String method, int mails, int texts) {
        switch (method) {
            case "email-code" -> code(method, "Check your e-mail", world.mailbox.nextCode(crew.address(), mails));
            case "sms-code", "voice-code" -> {
                var end = page.getByLabel("Last four digits");
                end.waitFor();
                sound("the end of the number for " + method);
                type(end, crew.phone().substring(crew.phone().length() - 4));
                page.keyboard().press("Enter");
                var code = Telephones.code(phones.next(crew.phone(), texts));
                code(method, null, code);
            }
            case "email-link" -> {
                number(method);
                var link = world.mailbox.next(crew.address(), mails, LINK);
                var other = page.context().newPage();
                other.navigate(world.url + "/link#" + link);
                other.getByText("You can go on")
                        .or(other.getByRole(AriaRole.HEADING))
                        .first()
                        .waitFor();
                if (looked.add("a link that was followed here")) {
                    Axe.sound(other, "a link that was followed here");
                }
                other.close();
            }
            case "passkey" -> {
                var use = person.button("Use passkey");
                use.waitFor();
                sound(method);
                authenticators.use(false);
                press(use);
            }
            case "security-key" -> {
                var use = person.button("Use security key");
                use.waitFor();
                authenticators.use(true);
                sound(method);
                press(use);
            }
            case "push" -> approve(number(method));
            case "app-code" -> {
                world.later(Duration.between(Instant.now(), world.now()).plusSeconds(60));
                code(method, null, appCode());
            }
            case "questions" -> {
                page.getByLabel("Which ship?")
                        .or(page.getByLabel("Which book?"))
                        .first()
                        .waitFor();
                sound(method);
                for (var one : ANSWERS.entrySet()) {
                    var field = page.getByLabel(one.getKey());
                    if (field.count() > 0) {
                        type(field, one.getValue());
                    }
                }
                page.keyboard().press("Enter");
            }
            case "staff-confirmation" -> confirm(number(method));
            case "recovery-code" -> {
                if (recoveryCodes.isEmpty()) {
                    recoveryCodes.addAll(new ApiPerson(world)
                            .wants("details")
                            .prove(crew.shore(), crew.address())
                            .setUp("recovery-code", null)
                            .lines());
                }
                code(method, null, recoveryCodes.remove());
            }
            default -> {
                // The device answers by itself.
            }
        }
    }

    private void code(String method, String heading, String code) {
        if (heading != null) {
            person.heading(heading).waitFor();
        }
        var field = page.locator("input[name=code]");
        field.waitFor();
        sound("the page that asks for the code of " + method);
        type(field, code);
        page.keyboard().press("Enter");
    }

    private String number(String method) {
        var shown = page.locator("[role=img]");
        shown.waitFor();
        sound("the page that waits for " + method);
        return shown.innerText().strip();
    }

    private void approve(String number) {
        var look = new DeviceApi.Signed(DeviceDocuments.sign(
                deviceKey, new DeviceDocuments.Look(1, device, world.now().getEpochSecond())));
        var found = new ArrayList<DeviceApi.Request>();
        Installation.waitUntil(SOON, "the phone is asked", () -> {
            found.clear();
            found.addAll(List.of(
                    ApiPerson.JSON.readValue(device("/" + device + "/requests", look), DeviceApi.Request[].class)));
            return !found.isEmpty();
        });
        var request = found.get(found.size() - 1);
        device(
                "/" + device + "/answers",
                new DeviceApi.Signed(DeviceDocuments.sign(
                        deviceKey,
                        new DeviceDocuments.Answer(
                                1,
                                device,
                                request.request(),
                                request.key(),
                                "approve",
                                number,
                                world.now().getEpochSecond()))));
    }

    private void confirm(String number) {
        var caller = ApiPerson.JSON.writeValueAsString(new HelpDeskApi.Caller(crew.shore(), number));
        Installation.waitUntil(
                SOON,
                "the request waits",
                () -> staff.post("/help-desk/requests/find", caller).statusCode() == 200);
        var request = ApiPerson.JSON.readValue(
                staff.post("/help-desk/requests/find", caller).body(), HelpDeskApi.HelpRequest.class);
        var confirmed = staff.post(
                "/help-desk/requests/" + request.id() + "/confirmation",
                ApiPerson.JSON.writeValueAsString(new HelpDeskApi.StaffConfirmation(request.checklist(), null)));
        assertThat(confirmed.statusCode()).as(confirmed.body()).isEqualTo(200);
    }

    /** One whole attempt by these methods in this order; by the keyboard alone if one of them was not yet. */
    private void attempt(String... methods) {
        keyboardOnly = byKeyboard.addAll(List.of(methods));
        page.context().clearCookies(new BrowserContext.ClearCookiesOptions().setName("__Host-entente-attempt"));
        page.navigate(world.url + "/");
        press(page.locator("[data-action=reset]"));
        type(page.getByLabel("Your sign-in name"), crew.shore());
        page.keyboard().press("Enter");
        var seen = new ArrayDeque<String>();
        for (var method : methods) {
            var mails = world.mailbox.to(crew.address()).size();
            var texts = phones.at(crew.phone()).size();
            choose(method, seen);
            answer(method, mails, texts);
        }
        try {
            person.reachPassword();
        } catch (TimeoutError e) {
            throw new AssertionError(
                    String.join(" and ", methods) + " did not lead to a password: " + person.text(), e);
        }
        sound("the page that asks for a password");
        type(page.getByLabel("New password"), "Every-Quay-" + ++passwords + "-Tide");
        page.keyboard().press("Enter");
        assertThat(person.outcome()).as(String.join(" and ", methods)).isEqualTo("Your new password works");
        sound("the outcome");
    }

    @Test
    void gets_its_person_in_alone_and_with_another_by_the_keyboard() throws IOException {
        assertThat(METHODS)
                .as("every method of the product is here")
                .containsExactlyInAnyOrderElementsOf(
                        Method.known().stream().map(Method::label).toList());
        crew = world.crew();
        write("questions.yaml", """
                register: 2
                ask: 2
                questions:
                  ship: { texts: { en: "Which ship?" } }
                  book: { texts: { en: "Which book?" } }
                """);
        pilot(policy(1), crew);
        page = world.browser().page(width, height);
        authenticators = world.browser().authenticators(page);
        person = new Person(page, world.url);
        equipped();
        var alone = METHODS.stream().filter(m -> Method.of(m).facts().alone()).toList();
        for (var method : alone) {
            attempt(method);
        }
        pilot(policy(2), crew);
        var first = METHODS.stream().filter(m -> Method.of(m).mayComeFirst()).toList();
        for (var pair : pairs(first)) {
            attempt(pair.get(0), pair.get(1));
        }
    }

    /** Every other method second once, or all. */
    private List<List<String>> pairs(List<String> first) {
        var all = "all".equals(System.getProperty("entente.pairs"));
        var pairs = new ArrayList<List<String>>();
        for (var i = all ? 0 : pairsFrom; i < METHODS.size(); i += all ? 1 : 2) {
            var second = METHODS.get(i);
            var before = first.stream().filter(one -> !one.equals(second)).toList();
            for (var one : all ? before : List.of(before.get((i + 3) % before.size()))) {
                pairs.add(List.of(one, second));
            }
        }
        return pairs;
    }
}
