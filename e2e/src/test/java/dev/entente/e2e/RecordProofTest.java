package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.node.ArrayNode;
import tools.jackson.databind.node.ObjectNode;

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
        var key = world.recordKey();
        var online = world.entente("event", "verify").expect(0);
        assertThat(online.out())
                .contains("all are proven by ", "the one that this profile knows", "The record is what was sealed.");
        assertThat(world.verify().expect(0).out()).contains("as expected");
        assertThat(world.entente("event", "verify", "--key", "another")
                        .expect(1)
                        .err())
                .contains("the record is signed with key " + key + ", not with the expected another");

        var kept = Files.writeString(
                folder.resolve("kept"),
                "\n" + world.entente("event", "checkpoint").expect(0).out());
        var file = folder.resolve("record.jsonl");
        world.entente("event", "export", file.toString()).expect(0);
        assertThat(world.verify(file.toString(), "--kept", kept.toString())
                        .expect(0)
                        .out())
                .contains("Compared with 1 kept checkpoint.", "The record is what was sealed.");
        // Without a known key, the result says so.
        var stranger = Installation.run(
                Map.of("ENTENTE_HOME", folder.resolve("nobody").toString()),
                Installation.ROOT.resolve("bin/entente").toString(),
                "event",
                "verify",
                file.toString());
        assertThat(stranger.expect(5).out())
                .contains(
                        "Signed with key " + key + ", according to the record itself",
                        "Whether it is the service's key wasn't checked")
                .doesNotContain("The record is what was sealed.");
        var empty = Files.writeString(folder.resolve("empty"), "\n\n");
        assertThat(world.verify(file.toString(), "--kept", empty.toString())
                        .expect(1)
                        .err())
                .contains("contains no checkpoint; add one with");
        var spoiled = Files.writeString(folder.resolve("spoiled"), Files.readString(kept) + "2026-11-29\n");
        assertThat(world.verify(file.toString(), "--kept", spoiled.toString())
                        .expect(1)
                        .err())
                .contains("line 3 of " + spoiled + " isn't a checkpoint");

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
                .contains("it isn't an export of a record");
    }

    /** What was done to a copy, and what verifying it says; strict reading is played by RecordReaderTest. */
    @Test
    void a_copy_that_was_signed_by_none_or_ends_early_is_no_proof() throws IOException {
        sealed();
        var file = folder.resolve("record.jsonl");
        world.entente("event", "export", file.toString()).expect(0);
        var whole = List.copyOf(Files.readAllLines(file));
        var last = IntStream.range(0, whole.size())
                .filter(i -> whole.get(i).startsWith("{\"checkpoint\""))
                .max()
                .orElseThrow();
        var events = whole.stream().filter(l -> l.startsWith("{\"event\"")).count();

        // Without any checkpoint, and with it a name that was made up.
        refused(
                whole.stream()
                        .filter(l -> !l.startsWith("{\"checkpoint\""))
                        .map(l -> l.replace("\"value\":\"ingeborg\"", "\"value\":\"astrid\""))
                        .toList(),
                "has a different administrator than when it was sealed",
                "Never signed: ",
                "No checkpoint covers these events");
        // Without the last one; with one event more; half of it; its beginning alone; without its end.
        var shorter = new ArrayList<>(whole);
        shorter.remove(last);
        refused(shorter, "after the last checkpoint and w");
        var longer = new ArrayList<>(whole);
        longer.add(whole.size() - 1, whole.get(1).replace("\"seq\":0", "\"seq\":" + events));
        refused(
                longer,
                "The record should contain " + events + " events, but " + (events + 1) + " were read.",
                "Never signed: 1.");
        refused(whole.subList(0, whole.size() / 2), "The file has no end mark: it was cut off");
        refused(whole.subList(0, 1), "The record contains no events.");
        refused(whole.subList(0, whole.size() - 1), "The file has no end mark");
        // Cut off at a checkpoint, with an end of its own: only what was kept elsewhere tells.
        var kept = Files.writeString(
                folder.resolve("kept"),
                world.entente("event", "checkpoint").expect(0).out());
        var first = IntStream.range(0, whole.size())
                .filter(i -> whole.get(i).startsWith("{\"checkpoint\""))
                .min()
                .orElseThrow();
        var older = new ArrayList<>(whole.subList(0, first + 1));
        older.add("{\"end\":{\"events\":"
                + older.stream().filter(l -> l.startsWith("{\"event\"")).count() + "}}");
        Files.write(file, older);
        assertThat(world.verify(file.toString()).expect(0).out())
                .contains("an older copy of the record would look the same");
        assertThat(world.verify(file.toString(), "--kept", kept.toString())
                        .expect(1)
                        .out())
                .contains("it was rolled back");
    }

    private void refused(List<String> lines, String... sentences) throws IOException {
        var file = Files.write(folder.resolve("touched.jsonl"), lines);
        assertThat(world.verify(file.toString()).expect(1).out())
                .contains(sentences)
                .contains("The record is not what was sealed.");
    }

    @Test
    void a_service_that_shows_the_record_s_beginning_alone_is_found_out() throws IOException {
        sealed();
        var key = world.recordKey();
        var api = ConsoleApi.signedIn(world);
        var wire = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        wire.createContext("/", call -> {
            var path = call.getRequestURI().toString().substring("/api/v1".length());
            var cut = ((ObjectNode) ApiPerson.JSON.readTree(api.get(path).body())).put("after", (Long) null);
            ((ArrayNode) cut.path("events")).remove(cut.path("events").size() - 1);
            var bytes = cut.toString().getBytes(StandardCharsets.UTF_8);
            call.getResponseHeaders().set("Content-Type", "application/json");
            call.sendResponseHeaders(200, bytes.length);
            call.getResponseBody().write(bytes);
            call.close();
        });
        wire.start();
        try {
            var said = world.entente(
                    "--server", "http://127.0.0.1:" + wire.getAddress().getPort(), "event", "verify", "--key", key);
            assertThat(said.expect(1).out())
                    .containsPattern("(is|are) missing\\.")
                    .containsPattern("Missing: [0-9,]+\\.")
                    .contains("The record is not what was sealed.");
        } finally {
            wire.stop(0);
        }
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
        var checked = world.check(proofs).expect(0).out();
        var many = Files.readAllLines(proofs).size();
        assertThat(checked.lines()).hasSize(many + 1);
        assertThat(checked.lines().limit(many))
                .allMatch(line -> line.startsWith("Proven: event ") && line.contains(reference));
        assertThat(checked).endsWith(reference + ": events 1 to " + many + " are proven.\n");
        assertThat(checked).contains(crew.shore(), "accepted the new password");
        assertThat(independently(proofs).lines()).hasSize(many).containsOnly("holds");

        // By another key than the one that somebody knows, and with a word, a name, or a place that was not sealed.
        assertThat(world.entente("event", "check", proofs.toString(), "--key", "another")
                        .expect(1)
                        .out())
                .contains("NOT PROVEN: line 1: it is signed with key");
        var stranger = Installation.run(
                Map.of("ENTENTE_HOME", folder.resolve("nobody").toString()),
                Installation.ROOT.resolve("bin/entente").toString(),
                "event",
                "check",
                proofs.toString());
        assertThat(stranger.expect(5).out())
                .contains("Signed with key " + world.recordKey(), "Whether it is the service's key wasn't checked");
        var fewer = Files.write(
                folder.resolve("fewer"),
                Files.readAllLines(proofs).stream()
                        .filter(line -> !line.contains("\"ordinal\":2,"))
                        .toList());
        assertThat(world.check(fewer).expect(0).out()).contains("this file doesn't prove number 2.");
        var touched = folder.resolve("touched");
        for (var change : List.of(
                List.of("\"kind\":\"attempt.started\"", "\"kind\":\"attempt.blocked\""),
                List.of("\"value\":\"" + crew.shore() + "\"", "\"value\":\"somebody.else\""),
                List.of("\"seq\":", "\"seq\":1"),
                List.of("\"reference\":\"", "\"reference\":\"1"),
                List.of("\"ordinal\":1,", "\"ordinal\":2,"))) {
            var line = Files.readAllLines(proofs).get(0);
            assertThat(line).contains(change.get(0));
            Files.writeString(touched, line.replace(change.get(0), change.get(1)) + "\n");
            assertThat(world.check(touched).expect(1).out()).startsWith("NOT PROVEN: line 1: ");
            assertThat(independently(touched)).isEqualTo("does not hold\n");
        }

        // The record since the checkpoint that was kept, though it grew; and a proof for another one.
        var continued = folder.resolve("continued");
        Files.writeString(
                continued,
                world.entente("event", "prove", "--kept", kept.toString())
                        .expect(0)
                        .out());
        assertThat(world.check(continued).expect(0).out()).startsWith("Proven: the record of ");
        assertThat(independently(continued)).isEqualTo("holds\n");
        var first = ApiPerson.JSON.readTree(Files.readString(continued));
        var earlier = world.query("SELECT statement FROM checkpoint WHERE size > 1 ORDER BY size LIMIT 1");
        assertThat(earlier).isNotEqualTo(first.path("before").asString());
        Files.writeString(
                touched,
                Files.readString(continued).replace(first.path("before").asString(), earlier));
        assertThat(world.check(touched).expect(1).out())
                .contains("the later checkpoint doesn't continue the earlier one");
        assertThat(independently(touched)).isEqualTo("does not hold\n");
        Files.writeString(touched, "not a proof\n");
        assertThat(world.check(touched).expect(1).out())
                .contains("NOT PROVEN: line 1: it isn't valid JSON of this form.");
        Files.writeString(touched, Files.readString(proofs).replace("\"ordinal\":1,", "\"ordinal\":1.0,"));
        assertThat(world.check(touched).expect(1).out())
                .contains("NOT PROVEN: line 1: “ordinal” has a wrong type or value.");
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
        assertThat(world.check(proofs).expect(0).out()).contains("Proven: event ", crew.shore());
        assertThat(independently(proofs).lines()).containsOnly("holds");
        world.onRecord("made a report of the attempt " + reference);
        assertThat(world.entente("attempt", "report", "R 0000 000 000", "--to", report.toString())
                        .expect(1)
                        .err())
                .contains("entente: ");
        assertThat(Files.size(report)).isGreaterThan(10_000);
    }

    /** An event of an attempt, a value of another, and the reference: each gone or changed by the database's owner. */
    @Test
    void what_was_removed_from_the_database_is_named_and_missed_by_the_attempt_s_proofs_and_report()
            throws IOException {
        var crew = world.crew();
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        person.choose("Removed-Quay-" + System.nanoTime()).waitForOutcome(SOON);
        sealed();
        var reference = person.attempt.reference();
        var digits = reference.replaceAll("\\D", "");
        var of = " FROM event e JOIN attempt_reference a ON a.attempt = e.attempt WHERE a.reference = '" + digits + "'";
        var second = world.query("SELECT e.id" + of + " AND e.ordinal = 2");
        var first = world.query("SELECT e.id" + of + " AND e.ordinal = 1");
        var places = world.query("SELECT string_agg(seq::text, ',' ORDER BY seq) FROM event_leaf WHERE event IN ('"
                        + first + "', '" + second + "')")
                .split(",");
        tampered("CREATE TABLE removed_event AS SELECT * FROM event WHERE id = '" + second + "';"
                + " CREATE TABLE removed_value AS SELECT * FROM event_personal WHERE event = '" + first
                + "' AND name = 'login'; DELETE FROM event WHERE id = '" + second
                + "'; DELETE FROM event_personal WHERE event = '" + first + "' AND name = 'login'");
        try {
            assertThat(world.verify().expect(1).out())
                    .contains(
                            "Event " + places[1] + " was removed, and no sealed cut accounts for it.",
                            "The value “login” of event " + places[0]
                                    + " was removed, and no sealed erasure accounts for it.",
                            "Removed: 2.");
            var file = folder.resolve("record.jsonl");
            world.entente("event", "export", file.toString()).expect(0);
            assertThat(world.verify(file.toString()).expect(1).out()).contains("Removed: 2.");
            var proven = world.entente("event", "prove", "--reference", reference);
            assertThat(proven.expect(1).err())
                    .contains("Missing events of this attempt: number 2. They were cut off or removed");
            var proofs = Files.writeString(folder.resolve("proofs"), proven.out());
            assertThat(world.check(proofs).expect(0).out())
                    .contains("(values missing: login)", "this file doesn't prove number 2");
            var report = folder.resolve("report.pdf");
            world.entente("attempt", "report", reference, "--to", report.toString())
                    .expect(0);
            assertThat(Installation.run(Map.of(), "pdftotext", "-layout", report.toString(), "-")
                            .expect(0)
                            .out())
                    .contains("Missing events of this attempt: number 2", "Personal values are missing from one event");
        } finally {
            tampered(
                    "INSERT INTO event SELECT * FROM removed_event; INSERT INTO event_personal SELECT * FROM removed_value;"
                            + " DELETE FROM event_waiting WHERE events = ARRAY['" + second
                            + "'::uuid]; DROP TABLE removed_event; DROP TABLE removed_value");
        }

        // Swapped with another person's.
        var other = world.crew();
        var theirs = new ApiPerson(world).prove(other.shore(), other.address());
        theirs.choose("Swapped-Quay-" + System.nanoTime()).waitForOutcome(SOON);
        sealed();
        swap(digits, theirs.attempt.reference().replaceAll("\\D", ""));
        try {
            var swapped = world.entente("event", "prove", "--reference", reference);
            assertThat(swapped.expect(1).err())
                    .contains("shows these events under " + reference + ", and they were sealed under "
                            + theirs.attempt.reference());
            assertThat(world.check(Files.writeString(folder.resolve("swapped"), swapped.out()))
                            .expect(0)
                            .out())
                    .contains(theirs.attempt.reference() + ": ")
                    .doesNotContain(reference);
        } finally {
            swap(digits, theirs.attempt.reference().replaceAll("\\D", ""));
        }
        world.verify().expect(0);
    }

    private void swap(String one, String other) {
        tampered("UPDATE attempt_reference SET reference = 'x' WHERE reference = '" + one
                + "'; UPDATE attempt_reference SET reference = '" + one + "' WHERE reference = '" + other
                + "'; UPDATE attempt_reference SET reference = '" + other + "' WHERE reference = 'x'");
    }

    @Test
    void what_was_changed_in_the_database_is_named_online() throws IOException {
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
        world.verify("--kept", kept.toString()).expect(0);
    }

    /** With the owner's rights, past the triggers. */
    private void tampered(String sql) {
        world.query("SET session_replication_role = replica; " + sql + "; SET session_replication_role = DEFAULT");
    }
}
