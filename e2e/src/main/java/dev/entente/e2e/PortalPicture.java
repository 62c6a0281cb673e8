package dev.entente.e2e;

import com.microsoft.playwright.Page;
import dev.entente.bench.Mailbox;
import java.nio.file.Path;

/**
 * Takes the picture of setting up an authenticator app, on a phone. Arguments: portal, mailbox, sign-in name, address, folder. The
 * app is not set up.
 */
public final class PortalPicture {
    private PortalPicture() {}

    /** Takes it. */
    public static void main(String[] arguments) {
        var mailbox = new Mailbox(arguments[1]);
        try (var browser = new Browser()) {
            var person = new Person(browser.page(390, 844), arguments[0]);
            person.identify(arguments[2], "details");
            person.typeCode(mailbox.codeOf(person.reference(), arguments[3]));
            person.button("Add an authenticator app").click();
            person.heading("Add an authenticator app").waitFor();
            person.page().screenshot(new Page.ScreenshotOptions().setPath(Path.of(arguments[4], "portal-app.png")));
        }
    }
}
