package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.verify.Method;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.TreeSet;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;

/** Documents, schemas and pages know the methods that there are, and say of them what is so. */
class MethodPagesTest {
    private static final Path ROOT = Path.of("..").toAbsolutePath().normalize();

    private static TreeSet<String> labels() {
        return Method.known().stream().map(Method::label).collect(Collectors.toCollection(TreeSet::new));
    }

    private static TreeSet<String> names(String folder, String ending) throws IOException {
        try (var files = Files.list(ROOT.resolve(folder))) {
            return files.map(f -> f.getFileName().toString())
                    .filter(f -> f.endsWith(ending))
                    .map(f -> f.substring(0, f.length() - ending.length()))
                    .collect(Collectors.toCollection(TreeSet::new));
        }
    }

    @Test
    void each_has_a_document_that_says_what_it_is() throws IOException {
        assertThat(names("docs/methods", ".md")).isEqualTo(labels());
        for (var method : Method.known()) {
            var page = Files.readString(ROOT.resolve("docs/methods/" + method.label() + ".md"));
            var facts = method.facts();
            assertThat(page)
                    .startsWith("# `" + method.label() + "`: ")
                    .contains("| factor | " + facts.factor().label())
                    .contains("| enough alone | " + (facts.alone() ? "yes" : "no"))
                    .contains(" | " + facts.tries() + "; `tries`")
                    .contains("| what an attacker needs | " + facts.holding().words() + " |")
                    .contains("entente stop method:" + method.label());
            if (facts.life() != null) {
                assertThat(page).contains("| life | " + facts.life().toMinutes() + " minutes; `life`");
            }
            if (facts.besides() != null) {
                assertThat(page)
                        .contains(facts.factor().label() + ", and "
                                + facts.besides().label() + " besides");
            }
        }
    }

    @Test
    void schemas_list_them_and_nothing_else() throws IOException {
        var schema = ApiPerson.JSON.readTree(Files.readString(ROOT.resolve("docs/schema/methods.json")));
        assertThat(new TreeSet<>(schema.path("properties").propertyNames())).isEqualTo(labels());
        for (var method : Method.known()) {
            assertThat(schema.at("/properties/" + method.label() + "/properties")
                            .has("life"))
                    .as(method.label())
                    .isEqualTo(method.facts().life() != null);
        }
        for (var file : new String[] {"policy", "defaults"}) {
            var lists = ApiPerson.JSON
                    .readTree(Files.readString(ROOT.resolve("docs/schema/" + file + ".json")))
                    .findParents("enum")
                    .stream()
                    .map(list -> list.path("enum")
                            .valueStream()
                            .map(v -> v.asString())
                            .collect(Collectors.toCollection(TreeSet::new)))
                    .filter(list -> list.contains("email-code"))
                    .toList();
            assertThat(lists).as(file).isNotEmpty().allMatch(labels()::equals);
        }
    }

    @Test
    void each_has_a_folder_of_pages() throws IOException {
        for (var method : Method.known()) {
            var view = Files.readString(ROOT.resolve("console/src/methods/" + method.label() + "/index.tsx"));
            var life = method.facts().life() == null
                    ? ""
                    : "life: \"" + method.facts().life().toMinutes() + "m\", ";
            assertThat(view)
                    .contains("method: \"" + method.label() + "\"")
                    .contains(
                            "usually: { " + life + "tries: \"" + method.facts().tries() + "\", alone: \""
                                    + (method.facts().alone() ? "yes" : "no") + "\" }");
            assertThat(view.contains("setUp:")).as(method.label()).isEqualTo(method.prepared());
        }
    }
}
