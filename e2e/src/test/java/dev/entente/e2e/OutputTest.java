package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.ArrayList;
import java.util.Map;
import java.util.TreeMap;
import org.assertj.core.api.InstanceOfAssertFactories;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import tools.jackson.databind.JsonNode;

/** What the command line prints for programs is what the API answers: a script may use either. */
class OutputTest {
    private final ServiceWorld world = ServiceWorld.get();
    private final ConsoleApi api = ConsoleApi.signedIn(world);

    /** An empty list would look like any other. */
    @BeforeEach
    void begin() {
        world.entente("draft", "start", "--name", "output").expect(0);
    }

    @AfterEach
    void discard() {
        world.entente("draft", "discard").expect(0);
    }

    /** Names and kinds of values; what a value is may change between two questions. */
    private static Object shape(JsonNode node) {
        if (node.isObject()) {
            var members = new TreeMap<String, Object>();
            node.properties().forEach(one -> members.put(one.getKey(), shape(one.getValue())));
            return members;
        }
        if (node.isArray()) {
            var items = new ArrayList<Object>();
            node.forEach(one -> items.add(shape(one)));
            return items;
        }
        return node.isNumber() ? "number" : node.getNodeType().toString();
    }

    @ParameterizedTest
    @CsvSource({
        "directory list, /directories",
        "directory show shore, /directories/shore",
        "person show astrid.nordvik, /person?named=astrid.nordvik",
        "explain astrid.nordvik, /explain?person=astrid.nordvik",
        "scope list, /scopes",
        "scope show deck-crew, /scopes/deck-crew",
        "policy list, /policies",
        "revision list, /revisions",
        "revision show 1, /revisions/1",
        "revision changes 1, /revisions/1/changes",
        "message list, /messages",
        "mail show, /channels/mail",
        "administrator list, /administrators",
        "draft list, /drafts"
    })
    void data_is_that_of_the_api(String command, String path) {
        var ran = world.entente(("--output json " + command).split(" ")).expect(0);
        var answer = api.get(path);
        assertThat(answer.statusCode()).as(answer.body()).isEqualTo(200);
        assertThat(shape(ApiPerson.JSON.readTree(ran.out()))).isEqualTo(shape(ApiPerson.JSON.readTree(answer.body())));
    }

    @ParameterizedTest
    @CsvSource({"person list --limit 3, /people?limit=3", "event list --limit 3, /events?limit=3"})
    void a_list_is_its_items(String command, String path) {
        var ran = world.entente(("--output json " + command).split(" ")).expect(0);
        var page = ApiPerson.JSON.readTree(api.get(path).body());
        assertThat(shape(ApiPerson.JSON.readTree(ran.out())))
                .asInstanceOf(InstanceOfAssertFactories.LIST)
                .hasSize(3)
                .allSatisfy(item -> assertThat(((Map<?, ?>) item).keySet())
                        .isEqualTo(((Map<?, ?>) shape(page.path("items").path(0))).keySet()));
    }
}
