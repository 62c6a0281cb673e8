package dev.entente.core.audit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.entente.core.audit.RecordVerifier.Kept;
import dev.entente.core.audit.RecordVerifier.Salted;
import dev.entente.core.audit.RecordVerifier.Sealed;
import dev.entente.core.audit.RecordVerifier.Verdict;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.SigningKey;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.StringReader;
import java.security.SecureRandom;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import tools.jackson.databind.json.JsonMapper;

/** A file is a complete record, or verification names what is wrong with it. */
class RecordReaderTest {
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final int MANY = 12;
    private static final SecureRandom RANDOM = new SecureRandom();
    private final SigningKey key = SigningKey.generate(RANDOM);
    private final List<String> lines = new ArrayList<>();
    private String last;

    /** Twelve events, checkpoints after the fourth, the eighth and the last. */
    @BeforeEach
    void write() {
        lines.clear();
        lines.add(line(RecordLine.head(key.publicKey())));
        var tree = new MerkleFrontier();
        for (var i = 0; i < MANY; i++) {
            var salt = new byte[AuditEvent.SALT_LENGTH];
            RANDOM.nextBytes(salt);
            var event = new AuditEvent(
                    i < 4 ? 1 : 2,
                    new UUID(1, i),
                    1_800_000_000_000L + i,
                    "attempt.started",
                    i < 4 ? null : "attempt",
                    new UUID(2, i / 2),
                    i < 4 ? null : "2291407513",
                    1 + i % 2,
                    3,
                    Map.of("action", "reset"),
                    Map.of("login", AuditEvent.commit(salt, "login", "astrid")));
            lines.add(line(RecordLine.of(new Sealed(
                    i,
                    HexFormat.of().formatHex(event.leafHash()),
                    event,
                    Map.of("login", new Salted(HexFormat.of().formatHex(salt), "astrid"))))));
            tree.append(event.leafHash());
            if (i % 4 == 3) {
                last = new Checkpoint(1, i + 1, HexFormat.of().formatHex(tree.root()), 5).sign(key);
                lines.add(line(RecordLine.of(new SignedCheckpoint(i + 1, last))));
            }
        }
        lines.add(line(RecordLine.end(MANY)));
    }

    private static String line(RecordLine line) {
        return JSON.writeValueAsString(line);
    }

    private Verdict verdict(Kept... kept) throws IOException {
        return new RecordReader(new BufferedReader(new StringReader(String.join("\n", lines))), List.of(kept), n -> {})
                .verdict();
    }

    @Test
    void a_whole_file_is_proven() throws IOException {
        var verdict = verdict(new Kept(3, last));
        assertThat(verdict.faults()).isEmpty();
        assertThat(verdict.proven()).isEqualTo(MANY);
        assertThat(verdict.kept()).isEqualTo(1);
    }

    @Test
    void one_of_version_1_has_no_end_and_is_proven_by_a_checkpoint_that_was_kept_of_it() throws IOException {
        lines.set(0, lines.get(0).replace("\"v\":2", "\"v\":1"));
        lines.remove(lines.size() - 1);
        // As they were written.
        lines.replaceAll(line -> line.startsWith("{\"event\"")
                ? "{\"record\":null,\"event\":" + line.substring("{\"event\":".length(), line.length() - 1)
                        + ",\"checkpoint\":null,\"keyChange\":null}"
                : line);
        for (var i = 1; i < 5; i++) {
            lines.set(
                    i,
                    lines.get(i)
                            .replace("\"v\":1,", "")
                            .replace("\"kept\":null,", "")
                            .replace("\"reference\":null,", ""));
            assertThat(lines.get(i)).contains("{\"id\":");
        }
        assertThat(verdict().faults()).singleElement().asString().startsWith("The file has no end mark:");
        assertThat(verdict(new Kept(1, last)).faults()).isEmpty();
    }

    @Test
    void what_a_file_ends_with_is_its_end() throws IOException {
        lines.remove(lines.size() - 1);
        assertThat(verdict().faults()).singleElement().asString().startsWith("The file has no end mark:");
        write();
        lines.set(lines.size() - 1, line(RecordLine.end(MANY + 2)));
        assertThat(verdict().faults()).containsExactly("The events 12 to 13 are missing.");
        assertThat(verdict().missing()).isEqualTo(2);
        lines.set(lines.size() - 1, line(RecordLine.end(MANY - 1)));
        assertThat(verdict().faults()).containsExactly("The record should contain 11 events, but 12 were read.");
        write();
        lines.add(lines.get(3));
        assertThat(verdict().faults()).containsExactly("Line 18 follows the end mark.");
        write();
        lines.add(4, lines.get(0));
        assertThat(verdict().faults().get(0)).isEqualTo("Line 5 starts a second record.");
        write();
        lines.remove(lines.size() - 2);
        assertThat(verdict().faults())
                .containsExactly("Events 8 to 11 are after the last checkpoint and were never signed.");
    }

