package dev.entente.e2e;

import com.google.gson.JsonObject;
import com.microsoft.playwright.BrowserContext;
import com.microsoft.playwright.BrowserType;
import com.microsoft.playwright.CDPSession;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.Playwright;
import com.microsoft.playwright.PlaywrightException;
import com.microsoft.playwright.Route;
import com.microsoft.playwright.options.ReducedMotion;
import java.net.URI;
import java.nio.file.Path;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * Debian's Chromium without anything that would call out, as the program that has no windows at all: it takes two thirds of the work.
 */
public final class Browser implements AutoCloseable {
    private static final double DEFAULT_PATIENCE = 30_000;

    private final Playwright playwright;
    private final com.microsoft.playwright.Browser browser;
    private final Deque<Profile> idle = new ArrayDeque<>();
    private final List<Profile> used = new ArrayList<>();

    /** Starts it. */
    public Browser() {
        playwright = Playwright.create(
                new Playwright.CreateOptions().setEnv(Map.of("PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD", "1")));
        browser = playwright
                .chromium()
                .launch(new BrowserType.LaunchOptions()
                        .setExecutablePath(Path.of("/usr/bin/chromium-headless-shell"))
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

    /**
     * A profile with nothing in it and one page; after {@link #leave} another test may get the same one, emptied. Making one takes
     * five times the work of emptying it.
     */
    public Page page(int width, int height) {
        var next = idle.isEmpty() ? new Profile(browser.newContext(still()).newPage()) : idle.pop();
        used.add(next);
        next.page.setViewportSize(width, height);
        return next.page;
    }

    /** What turns while somebody waits is drawn sixty times a second, for nobody here. */
    private static com.microsoft.playwright.Browser.NewContextOptions still() {
        return new com.microsoft.playwright.Browser.NewContextOptions().setReducedMotion(ReducedMotion.REDUCE);
    }

    /** A page of a profile that nobody else gets: to listen to what it does, or to change what scripts find in it. */
    public Page freshPage(int width, int height) {
        return browser.newContext(still().setViewportSize(width, height)).newPage();
    }

    /** Gives authenticators to a page of {@link #page}, until it is left. */
    public VirtualAuthenticators authenticators(Page page) {
        var given = new VirtualAuthenticators(page);
        used.stream().filter(profile -> profile.page == page).forEach(profile -> profile.authenticators.add(given));
        return given;
    }

    /** Pages are left and ask for nothing more. */
    public void leave() {
        for (var profile : used) {
            try {
                if (profile.emptied()) {
                    idle.push(profile);
                }
            } catch (PlaywrightException e) {
                // Such as one whose page was closed, or waits for an answer that never comes.
            }
        }
        used.clear();
        var kept = idle.stream().map(profile -> profile.page.context()).collect(Collectors.toSet());
        // A copy: each one that is closed leaves the list.
        List.copyOf(browser.contexts()).stream()
                .filter(context -> !kept.contains(context))
                .forEach(BrowserContext::close);
    }

    /** One page in a profile of its own, and what was given to it. */
    private static final class Profile {
        private final Page page;
        private final CDPSession session;
        private final List<VirtualAuthenticators> authenticators = new ArrayList<>();
        private final Set<String> origins = new HashSet<>();

        Profile(Page page) {
            this.page = page;
            session = page.context().newCDPSession(page);
            page.onFrameNavigated(frame -> {
                if (frame.url().startsWith("http")) {
                    var at = URI.create(frame.url());
                    origins.add(at.getScheme() + "://" + at.getAuthority());
                }
            });
        }

        /** As if nobody had been here; false where that can't be. */
        boolean emptied() {
            if (page.isClosed()) {
                return false;
            }
            var context = page.context();
            List.copyOf(context.pages()).stream().filter(other -> other != page).forEach(Page::close);
            authenticators.forEach(VirtualAuthenticators::close);
            authenticators.clear();
            // What a tab keeps for itself can only be emptied from a page of the same origin.
            if (origins.size() > 1) {
                return false;
            }
            for (var origin : origins) {
                // Empty, and of the same origin: after another one the next test would begin with a new process.
                var left = origin + "/left";
                page.route(
                        left,
                        route -> route.fulfill(new Route.FulfillOptions()
                                .setContentType("text/html")
                                .setBody("")));
                page.navigate(left);
                page.unroute(left);
                page.evaluate("sessionStorage.clear()");
            }
            context.clearCookies();
            context.clearPermissions();
            for (var origin : origins) {
                var body = new JsonObject();
                body.addProperty("origin", origin);
                body.addProperty("storageTypes", "all");
                session.send("Storage.clearDataForOrigin", body);
            }
            page.setDefaultTimeout(DEFAULT_PATIENCE);
            return true;
        }
    }

    @Override
    public void close() {
        browser.close();
        playwright.close();
    }
}
