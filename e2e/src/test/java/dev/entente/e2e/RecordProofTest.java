package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The record is proven by whoever wants to, from the service or from a file; what was done to it is named. */
class RecordProofTest {
    private static final Duration SOON = Duration.ofSeconds(30);
    private final ServiceWorld world = ServiceWorld.get();

    @TempDir
    Path folder;

    private void sealed() {
        Installation.waitUntil(
                SOON,
                "everything is sealed",
                () -> world.query("SELECT count(*) FROM event_pending").equals("0"));
    }

    @Test
    void the_service_s_record_is_proven_exported_gone_on_with_and_proven_offline() throws IOException {
        sealed();
        var online = world.entente("event", "verify").expect(0);
        assertThat(online.out()).contains("The record is what was sealed.");
        var key = online.err().replaceAll("(?s).*key (\\S+), as.*", "$1");
        assertThat(world.entente("event", "verify", "--key", key).expect(0).err())
                .doesNotContain("as the record says");
        assertThat(world.entente("event", "verify", "--key", "another")
                        .expect(1)
                        .err())
                .contains("the record names another key");

        var kept = Files.writeString(
                folder.resolve("kept"),
                world.entente("event", "checkpoint").expect(0).out());
        var file = folder.resolve("record.jsonl");
        world.entente("event", "export", file.toString()).expect(0);
        assertThat(world.entente("event", "verify", file.toString(), "--key", key, "--kept", kept.toString())
                        .expect(0)
                        .out())
                .contains("proven by ", "The record is what was sealed.");

        // Cut off in the middle of a line, and gone on with.
        var text = Files.readString(file);
        Files.writeString(file, text.substring(0, text.length() * 2 / 3));
        world.entente("stop", "action:unlock", "--reason", "the record grows").expect(0);
        world.entente("resume", "action:unlock").expect(0);
        sealed();
        assertThat(world.entente("event", "export", file.toString()).expect(0).err())
                .contains("of them new");
        assertThat(Files.readString(file))
                .startsWith(text.substring(0, text.length() / 2))
                .contains("the record grows");
        assertThat(world.entente("--output", "json", "event", "verify", file.toString())
                        .expect(0)
                        .out())
                .contains("\"faults\" : [ ]");
        var nothing = Files.writeString(folder.resolve("other"), "not an export\n");
        assertThat(world.entente("event", "export", nothing.toString())
                        .expect(1)
                        .err())
                .contains("is no export; choose another name");
        assertThat(Files.readString(nothing)).isEqualTo("not an export\n");
        assertThat(world.entente("event", "verify", nothing.toString())
                        .expect(1)
                        .err())
                .contains("is no export of a record");
    }

    @Test
    void what_was_done_to_an_export_is_named() throws IOException {
        sealed();
        var file = folder.resolve("record.jsonl");
        world.entente("event", "export", file.toString()).expect(0);
        var lines = Files.readAllLines(file);
        var at = (int) lines.stream()
                .takeWhile(l -> !l.contains("\"kind\":\"administrator.signed-in\""))
                .count();
        var seq = ApiPerson.JSON.readTree(lines.get(at)).at("/event/seq").asString();
        lines.set(at, lines.get(at).replace("\"second\":false", "\"second\":true"));
        Files.write(file, lines);
        assertThat(world.entente("event", "verify", file.toString()).expect(1).out())
                .startsWith("Event " + seq + " (administrator.signed-in, ")
                .contains("The record is not what was sealed.");
        lines.remove(at);
        Files.write(file, lines);
        assertThat(world.entente("event", "verify", file.toString()).expect(1).out())
                .startsWith("Event " + seq + " is missing.");
    }

    private String independently(Path proofs) {
        return Installation.run(
                        Map.of(),
                        "python3",
                        Installation.ROOT
                                .resolve("e2e/src/test/resources/check_proofs.py")
                                .toString(),
                        proofs.toString())
                .expect(0)
                .out();
    }

