package dev.entente.e2e;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.ColorScheme;
import com.microsoft.playwright.options.LoadState;
import com.microsoft.playwright.options.WaitForSelectorState;
import java.nio.file.Path;

/**
 * Takes the pictures of the console's main pages for the documentation. Arguments: service, sign-in name, password, folder,
 * and optionally {@code narrow}, {@code dark}, or {@code flood} for what a flood of strangers looks like.
 */
public final class Pictures {
    private Pictures() {}

    /** Takes them. */
    public static void main(String[] arguments) {
        var look = arguments.length > 4 ? arguments[4] : "";
        var narrow = look.equals("narrow");
        try (var browser = new Browser()) {
            var page = browser.page(narrow ? 320 : 1280, 800);
            if (look.equals("dark")) {
                page.emulateMedia(new Page.EmulateMediaOptions().setColorScheme(ColorScheme.DARK));
            }
            page.onConsoleMessage(message -> {
                if (message.type().equals("error")) {
                    System.err.println("page: " + message.text());
                }
            });
            page.navigate(arguments[0] + "/console");
            page.getByLabel("Sign-in name").fill(arguments[1]);
            page.getByLabel("Password").fill(arguments[2]);
            button(page, "Sign in");
            page.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName("Needs attention"))
                    .waitFor();
            shoot(page, arguments[3], look, "today");
            if (look.equals("flood")) {
                visit(page, arguments, look, "audit/pressure", "pressure");
                return;
            }
            visit(page, arguments, look, "directories/shore", "directory");
            visit(page, arguments, look, "directories/deliveries", "deliveries");
            page.locator("main button[aria-expanded]").first().click();
            shoot(page, arguments[3], look, "deliveries");
            visit(page, arguments, look, "directories/connect", "connect");
            page.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).fill("harbour");
            page.getByLabel("Title").fill("Harbour");
            shoot(page, arguments[3], look, "connect");
            visit(page, arguments, look, "directories/in-doubt", "in-doubt");
            visit(page, arguments, look, "settings", "settings");
            page.getByLabel("Send a test to").fill("ingeborg@skerry.test");
            button(page, "Send a test");
            page.getByText("The server accepted it.").waitFor();
            page.getByText("The whole conversation").click();
            shoot(page, arguments[3], look, "settings");
            page.getByText("Add a gateway").scrollIntoViewIfNeeded();
            shoot(page, arguments[3], look, "phone");
            visit(page, arguments, look, "people?search=nordvik", "people");
            page.getByText("Astrid Nordvik").click();
            page.getByText("nothing stands in the way").waitFor();
            shoot(page, arguments[3], look, "explain");
            visit(page, arguments, look, "policies", "policies");
            visit(page, arguments, look, "policies/rehearsal", "rehearsal");
            visit(page, arguments, look, "policies/rules", "rules");
            visit(page, arguments, look, "audit/pressure", "pressure");
            visit(page, arguments, look, "audit/events?severity=notice", "events");
            visit(page, arguments, look, "audit/messages", "messages");
            visit(page, arguments, look, "audit/outlets", "outlets");
            visit(page, arguments, look, "audit/retention", "retention");
            visit(page, arguments, look, "audit?state=completed", "audit");
            page.locator("td a").first().click();
            page.getByText("Timeline").waitFor();
            shoot(page, arguments[3], look, "attempt");
            button(page, "Stop …");
            page.getByLabel("What", new Page.GetByLabelOptions().setExact(true)).selectOption("action:reset");
            page.getByLabel("Reason").fill("codes reach the wrong people");
            page.getByLabel("Ends").selectOption("2 hours");
            button(page, "Stop action:reset");
            page.getByText("Resumes automatically at").waitFor();
            button(page, "Stop …");
            page.getByLabel("What", new Page.GetByLabelOptions().setExact(true)).selectOption("directory:fleet");
            // It comes in softly.
            page.waitForTimeout(500);
            shoot(page, arguments[3], look, "stop");
            page.keyboard().press("Escape");
            button(page, "Resume");
            page.getByText("Resumes automatically at")
                    .waitFor(new Locator.WaitForOptions().setState(WaitForSelectorState.DETACHED));
        }
    }

    private static void visit(Page page, String[] arguments, String look, String path, String name) {
        page.navigate(arguments[0] + "/console/" + path);
        page.waitForLoadState(LoadState.NETWORKIDLE);
        shoot(page, arguments[3], look, name);
    }

    private static void shoot(Page page, String folder, String look, String name) {
        page.screenshot(new Page.ScreenshotOptions()
                .setPath(Path.of(folder, "console-" + name + (look.isEmpty() ? "" : "-" + look) + ".png")));
    }

    private static void button(Page page, String name) {
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName(name))
                .click();
    }
}
