package dev.entente.service.platform;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.problem.ProblemCatalogue;
import dev.entente.core.problem.ProblemKind;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.assertj.core.api.Assertions;
import org.junit.jupiter.api.Test;

/** Every problem is raised by its key in the catalogue, with all that its sentence needs, and the catalogue holds no others. */
class ProblemsTest {
    private static final Path ROOT = Path.of("").toAbsolutePath().getParent();
    private static final Pattern RAISED = Pattern.compile("Problem\\s*\\.of\\(\\s*\"([a-z/-]+)\"\\s*\\)");
    private static final Pattern WITH = Pattern.compile("\\G\\s*\\.with\\(\\s*\"(\\w+)\"\\s*,");
    private static final Pattern REASON = Pattern.compile("new InvalidDocument\\(\\s*\"([a-z-]+)\"");
    /** What is wrong with an answer to a question that somebody chose is a problem of the same name. */
    private static final Pattern FAULT = Pattern.compile("\\bfault\\(\\s*[^,()]+,\\s*\"([a-z-]+)\"");

    private record Raised(String key, Set<String> told) {}

    private static String sources(String module) throws IOException {
        try (var files = Files.walk(ROOT.resolve(module + "/src/main/java"))) {
            var all = new StringBuilder();
            for (var file : files.filter(f -> f.toString().endsWith(".java")).toList()) {
                all.append(Files.readString(file));
            }
            return all.toString();
        }
    }

    private static List<Raised> raised(String sources) {
        var all = new ArrayList<Raised>();
        var found = RAISED.matcher(sources);
        while (found.find()) {
            var told = new TreeSet<String>();
            var at = found.end();
            var with = WITH.matcher(sources);
            while (with.find(at) && with.start() == at) {
                told.add(with.group(1));
                at = closed(sources, sources.indexOf('(', with.start()));
            }
            all.add(new Raised(found.group(1), told));
        }
        return all;
    }

    /** Behind the parenthesis that closes the one at this place. */
    private static int closed(String text, int at) {
        var depth = 0;
        var quoted = false;
        for (var i = at; ; i++) {
            var c = text.charAt(i);
            if (quoted) {
                i += c == '\\' ? 1 : 0;
                quoted = c != '"';
            } else if (c == '"') {
                quoted = true;
            } else if (c == '(') {
                depth++;
            } else if (c == ')' && --depth == 0) {
                return i + 1;
            }
        }
    }

    @Test
    void what_is_raised_is_in_the_catalogue_and_says_all_of_it() throws IOException {
        var all = raised(sources("service"));
        assertThat(all).hasSizeGreaterThan(250).allSatisfy(one -> {
            var kind = ProblemCatalogue.find(one.key());
            assertThat(kind).as(one.key()).isPresent();
            assertThat(one.told()).as(one.key()).isEqualTo(kind.get().named());
        });
        var used = all.stream().map(Raised::key).collect(Collectors.toCollection(TreeSet::new));
        FAULT.matcher(sources("core")).results().forEach(fault -> {
            used.add(fault.group(1));
            used.add(fault.group(1) + "/chosen");
        });
        var reasons = REASON.matcher(sources("service") + sources("core") + sources("wire"))
                .results()
                .map(found -> found.group(1))
                .toList();
        // Refused documents name their reason.
        assertThat(reasons)
                .allSatisfy(reason -> assertThat(ProblemCatalogue.find("document-" + reason))
                        .as(reason)
                        .isPresent());
        reasons.forEach(reason -> used.addAll(List.of("document-" + reason, "steward-" + reason)));
        assertThat(ProblemCatalogue.all().stream().map(ProblemKind::key).filter(key -> !used.contains(key)))
                .as("kinds that nobody raises")
                .isEmpty();
    }

    @Test
    void what_is_said_otherwise_than_the_catalogue_has_it_is_refused_where_it_is_said() {
        Assertions.assertThatIllegalArgumentException().isThrownBy(() -> Problem.of("no-such-problem"));
        Assertions.assertThatIllegalArgumentException()
                .isThrownBy(() -> Problem.of("attempt-gone").with("password", "x"));
        var stopped = Problem.of("stopped").with("helpDesk", "1960 \"at once\"").with("until", null);
        assertThat(stopped.getMessage()).endsWith("contact the help desk: 1960 \"at once\".");
        assertThat(stopped.status().value()).isEqualTo(503);
        assertThat(stopped.document().getProperties()).isNull();
        assertThat(Problem.of("stopped").with("retryAfter", 5).retryAfter()).contains("5");
        assertThat(Problem.named("document-unheard-of", "document-format")
                        .with("why", "x")
                        .document()
                        .getType())
                .hasToString("urn:entente:problem:document-format");
    }
}
