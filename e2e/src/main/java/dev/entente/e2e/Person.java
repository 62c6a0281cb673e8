package dev.entente.e2e;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.WaitForSelectorState;
import java.util.regex.Pattern;

/** Somebody at the portal, who reads and clicks what a person reads and clicks. */
public final class Person {
    private static final double PATIENCE = 40_000;

    private final Page page;
    private final String portal;

    /** @param portal its address, without a slash at the end */
    public Person(Page page, String portal) {
        this.page = page;
        this.portal = portal;
        page.setDefaultTimeout(PATIENCE);
    }

    /** The page, to look at. */
    public Page page() {
        return page;
    }

    /** Opens the portal, wants a new password, and says who they are. */
    public void identify(String name) {
        identify(name, "reset");
    }

    /** The reference that the page shows. */
    public String reference() {
        return page.getByText(Pattern.compile("^Reference R"))
                .first()
                .locator("span")
                .innerText();
    }

    /** Opens the portal, says what they want, and who they are. */
    public void identify(String name, String action) {
        identify(name, action, "email-code", "Check your e-mail");
    }

    /** The same up to the page of one method, which has this heading. */
    public void identify(String name, String action, String method, String heading) {
        page.navigate(portal + "/");
        page.locator("[data-action=" + action + "]").click();
        page.getByLabel("Your sign-in name").fill(name);
        button("Continue").click();
        // Where policies let several methods come first, the page asks which.
        var choice = page.locator("[data-method=" + method + "]");
        heading(heading).or(choice).first().waitFor();
        if (choice.isVisible()) {
            choice.click();
        }
        heading(heading).waitFor();
    }

    /** Types a code and goes on. */
    public void typeCode(String code) {
        page.getByLabel("Code", new Page.GetByLabelOptions().setExact(true)).fill(code);
        button("Continue").click();
    }

    /** Waits for the question for a password. */
    public void reachPassword() {
        heading("Choose a new password").waitFor();
        page.locator("[data-rule]").first().waitFor();
    }

    /** Types a password and hands it in. */
    public void choose(String password) {
        reachPassword();
        page.getByLabel("New password").fill(password);
        button("Set new password").click();
    }

    /** Waits until the page tells an outcome, and returns its heading. */
    public String outcome() {
        var ends = page.locator("h1")
                .filter(
                        new Locator.FilterOptions()
                                .setHasNotText(
                                        Pattern.compile(
                                                "Setting your|Changing your|Unlocking your|Choose a new|Check your|Unlock your|Change your|How can we help")));
        ends.waitFor(new Locator.WaitForOptions()
                .setState(WaitForSelectorState.VISIBLE)
                .setTimeout(120_000));
        return ends.textContent();
    }

    /** The state of an account's result, such as {@code done}. */
    public String result(String directory) {
        return page.locator("li[data-state]")
                .filter(new Locator.FilterOptions().setHasText(directory))
                .getAttribute("data-state");
    }

    /** Everything that can be read now. */
    public String text() {
        return page.locator("body").innerText();
    }

    /** Waits until a text can be read. */
    public void waitForText(String text) {
        page.getByText(text).first().waitFor();
    }

    /** A button by its name. */
    public Locator button(String name) {
        return page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName(name));
    }

    /** A heading by its text. */
    public Locator heading(String text) {
        return page.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setName(text));
    }
}
