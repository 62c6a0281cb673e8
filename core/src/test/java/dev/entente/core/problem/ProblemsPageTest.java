package dev.entente.core.problem;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Comparator;
import java.util.Map;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;

/** The page of problems is made from the catalogue; -Dentente.regenerate=true writes it anew. */
class ProblemsPageTest {
    private static final Path PAGE = Path.of("").toAbsolutePath().getParent().resolve("docs/problems.md");
    private static final String TABLE = "| type | status | what it says | members |\n|---|---|---|---|\n";

    private static String row(ProblemKind kind) {
        var filled = kind.named().stream().collect(Collectors.toMap(name -> name, name -> (Object) "…"));
        var says = kind.about() == null ? kind.words(filled, "en") : kind.about();
        return "| `" + kind.type() + "` | " + kind.status() + " | " + says.replace("|", "\\|") + " | "
                + kind.members().stream().map(m -> "`" + m + "`").collect(Collectors.joining(", ")) + " |\n";
    }

    @Test
    void the_page_says_what_the_catalogue_does() throws IOException {
        var page = Files.readString(PAGE);
        var wanted = page.substring(0, page.indexOf("| type |"))
                + TABLE
                + ProblemCatalogue.all().stream()
                        .sorted(Comparator.comparing(ProblemKind::key))
                        .map(ProblemsPageTest::row)
                        .distinct()
                        .collect(Collectors.joining());
        if (Boolean.getBoolean("entente.regenerate")) {
            Files.writeString(PAGE, wanted);
        }
        assertThat(Files.readString(PAGE)).isEqualTo(wanted);
    }

    @Test
    void a_type_has_one_status_unless_another_feature_means_something_else_by_it() {
        var several = ProblemCatalogue.all().stream()
                .collect(Collectors.groupingBy(
                        ProblemKind::type, Collectors.mapping(ProblemKind::status, Collectors.toSet())))
                .entrySet()
                .stream()
                .filter(type -> type.getValue().size() > 1)
                .map(Map.Entry::getKey)
                .toList();
        assertThat(several).isEmpty();
    }

    @Test
    void a_sentence_is_a_sentence_and_a_number_is_grouped_only_where_it_decides() {
        assertThat(ProblemCatalogue.all()).allSatisfy(kind -> {
            assertThat(kind.type()).matches("[a-z]+(-[a-z]+)*");
            assertThat(kind.status()).isBetween(400, 599);
            assertThat(kind.says()).containsKey("en");
            assertThat(kind.words(Map.of(), "no such language"))
                    .isEqualTo(kind.words(Map.of(), "en"))
                    .doesNotContain("{", "}", "..");
        });
        var one = ProblemCatalogue.find("note-too-long").orElseThrow();
        assertThat(one.words(Map.of(one.named().iterator().next(), 4000), "en"))
                .contains("4000")
                .doesNotContain("4,000");
    }
}
