package dev.entente.e2e;

import com.microsoft.playwright.Page;
import dev.entente.bench.Mailbox;
import java.nio.file.Path;

/**
 * Takes the pictures of a confirmation by the help desk: the caller's page on a phone, and what the staff see. Arguments: portal,
 * mailbox, the caller's sign-in name and address, the staff's sign-in name and password, folder. Nothing is confirmed.
 */
public final class HelpDeskPictures {
    private HelpDeskPictures() {}

    /** Takes them. */
    public static void main(String[] arguments) {
        var mailbox = new Mailbox(arguments[1]);
        try (var browser = new Browser()) {
            var person = new Person(browser.page(390, 844), arguments[0]);
            person.identify(arguments[2], "reset");
            person.typeCode(mailbox.codeOf(person.reference(), arguments[3]));
            person.page().locator("[data-method=staff-confirmation]").click();
            person.heading("Call the help desk").waitFor();
            shoot(person.page(), arguments[6], "portal-staff");
            var number = person.page().locator("[role=img]").innerText().strip();

            var desk = browser.page(1280, 800);
            desk.navigate(arguments[0] + "/console/");
            desk.getByLabel("Sign-in name").fill(arguments[4]);
            desk.getByLabel("Password").fill(arguments[5]);
            desk.keyboard().press("Enter");
            desk.getByLabel("Caller’s sign-in name").fill(arguments[2]);
            desk.getByLabel("Number on the caller’s screen").fill(number);
            desk.keyboard().press("Enter");
            desk.getByText("Before you confirm").waitFor();
            desk.locator("input[type=checkbox]").first().check();
            shoot(desk, arguments[6], "console-help-desk");
        }
    }

    private static void shoot(Page page, String folder, String name) {
        page.screenshot(new Page.ScreenshotOptions().setPath(Path.of(folder, name + ".png")));
    }
}
