package dev.entente.e2e;

import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.ColorScheme;
import com.microsoft.playwright.options.LoadState;
import java.nio.file.Path;

/**
 * Takes the pictures of the console's main pages for the documentation. Arguments: service, sign-in name, password, folder,
 * and optionally {@code narrow} or {@code dark}.
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
            visit(page, arguments, look, "directories/shore", "directory");
            visit(page, arguments, look, "people?search=nordvik", "people");
            page.getByText("Astrid Nordvik").click();
            page.getByText("nothing stands in the way").waitFor();
            shoot(page, arguments[3], look, "explain");
            visit(page, arguments, look, "policies", "policies");
            visit(page, arguments, look, "audit?state=completed", "audit");
            page.locator("td a").first().click();
            page.getByText("Timeline").waitFor();
            shoot(page, arguments[3], look, "attempt");
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
