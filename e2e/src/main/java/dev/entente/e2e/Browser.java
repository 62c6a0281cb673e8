package dev.entente.e2e;

import com.microsoft.playwright.BrowserContext;
import com.microsoft.playwright.BrowserType;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.Playwright;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;

/** Debian's Chromium, headless, without anything that would call out. */
public final class Browser implements AutoCloseable {
    private final Playwright playwright;
    private final com.microsoft.playwright.Browser browser;

    /** Starts it. */
    public Browser() {
        playwright = Playwright.create(
                new Playwright.CreateOptions().setEnv(Map.of("PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD", "1")));
        browser = playwright
                .chromium()
                .launch(new BrowserType.LaunchOptions()
                        .setExecutablePath(Path.of("/usr/bin/chromium"))
                        .setHeadless(true)
                        .setArgs(List.of(
                                "--no-sandbox",
                                "--disable-gpu",
                                "--disable-quic",
                                "--no-first-run",
                                "--disable-background-networking",
                                "--disable-component-update",
                                "--disable-sync")));
    }

    /** A fresh profile with one page. */
    public Page page(int width, int height) {
        return context(width, height).newPage();
    }

    /** A fresh profile. */
    public BrowserContext context(int width, int height) {
        return browser.newContext(
                new com.microsoft.playwright.Browser.NewContextOptions().setViewportSize(width, height));
    }

    /** A profile that goes on where another was: cookies and what pages keep, as {@code storageState} gave them. */
    public BrowserContext context(int width, int height, String state) {
        return browser.newContext(new com.microsoft.playwright.Browser.NewContextOptions()
                .setViewportSize(width, height)
                .setStorageState(state));
    }

    /** Profiles are left, and their pages ask for nothing more. */
    public void leave() {
        // A copy: each one that is closed leaves the list.
        List.copyOf(browser.contexts()).forEach(BrowserContext::close);
    }

    @Override
    public void close() {
        browser.close();
        playwright.close();
    }
}
