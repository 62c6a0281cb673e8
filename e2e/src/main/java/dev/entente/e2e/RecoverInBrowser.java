package dev.entente.e2e;

import com.microsoft.playwright.Page;
import dev.entente.bench.Mailbox;
import java.nio.file.Path;

/**
 * One recovery from the first page to the outcome, told step by step; for the demo's tour. Arguments: portal, mailbox, login
 * name, address, new password, and optionally a folder for pictures. Exits 0 only if the portal says that it works.
 */
public final class RecoverInBrowser {
    private RecoverInBrowser() {}

    /** Runs it. */
    public static void main(String[] arguments) {
        var mailbox = new Mailbox(arguments[1]);
        var address = arguments[3];
        try (var browser = new Browser()) {
            var person = new Person(browser.page(390, 844), arguments[0]);
            person.identify(arguments[2]);
            say(person, arguments, "1-code", "said the sign-in name " + arguments[2]);
            var code = mailbox.codeOf(person.reference(), address);
            System.out.println("the mailbox of " + address + " has a code");
            person.typeCode(code);
            person.reachPassword();
            person.page().getByLabel("New password").fill("Rowan-Kettle");
            say(person, arguments, "2-password", "typed the code; the page ticks the rules while a password is typed");
            person.choose(arguments[4]);
            var outcome = person.outcome();
            say(person, arguments, "3-outcome", "chose a new password; the page says: " + outcome);
            System.exit(outcome.equals("Your new password works") ? 0 : 1);
        }
    }

    private static void say(Person person, String[] arguments, String name, String what) {
        System.out.println(what);
        if (arguments.length > 5) {
            person.page().screenshot(new Page.ScreenshotOptions().setPath(Path.of(arguments[5], name + ".png")));
        }
    }
}
