package dev.entente.service.audit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.entente.core.audit.EventCatalogue;
import dev.entente.core.audit.EventKind;
import java.io.IOException;
import java.lang.reflect.RecordComponent;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.TreeSet;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;

/** What the sources write is what the catalogue knows, and nothing else. */
class EventKindsTest {
    private static final Pattern NAMED = Pattern.compile("\"([a-z]+\\.[a-z-]+)\"");

    private static final Pattern BY_FUNCTION = Pattern.compile("record_(?:event|gone_by)\\('([a-z]+\\.[a-z-]+)'");

    @Test
    void every_kind_of_the_catalogue_is_written_somewhere() throws IOException {
        var named = new TreeSet<String>();
        try (var files = Files.walk(Path.of("src/main/java"))) {
            for (var file : files.filter(f -> f.toString().endsWith(".java")).toList()) {
                var found = NAMED.matcher(Files.readString(file));
                while (found.find()) {
                    named.add(found.group(1));
                }
            }
        }
        // By functions of the database.
        try (var files = Files.walk(Path.of("src/main"))) {
            for (var file :
                    files.filter(f -> f.toString().matches(".*\\.(sql|java)")).toList()) {
                var found = BY_FUNCTION.matcher(Files.readString(file));
                while (found.find()) {
                    named.add(found.group(1));
                }
            }
        }
        // Put together from what came of something.
        for (var state : new String[] {"done", "refused", "failed", "unknown"}) {
            named.add("order." + state);
        }
        for (var state :
                new String[] {"sent", "failed", "retried", "uncertain", "dropped", "delivered", "undelivered"}) {
            named.add("notification." + state);
        }
        named.add("preflight.ended");
        named.add("sync.ended");
        assertThat(EventCatalogue.all().stream().filter(EventKind::written).map(EventKind::name))
                .as("kinds that nobody writes are marked so")
                .allMatch(named::contains);
        var parts = EventCatalogue.all().stream()
                .map(kind -> kind.name().replaceAll("\\..*", "."))
                .collect(Collectors.toSet());
        assertThat(named.stream()
                        .filter(name -> parts.contains(name.replaceAll("\\..*", ".")))
                        .filter(name -> EventCatalogue.find(name).isEmpty()))
                .as("named alike, but not in the catalogue: only the name of a file")
                .containsOnly("record.key");
    }

    @Test
    void events_can_be_asked_for_by_each_field_that_they_are_sought_by() {
        var asked = Arrays.stream(EventController.Filters.class.getRecordComponents())
                .map(RecordComponent::getName)
                .toList();
        // A person is asked for by any name, which is their login names and their id.
        assertThat(asked)
                .containsAll(EventCatalogue.SOUGHT.stream()
                        .filter(field -> !field.equals("login"))
                        .toList());
    }

    @Test
    void what_does_not_fit_is_refused_without_telling_what_it_was() {
        var secret = "Harbour-Light-42";
        assertThatThrownBy(() -> NewEvent.operation("nobody.knows").fitted())
                .hasMessage("there is no kind of event nobody.knows");
        assertThatThrownBy(() -> NewEvent.operation("token.made").fitted()).hasMessageContaining("no kind");
        assertThatThrownBy(() -> NewEvent.operation("directory.added").fitted()).hasMessageContaining("isn't kept as");
        assertThatThrownBy(() -> NewEvent.administration("directory.added", "ingeborg")
                        .with("directory", "shore")
                        .with("password", secret)
                        .fitted())
                .hasMessageContaining("is none of its fields")
                .hasMessageNotContaining(secret);
        assertThatThrownBy(() -> NewEvent.administration("directory.added", "ingeborg")
                        .with("administrator", secret)
                        .with("directory", "shore")
                        .fitted())
                .hasMessageContaining("names somebody");
        assertThatThrownBy(() ->
                        NewEvent.administration("directory.added", "ingeborg").fitted())
                .hasMessageContaining("directory is missing");
    }
}