    @Test
    void events_that_were_put_in_or_taken_out_are_told_with_their_own_numbers() throws IOException {
        lines.remove(7);
        assertThat(verdict().faults().get(0)).isEqualTo("Event 5 is missing.");
        write();
        var gone = JSON.readTree(lines.get(9));
        lines.set(9, line(RecordLine.of(new Sealed(7, gone.at("/event/leaf").asString(), null, Map.of()))));
        assertThat(verdict().faults()).containsExactly("Event 7 was removed, and no sealed cut accounts for it.");
        assertThat(verdict().removed()).isEqualTo(1);
        write();
        lines.set(9, lines.get(9).replaceAll("\"personal\":\\{\"login\":.*?}}", "\"personal\":{}"));
        assertThat(verdict().faults())
                .containsExactly("The value “login” of event 7 was removed, and no sealed erasure accounts for it.");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "\"ordinal\":2| \"ordinal\":2.0| “ordinal” has a wrong type or value",
                "\"ordinal\":2| \"ordinal\":\"2\"| “ordinal” has a wrong type or value",
                "\"ordinal\":2| \"ordinal\":null| “ordinal” has a wrong type or value",
                "\"ordinal\":2,| ``| “ordinal” has a wrong type or value",
                "\"ordinal\":2| \"ordinal\":2,\"ordinal\":2| “ordinal” appears twice",
                "\"ordinal\":2| \"ordinal\":2,\"also\":1| “also” is an unknown member",
                "\"seq\":5| \"seq\":\"5\"| “seq” has a wrong type or value",
                "\"kind\":\"attempt.started\"| \"kind\":7| “kind” has a wrong type or value",
                "{\"event\"| {\"events\"| “events” is an unknown member",
                "}}}| }}}}| it isn't valid JSON of this form",
                "{\"event\"| {\"end\":{\"events\":3},\"event\"| it must hold exactly one part",
            })
    void a_line_is_taken_as_it_is_written_or_not_at_all(String was, String is, String why) throws IOException {
        assertThat(lines.get(7)).contains(was);
        lines.set(7, lines.get(7).replace(was, is));
        assertThat(verdict().faults().get(0)).isEqualTo("Line 8 can't be read: " + why + ".");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "\"action\":\"reset\"| \"action\":1.5| Event 5 can't be read: it contains a fraction.",
                "\"action\":\"reset\"| \"action\":9007199254740993| Event 5 can't be read: it contains a number beyond 2^53 - 1.",
                "\"action\":\"reset\"| \"action\":\"\\ud800\"| Event 5 can't be read: it contains half of a surrogate pair.",
                "\"v\":2| \"v\":3| Event 5 can't be read: it is of version 3, which this version doesn't support.",
                "\"kind\":\"attempt.started\"| \"kind\":null| Event 5 can't be read: a member is missing.",
                "\"kept\":\"attempt\",| ``| Event 5 can't be read: a member is missing.",
                "\"value\":\"astrid\"| \"value\":null| Event 5 can't be read: a personal value is missing.",
                "2291407513| 2291407512| Event 5 (attempt.started, 2027-01-15T08:00:00.005Z, attempt 00000000-0000-0002-0000-000000000002) doesn't say what it said when it was sealed.",
                "astrid| ingeborg| Event 5 (attempt.started, 2027-01-15T08:00:00.005Z, attempt 00000000-0000-0002-0000-000000000002) has a different login than when it was sealed.",
            })
    void an_event_that_is_none_is_told_in_a_sentence(String was, String is, String sentence) throws IOException {
        assertThat(lines.get(7)).contains(was);
        lines.set(7, lines.get(7).replace(was, is));
        assertThat(verdict().faults().get(0)).isEqualTo(sentence);
    }

    @Test
    void a_checkpoint_says_the_size_that_was_signed() throws IOException {
        lines.set(
                5,
                line(RecordLine.of(new SignedCheckpoint(
                        5,
                        JSON.readTree(lines.get(5)).at("/checkpoint/statement").asString()))));
        assertThat(verdict().faults())
                .containsExactly("The checkpoint after event 3 was signed over 4 events, but the line says 5.");
    }

    @Test
    void what_is_no_export_is_told_as_that() {
        for (var none : List.of("", "not an export", "null", lines.get(1), "{\"record\":{\"v\":2,\"key\":null}}")) {
            assertThatThrownBy(() -> new RecordReader(new BufferedReader(new StringReader(none)), List.of(), n -> {}))
                    .isInstanceOf(InvalidDocument.class)
                    .hasMessage("it isn't an export of a record");
        }
        var next = lines.get(0).replace("\"v\":2", "\"v\":9");
        assertThatThrownBy(() -> new RecordReader(new BufferedReader(new StringReader(next)), List.of(), n -> {}))
                .hasMessage("it is of version 9, which this version doesn't support");
    }
}
