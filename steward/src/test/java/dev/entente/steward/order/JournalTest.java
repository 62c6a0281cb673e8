package dev.entente.steward.order;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.FileTime;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class JournalTest {
    private final InstantSource clock = InstantSource.fixed(Instant.ofEpochSecond(1_800_000_000L));
    private final UUID account = UUID.randomUUID();
    private final UUID order = UUID.randomUUID();

    @TempDir
    private Path folder;

    private Path file() {
        return folder.resolve("journal.jsonl");
    }

    @Test
    void a_seal_is_taken_once_for_an_account_over_restarts() throws IOException {
        try (var journal = new Journal(folder, clock)) {
            assertThat(journal.takeSeal("s", account, order, 1, Map.of())).isTrue();
            assertThat(journal.takeSeal("s", account, order, 1, Map.of())).isFalse();
            assertThat(journal.takeSeal("s", account, UUID.randomUUID(), 2, Map.of()))
                    .isFalse();
            assertThat(journal.takeSeal("s", UUID.randomUUID(), UUID.randomUUID(), 1, Map.of()))
                    .isTrue();
        }
        try (var journal = new Journal(folder, clock)) {
            assertThat(journal.takeSeal("s", account, order, 1, Map.of())).isFalse();
            assertThat(journal.takeSeal("s", account, order, 2, Map.of()))
                    .as("a take-over")
                    .isTrue();
            assertThat(journal.takeSeal("s", account, order, 2, Map.of())).isFalse();
        }
    }

    @Test
    void a_receipt_stays_until_it_was_told() throws IOException {
        try (var journal = new Journal(folder, clock)) {
            journal.ended(order, "receipt", Map.of("outcome", "DONE", "versionAfter", "7"));
        }
        try (var journal = new Journal(folder, clock)) {
            assertThat(journal.unsent()).containsExactly(Map.entry(order, "receipt"));
            assertThat(journal.endedBefore(order).orElseThrow().versionAfter()).isEqualTo("7");
            journal.told(order);
        }
        try (var journal = new Journal(folder, clock)) {
            assertThat(journal.unsent()).isEmpty();
        }
    }

    @Test
    void writes_are_counted_over_restarts() throws IOException {
        try (var journal = new Journal(folder, clock)) {
            journal.writing(order, UUID.randomUUID(), Map.of(), Optional::empty);
            journal.writing(order, UUID.randomUUID(), Map.of(), Optional::empty);
        }
        try (var journal = new Journal(folder, clock)) {
            assertThat(journal.writesSince(clock.instant().minusSeconds(60))).isEqualTo(2);
            assertThat(journal.writesSince(clock.instant().plusSeconds(60))).isZero();
        }
    }

    @Test
    void a_changed_removed_or_moved_line_is_noticed() throws IOException {
        try (var journal = new Journal(folder, clock)) {
            for (var i = 0; i < 5; i++) {
                journal.note("note " + i, Map.of());
            }
        }
        var lines = Files.readAllLines(file());
        for (var without = 0; without < 4; without++) {
            var fewer = new ArrayList<>(lines);
            fewer.remove(without);
            Files.write(file(), fewer);
            assertThatThrownBy(() -> new Journal(folder, clock)).hasMessageContaining("the journal was changed");
        }
        Files.writeString(file(), String.join("\n", lines).replace("note 1", "note X") + "\n");
        assertThatThrownBy(() -> new Journal(folder, clock)).hasMessageContaining("line 3 does not follow");
    }

    @Test
    void a_last_line_that_was_cut_off_is_dropped_and_the_chain_goes_on() throws IOException {
        try (var journal = new Journal(folder, clock)) {
            journal.note("whole", Map.of());
        }
        Files.writeString(file(), "{\"at\":1,\"ki", StandardOpenOption.APPEND);
        try (var journal = new Journal(folder, clock)) {
            journal.note("after", Map.of("login", "astrid"));
        }
        new Journal(folder, clock).close();
        assertThat(Journal.search(folder, "")).hasSize(2);
        assertThat(Journal.search(folder, "ASTRID")).hasSize(1);
    }

    @Test
    void a_line_that_is_whole_and_wrong_is_no_line_that_was_cut_off() throws IOException {
        try (var journal = new Journal(folder, clock)) {
            journal.note("whole", Map.of());
        }
        Files.writeString(file(), "{\"at\":1,\"kind\":\"note\"}\n", StandardOpenOption.APPEND);
        assertThatThrownBy(() -> new Journal(folder, clock)).hasMessageContaining("journal");
    }

    @Test
    void a_large_journal_is_set_aside_and_the_chain_and_the_memory_go_on() throws IOException {
        var pages = "x".repeat(4 * 1024 * 1024);
        try (var journal = new Journal(folder, clock)) {
            journal.takeSeal("s", account, order, 1, Map.of());
            for (var i = 0; i < 10; i++) {
                journal.note(pages, Map.of());
            }
            journal.writing(order, account, Map.of(), Optional::empty);
        }
        List<Path> aside;
        try (var files = Files.list(folder)) {
            aside = files.filter(f -> f.getFileName().toString().matches("journal-\\d{12}\\.jsonl"))
                    .toList();
        }
        assertThat(aside).hasSize(1);
        Files.setLastModifiedTime(aside.get(0), FileTime.from(clock.instant()));
        try (var journal = new Journal(folder, clock)) {
            assertThat(journal.takeSeal("s", account, UUID.randomUUID(), 2, Map.of()))
                    .as("what was set aside within a day is remembered")
                    .isFalse();
            assertThat(journal.writesSince(clock.instant())).isEqualTo(1);
        }
        // Archived later: the chain is held to the end of what was set aside.
        Files.delete(aside.get(0));
        new Journal(folder, clock).close();
        var lines = Files.readAllLines(file());
        Files.write(file(), lines.subList(1, lines.size()));
        assertThatThrownBy(() -> new Journal(folder, clock)).hasMessageContaining("the journal was changed");
    }
}
