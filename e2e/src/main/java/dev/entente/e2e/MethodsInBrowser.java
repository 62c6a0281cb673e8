package dev.entente.e2e;

import com.microsoft.playwright.Page;
import dev.entente.bench.Mailbox;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Path;
import java.util.Comparator;
import java.util.List;
import java.util.regex.Pattern;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/**
 * Three people get back in, each by another method: a passkey, a telephone that approves, a code by text message; for the demo's
 * tour. Arguments: portal, stand-ins, a folder for pictures, and for each of the three a login name, an address (a number in
 * the third) and a new password. Exits 0 only if the portal says three times that it works.
 */
public final class MethodsInBrowser {
    private static final Pattern TEXT_CODE = Pattern.compile("[0-9]{4} [0-9]{4}");
    private static final String WORKS = "Your new password works";

    private final String box;
    private final Mailbox mailbox;
    private final HttpClient http = HttpClient.newHttpClient();

    /**
     * @param box address of the stand-ins
     */
    public MethodsInBrowser(String box) {
        this.box = box;
        this.mailbox = new Mailbox(box);
    }

    /** Runs it. */
    public static void main(String[] arguments) {
        var methods = new MethodsInBrowser(arguments[1]);
        var pictures = Path.of(arguments[2]);
        try (var browser = new Browser()) {
            var page = browser.page(390, 844);
            browser.authenticators(page);
            var first = new Person(page, arguments[0]);
            methods.addPasskey(first, arguments[3], arguments[4]);
            System.out.println(arguments[3] + " set up a passkey");
            var outcome = methods.byPasskey(first, arguments[3], arguments[5]);
            System.out.println("with the passkey alone: " + outcome);
            var works = outcome.equals(WORKS);

            var second = new Person(browser.page(390, 844), arguments[0]);
            var phone = browser.page(390, 844);
            methods.addPhone(second, phone, arguments[6], arguments[7]);
            System.out.println(arguments[6] + " registered a phone");
            var number = methods.askPhone(second, arguments[6]);
            picture(second.page(), pictures, "4-number");
            methods.approve(phone, number, pictures);
            second.choose(arguments[8]);
            outcome = second.outcome();
            System.out.println("approved on the phone with the number " + number + ": " + outcome);
            works &= outcome.equals(WORKS);

            var third = new Person(browser.page(390, 844), arguments[0]);
            outcome = methods.byText(third, arguments[9], arguments[10], arguments[11]);
            picture(third.page(), pictures, "6-text");
            System.out.println("with a code to " + arguments[10] + ": " + outcome);
            System.exit(works && outcome.equals(WORKS) ? 0 : 1);
        }
    }

    private static void picture(Page page, Path folder, String name) {
        page.screenshot(new Page.ScreenshotOptions().setPath(folder.resolve(name + ".png")));
    }

    private void details(Person person, String login, String address) {
        var before = mailbox.to(address).size();
        person.identify(login, "details");
        person.typeCode(mailbox.nextCode(address, before));
    }

    private static void done(Person person) {
        person.button("Done").click();
        person.heading("You’re all set").waitFor();
        person.page().context().clearCookies();
    }

    /** Sets a passkey up, after a code by e-mail; what the page says of it. */
    public String addPasskey(Person person, String login, String address) {
        details(person, login, address);
        person.button("Add a passkey").click();
        person.heading("Add a passkey").waitFor();
        person.button("Create passkey").click();
        person.waitForText("Your passkey is set up");
        var said = person.text();
        done(person);
        return said;
    }

    /** Registers a security key, after a code by e-mail; what the page says of it. */
    public String addSecurityKey(Person person, String login, String address) {
        details(person, login, address);
        person.button("Add a security key").click();
        person.heading("Add a security key").waitFor();
        person.button("Register key").click();
        person.waitForText("Your security key is set up");
        var said = person.text();
        done(person);
        return said;
    }

    /** Changes a password that the person knows, after a code by e-mail; what the page says in the end. */
    public String change(Person person, String login, String address, String old, String password) {
        var before = mailbox.to(address).size();
        person.identify(login, "change");
        person.typeCode(mailbox.nextCode(address, before));
        person.heading("Change your password").waitFor();
        person.page().getByLabel("Current password").fill(old);
        person.page().getByLabel("New password").fill(password);
        person.button("Change password").click();
        return person.outcome();
    }

    /** A new password by a passkey alone; what the page says in the end. */
    public String byPasskey(Person person, String login, String password) {
        person.identify(login, "reset", "passkey", "Use your passkey");
        person.button("Use passkey").click();
        person.choose(password);
        return person.outcome();
    }

    /** Registers the stand-in phone, after a code by e-mail. */
    public void addPhone(Person person, Page phone, String login, String address) {
        details(person, login, address);
        person.button("Add a phone that approves").click();
        person.heading("Add a phone that approves").waitFor();
        person.page().getByText("Copy the link into the app").click();
        phone.navigate(box + "/handset");
        phone.locator("input[name=link]")
                .fill(person.page().locator("[data-link]").innerText());
        phone.getByText("Add", new Page.GetByTextOptions().setExact(true)).click();
        person.page().getByLabel("Six digits").fill(phone.locator(".check").innerText());
        person.button("Register this phone").click();
        person.waitForText("Your phone is registered");
        done(person);
    }

    /** Asks by the phone; the number that the page shows. */
    public String askPhone(Person person, String login) {
        person.identify(login, "reset", "push", "Approve on your phone");
        return person.page().getByLabel("Number to type on your phone").innerText();
    }

    /** Types the number into the phone. */
    public void approve(Page phone, String number, Path pictures) {
        for (var round = 0; round < 100; round++) {
            phone.navigate(box + "/handset");
            if (phone.locator("input[name=number]").count() > 0) {
                break;
            }
            phone.waitForTimeout(200);
        }
        phone.locator("input[name=number]").first().fill(number);
        if (pictures != null) {
            picture(phone, pictures, "5-phone");
        }
        phone.locator("button[value=approve]").first().click();
        phone.getByText("Approved.").waitFor();
    }

    /** A new password by a code in a text message alone; what the page says in the end. */
    public String byText(Person person, String login, String number, String password) {
        person.identify(login, "reset", "sms-code", "Which number is yours?");
        return textTo(person, number, password);
    }

    /** The same from the page that asks for the number's end. */
    public String textTo(Person person, String number, String password) {
        var before = texts(number).size();
        person.page().getByLabel("Last four digits").fill(number.substring(number.length() - 4));
        person.button("Send the text message").click();
        person.heading("Check your phone").waitFor();
        person.typeCode(code(number, before));
        person.choose(password);
        return person.outcome();
    }

    private record Came(String to, String kind, String text, String gateway, long at) {}

    private List<String> texts(String number) {
        try {
            var answer = http.send(
                    HttpRequest.newBuilder(URI.create(box + "/phone")).build(), HttpResponse.BodyHandlers.ofString());
            return JsonMapper.shared().readValue(answer.body(), new TypeReference<List<Came>>() {}).stream()
                    .filter(c -> c.to().equals(number))
                    .sorted(Comparator.comparingLong(Came::at))
                    .map(Came::text)
                    .toList();
        } catch (IOException e) {
            throw new IllegalStateException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }

    private String code(String number, int before) {
        for (var round = 0; round < 200; round++) {
            var all = texts(number);
            if (all.size() > before) {
                var match = TEXT_CODE.matcher(all.get(all.size() - 1));
                if (match.find()) {
                    return match.group();
                }
            }
            try {
                Thread.sleep(100);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                throw new IllegalStateException(e);
            }
        }
        throw new IllegalStateException("no code came to " + number);
    }
}
