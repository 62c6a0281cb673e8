package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Page;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.List;

/** What a program can see of WCAG 2.2, levels A and AA, on a page as it is now. */
final class Axe {
    private static final String RUN = "() => axe.run(document, { runOnly: ['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa',"
            + " 'wcag22aa'], resultTypes: ['violations'], selectors: false, preload: { assets: ['media'] } }).then((found) => found.violations.map((one) => one.id + ': ' + one.nodes.map((node) =>"
            + " node.html).join(' ')))";

    private static final String SCRIPT = script();

    private Axe() {}

    private static String script() {
        try (var in = Axe.class.getResourceAsStream("/axe.min.js")) {
            return new String(in.readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }

    /** Each rule that is violated, with where. */
    static List<?> violations(Page page) {
        if (Boolean.FALSE.equals(page.evaluate("() => typeof axe === 'object'"))) {
            page.evaluate(SCRIPT);
        }
        return (List<?>) page.evaluate(RUN);
    }

    /** Nothing is violated. */
    static void sound(Page page, String where) {
        assertThat(violations(page)).as(where).isEmpty();
    }
}