    @Test
    void proofs_of_an_attempt_and_of_a_continuation_hold_for_another_program_and_not_once_they_were_touched()
            throws IOException {
        sealed();
        var kept = Files.writeString(
                folder.resolve("kept"),
                world.entente("event", "checkpoint").expect(0).out());
        var crew = world.crew();
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        person.choose("Proof-Quay-" + System.nanoTime()).waitForOutcome(SOON);
        sealed();
        var reference = person.attempt.reference();
        var proofs = folder.resolve("proofs");
        Files.writeString(
                proofs,
                world.entente("event", "prove", "--reference", reference)
                        .expect(0)
                        .out());
        var checked =
                world.entente("event", "check", proofs.toString()).expect(0).out();
        var many = Files.readAllLines(proofs).size();
        assertThat(checked.lines()).hasSize(many).allMatch(line -> line.startsWith("Proven: event "));
        assertThat(checked).contains(crew.shore(), "accepted the new password");
        assertThat(independently(proofs).lines()).hasSize(many).containsOnly("holds");

        // By another key than the one that somebody knows, and with a word, a name, or a place that was not sealed.
        assertThat(world.entente("event", "check", proofs.toString(), "--key", "another")
                        .expect(1)
                        .out())
                .contains("NOT PROVEN: line 1: it names another key");
        var touched = folder.resolve("touched");
        for (var change : List.of(
                List.of("\"kind\":\"attempt.started\"", "\"kind\":\"attempt.blocked\""),
                List.of("\"value\":\"" + crew.shore() + "\"", "\"value\":\"somebody.else\""),
                List.of("\"seq\":", "\"seq\":1"))) {
            var line = Files.readAllLines(proofs).get(0);
            assertThat(line).contains(change.get(0));
            Files.writeString(touched, line.replace(change.get(0), change.get(1)) + "\n");
            assertThat(world.entente("event", "check", touched.toString())
                            .expect(1)
                            .out())
                    .startsWith("NOT PROVEN: line 1: ");
            assertThat(independently(touched)).isEqualTo("does not hold\n");
        }

        // The record since the checkpoint that was kept, though it grew; and a proof for another one.
        var continued = folder.resolve("continued");
        Files.writeString(
                continued,
                world.entente("event", "prove", "--kept", kept.toString())
                        .expect(0)
                        .out());
        assertThat(world.entente("event", "check", continued.toString())
                        .expect(0)
                        .out())
                .startsWith("Proven: the record of ");
        assertThat(independently(continued)).isEqualTo("holds\n");
        var first = ApiPerson.JSON.readTree(Files.readString(continued));
        var earlier = world.query("SELECT statement FROM checkpoint WHERE size > 1 ORDER BY size LIMIT 1");
        assertThat(earlier).isNotEqualTo(first.path("before").asString());
        Files.writeString(
                touched,
                Files.readString(continued).replace(first.path("before").asString(), earlier));
        assertThat(world.entente("event", "check", touched.toString()).expect(1).out())
                .contains("the later checkpoint doesn't continue the earlier one");
        assertThat(independently(touched)).isEqualTo("does not hold\n");
        Files.writeString(touched, "not a proof\n");
        assertThat(world.entente("event", "check", touched.toString()).expect(1).err())
                .contains("holds something that is no proof, in line 1");
        assertThat(world.entente("event", "prove", "--event", "99999999")
                        .expect(1)
                        .err())
                .contains("There is no event at position 99999999");
    }

    @Test
    void a_report_of_an_attempt_is_read_by_people_and_carries_its_proofs() throws IOException {
        var crew = world.crew();
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        person.choose("Report-Quay-" + System.nanoTime()).waitForOutcome(SOON);
        sealed();
        var reference = person.attempt.reference();
        var report = folder.resolve("report.pdf");
        world.entente("attempt", "report", reference, "--to", report.toString()).expect(0);
        var text = Installation.run(Map.of(), "pdftotext", "-layout", report.toString(), "-")
                .expect(0)
                .out();
        var hint = crew.address().charAt(0) + "…@";
        assertThat(text)
                .containsPattern("Who was told\\s+When\\s+To\\s+By\\s+Message\\s+Came to")
                .containsPattern(hint + "\\S+\\s+mail\\s+password-reset\\s+sent")
                .containsPattern("The message was sent by mail to " + hint + "\\S+:\\s+password-reset");
        assertThat(text)
                .contains(
                        reference,
                        "Came to",
                        "completed",
                        "The person verified with email-code.",
                        "shore",
                        "fleet",
                        "Network",
                        "127.0.0.1",
                        "Browser",
                        "unknown, on an unknown network",
                        "entente event check proofs.jsonl --key ",
                        "Page 1 of ");
        Installation.run(Map.of(), "pdfdetach", "-saveall", "-o", folder.toString(), report.toString())
                .expect(0);
        var proofs = folder.resolve("proofs.jsonl");
        assertThat(world.entente("event", "check", proofs.toString()).expect(0).out())
                .contains("Proven: event ", crew.shore());
        assertThat(independently(proofs).lines()).containsOnly("holds");
        world.onRecord("made a report of the attempt " + reference);
        assertThat(world.entente("attempt", "report", "R 0000 000 000", "--to", report.toString())
                        .expect(1)
                        .err())
                .contains("entente: ");
        assertThat(Files.size(report)).isGreaterThan(10_000);
    }

    @Test
    void what_was_changed_in_the_database_is_named_online_and_a_roll_back_by_a_checkpoint_that_was_kept()
            throws IOException {
        sealed();
        var kept = Files.writeString(
                folder.resolve("kept"),
                world.entente("event", "checkpoint").expect(0).out());
        var event = world.query("SELECT event FROM event_leaf WHERE seq = 2");
        var was = world.query("SELECT data FROM event WHERE id = '" + event + "'");
        try {
            tampered("UPDATE event SET data = '{\"other\": true}' WHERE id = '" + event + "'");
            assertThat(world.entente("event", "verify").expect(1).out()).startsWith("Event 2 (");
        } finally {
            tampered("UPDATE event SET data = '" + was + "' WHERE id = '" + event + "'");
        }
        world.entente("event", "verify", "--kept", kept.toString()).expect(0);

        // As after a backup was restored: the file is an older state of the record.
        var file = folder.resolve("older.jsonl");
        world.entente("event", "export", file.toString()).expect(0);
        var lines = Files.readAllLines(file);
        var checkpoint = 0;
        for (var i = 0; i < lines.size() / 2; i++) {
            checkpoint = lines.get(i).contains("\"checkpoint\":{") ? i : checkpoint;
        }
        Files.write(file, List.copyOf(lines.subList(0, checkpoint + 1)));
        world.entente("event", "verify", file.toString()).expect(0);
        assertThat(world.entente("event", "verify", file.toString(), "--kept", kept.toString())
                        .expect(1)
                        .out())
                .contains("it was rolled back");
    }

    /** With the owner's rights, past the triggers. */
    private void tampered(String sql) {
        world.query("SET session_replication_role = replica; " + sql + "; SET session_replication_role = DEFAULT");
    }
}
