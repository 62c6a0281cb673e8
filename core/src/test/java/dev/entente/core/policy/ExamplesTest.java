package dev.entente.core.policy;

import static org.assertj.core.api.Assertions.assertThat;

import com.networknt.schema.InputFormat;
import com.networknt.schema.JsonSchema;
import com.networknt.schema.JsonSchemaFactory;
import com.networknt.schema.SpecVersion;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.DynamicTest;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestFactory;

/** The files of docs/examples, the schemas beside them, and wrong files of every kind with what is said of each. */
class ExamplesTest {
    private static final Path DOCS = Path.of("").toAbsolutePath().getParent().resolve("docs");
    private static final List<String> DIRECTORIES = List.of("shore", "fleet");
    private static final JsonSchemaFactory SCHEMAS = JsonSchemaFactory.getInstance(SpecVersion.VersionFlag.V202012);

    private static Map<String, String> examples() throws IOException {
        var files = new TreeMap<String, String>();
        var folder = DOCS.resolve("examples");
        try (var found = Files.walk(folder)) {
            for (var file : found.filter(Files::isRegularFile).toList()) {
                files.put(folder.relativize(file).toString(), Files.readString(file));
            }
        }
        return files;
    }

    private static JsonSchema schema(String path) throws IOException {
        var folder = path.contains("/") ? path.substring(0, path.indexOf('/')) : path.replace(".yaml", "");
        var kind = Map.of(
                        "policies", "policy",
                        "scopes", "scope",
                        "networks", "network",
                        "passwords", "password",
                        "messages", "message")
                .getOrDefault(folder, folder);
        return SCHEMAS.getSchema(Files.readString(DOCS.resolve("schema/" + kind + ".json")));
    }

    @Test
    void the_examples_are_sound_and_mean_what_they_say() throws IOException {
        var read = ConfigurationReader.read(examples(), DIRECTORIES);
        assertThat(read.problems()).isEmpty();
        var configuration = read.configuration().orElseThrow();
        assertThat(configuration.policies())
                .extracting(Policy::name)
                .containsExactly("administrators", "first-ring", "bridge", "deck-crew", "agency", "terminals");
        assertThat(configuration.scopes().get("first-ring").words())
                .isEqualTo("in a stable 10% of those named astrid.nordvik or liam.ohara or (in the scope deck-crew"
                        + " but not whose employeeType is seasonal)");
        assertThat(configuration.policies().get(4).texts("Agency crew"))
                .contains("On Mon, Tue, Wed, Thu, Fri from 20:00 to 05:00 (Europe/Oslo) it takes 2 methods for reset.");
    }

    @TestFactory
    Stream<DynamicTest> each_example_fits_its_schema() throws IOException {
        return examples().entrySet().stream()
                .map(file -> DynamicTest.dynamicTest(
                        file.getKey(),
                        () -> assertThat(schema(file.getKey()).validate(file.getValue(), InputFormat.YAML))
                                .isEmpty()));
    }

    private static List<String> blocks(String text, String mark) {
        var parts = List.of(text.split("(?m)^" + mark + " ", -1));
        return parts.subList(1, parts.size());
    }

    /** Cases of a name, files, and after {@code >>>} every problem in order. */
    @TestFactory
    Stream<DynamicTest> wrong_files_are_told_in_these_words() throws IOException {
        var golden = Files.readString(Path.of("src/test/resources/wrong-files.txt"));
        return blocks(golden, "===").stream().map(one -> {
            var parts = one.split("(?m)^>>>\\n", 2);
            var title = parts[0].lines().findFirst().orElseThrow();
            return DynamicTest.dynamicTest(title, () -> {
                var files = base();
                for (var file : blocks(parts[0], "---")) {
                    var lines = file.split("\n", 2);
                    files.put(lines[0].strip(), lines[1]);
                }
                var told = ConfigurationReader.read(files, DIRECTORIES).problems().stream()
                        .map(ConfigurationProblem::toString)
                        .collect(Collectors.joining("\n"));
                assertThat(told).isEqualTo(parts[1].strip());
            });
        });
    }

    private static Map<String, String> base() {
        var files = new LinkedHashMap<String, String>();
        files.put("defaults.yaml", "password: rules\ndeliver: { to: [shore] }\n");
        files.put("passwords/rules.yaml", "password: rules\n");
        files.put("networks/ships.yaml", "network: ships\nranges: [10.20.0.0/16]\n");
        files.put("terms/use.yaml", "terms: use\ntexts: { en: Be kind. }\n");
        files.put("scopes/crew.yaml", "scope: crew\nany:\n  - group: CN=Crew,DC=x\n");
        files.put("policies/crew.yaml", "policy: crew\nwho: scope crew\n");
        return files;
    }

    @Test
    void two_readings_of_the_same_files_are_equal() throws IOException {
        var files = examples();
        var first = ConfigurationReader.read(files, DIRECTORIES).configuration().orElseThrow();
        var again = ConfigurationReader.read(new TreeMap<>(files), DIRECTORIES)
                .configuration()
                .orElseThrow();
        assertThat(Comparison.of(first, files, again, new TreeMap<>(files)).sentences())
                .isEmpty();
        assertThat(first.policies()).isEqualTo(again.policies());
        assertThat(first.scopes()).isEqualTo(again.scopes());
        assertThat(first.methods()).isEqualTo(again.methods());
        assertThat(first.messages()).isEqualTo(again.messages());
    }
}
