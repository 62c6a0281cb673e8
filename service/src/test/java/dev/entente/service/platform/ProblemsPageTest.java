package dev.entente.service.platform;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.TreeSet;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;

/** Every problem has a type that a program can tell apart, and docs/problems.md lists it: no more and no fewer. */
class ProblemsPageTest {
    private static final Path ROOT = Path.of("").toAbsolutePath().getParent();
    private static final Pattern RAISED = Pattern.compile("Problem\\s*\\.(?:invalid|conflict)\\(\\s*\"([a-z-]+)\"\\s*,"
            + "|Problem\\s*\\.(missing)\\(\\s*\"([a-z-]+)\"\\s*,"
            + "|Problem\\s*\\.of\\(\\s*HttpStatus\\.\\w+,\\s*\"([a-z]+(?:-[a-z]+)*)\"\\s*,"
            + "|urn:entente:problem:([a-z-]+)"
            + "|problem\\(\\s*response,\\s*\\d+,\\s*\"([a-z-]+)\""
            + "|unavailable\\(\\s*\"([a-z-]+)\"");
    private static final Pattern ANY = Pattern.compile("Problem\\s*\\.(?:invalid|conflict|missing)\\(\\s*[^\\s\"]");
    private static final Pattern REASON = Pattern.compile("new InvalidDocument\\(\\s*\"([a-z-]+)\"");
    /** What is wrong with an answer to a question that somebody chose is a problem of the same name. */
    private static final Pattern FAULT = Pattern.compile("\\bfault\\(\\s*[^,()]+,\\s*\"([a-z-]+)\"");

    private static final Pattern LISTED = Pattern.compile("(?m)^\\| `([a-z-]+)` \\| \\d{3} \\|");

    private static String sources(String module) throws IOException {
        var all = new StringBuilder();
        try (var files = Files.walk(ROOT.resolve(module + "/src/main/java"))) {
            for (var file : files.filter(f -> f.toString().endsWith(".java")).toList()) {
                all.append(Files.readString(file));
            }
        }
        return all.toString();
    }

    @Test
    void the_page_lists_each_type() throws IOException {
        var service = sources("service");
        assertThat(ANY.matcher(service).find())
                .as("each problem is raised with its type as a literal")
                .isFalse();
        var raised = new TreeSet<String>();
        RAISED.matcher(service).results().forEach(found -> {
            for (var group : new int[] {1, 4, 5, 6, 7}) {
                if (found.group(group) != null) {
                    raised.add(found.group(group));
                }
            }
            if (found.group(2) != null) {
                raised.add(found.group(3) + "-not-found");
            }
        });
        FAULT.matcher(sources("core")).results().forEach(found -> raised.add(found.group(1)));
        // Refused documents name their reason.
        REASON.matcher(service + sources("core") + sources("wire"))
                .results()
                .forEach(found -> raised.add("document-" + found.group(1)));
        var listed = new TreeSet<String>();
        LISTED.matcher(Files.readString(ROOT.resolve("docs/problems.md")))
                .results()
                .map(found -> found.group(1))
                // A steward's call is refused for the same reasons.
                .filter(type -> !type.startsWith("steward-")
                        || !raised.contains("document-" + type.substring("steward-".length())))
                .forEach(listed::add);
        assertThat(listed).isEqualTo(raised);
    }
}
