package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.audit.Checkpoint;
import dev.entente.core.audit.MerkleFrontier;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.nio.file.Files;
import java.time.Duration;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** Every committed event is sealed within seconds, and nobody with the running role's rights changes it. */
class RecordTest {
    private static final UUID ONE = UUID.randomUUID();
    private static final UUID OTHER = UUID.randomUUID();

    private final ServiceWorld world = ServiceWorld.get();

    @Test
    void an_attempt_tells_its_whole_story_in_order() {
        var crew = world.crew();
        var person = new ApiPerson(world).prove(crew.shore(), crew.address()).choose("Record-Quay-1001");
        person.waitForOutcome(Duration.ofSeconds(30));
        World.waitUntil(
                Duration.ofSeconds(10),
                "the notice is sent",
                () -> kinds(person).stream().filter("notification.sent"::equals).count() == 2);
        assertThat(kinds(person).stream().distinct().toList())
                .containsSubsequence(
                        "attempt.started",
                        "challenge.sent",
                        "notification.queued",
                        "notification.sent",
                        "challenge.answered",
                        "attempt.proved",
                        "password.sealed",
                        "order.leased",
                        "order.begun",
                        "order.done",
                        "attempt.concluded");
        assertThat(world.query(
                        "SELECT string_agg(DISTINCT e.kind, ', ') FROM event e JOIN attempt a ON a.id = e.attempt"
                                + " WHERE a.reference = '"
                                + person.attempt.reference().replaceAll("[R ]", "")
                                + "' AND e.revision <> a.revision"))
                .as("events that do not name the attempt's revision")
                .isEmpty();
    }

    private List<String> kinds(ApiPerson person) {
        var reference = person.attempt.reference();
        var shown = world.entente("--output", "json", "attempt", "show", reference)
                .expect(0)
                .out();
        return ApiPerson.JSON
                .readTree(shown)
                .path("timeline")
                .valueStream()
                .map(e -> e.path("kind").asString())
                .toList();
    }

    @Test
    void the_signed_root_is_that_of_all_leaves_and_every_leaf_is_its_events_hash() throws IOException {
        World.waitUntil(
                Duration.ofSeconds(15),
                "all events are sealed",
                () -> world.query("SELECT count(*) FROM event_pending").equals("0"));
        var key = World.recordKey(world.dir).publicKey();
        var row = world.query("SELECT size || ' ' || statement FROM checkpoint ORDER BY size DESC LIMIT 1")
                .split(" ");
        var tree = new MerkleFrontier();
        for (var leaf : world.query(
                        "SELECT encode(leaf_hash, 'hex') FROM event_leaf WHERE seq < " + row[0] + " ORDER BY seq")
                .lines()
                .toList()) {
            tree.append(HexFormat.of().parseHex(leaf));
        }
        var checkpoint = Checkpoint.verify(row[1], key);
        assertThat(checkpoint.size()).isEqualTo(tree.size()).isPositive();
        assertThat(checkpoint.root()).isEqualTo(HexFormat.of().formatHex(tree.root()));
        assertThat(world.query("SELECT count(*) FROM event_leaf l LEFT JOIN event e ON e.id = l.event"
                        + " WHERE e.leaf_hash IS DISTINCT FROM l.leaf_hash"
                        // Older ones may be cut off: RetentionTest does it in this world.
                        + " AND l.at > now() - interval '1 year'"))
                .isEqualTo("0");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "UPDATE event SET kind = 'x'",
                "DELETE FROM event",
                "TRUNCATE event",
                "UPDATE event_personal SET value = 'x'",
                "DELETE FROM event_leaf",
                "DELETE FROM event_waiting",
                "INSERT INTO event_leaf SELECT 1000000, id, leaf_hash, occurred_at FROM event LIMIT 1",
                "UPDATE event_waiting SET events = events",
                "UPDATE checkpoint SET root = ''",
                "UPDATE revision SET note = 'x'",
                "DELETE FROM event_personal",
                "ALTER TABLE event DISABLE TRIGGER ALL"
            })
    void the_running_role_cannot_change_the_record(String sql) {
        var ran = world.psql("running", sql);
        assertThat(ran.code()).isNotZero();
        assertThat(ran.err()).containsAnyOf("permission denied", "must be owner");
    }

    @Test
    void no_other_event_no_other_hash_and_no_other_place_is_sealed() {
        for (var what : List.of(
                "SELECT seal_events(0, '{}', ARRAY(SELECT id FROM event LIMIT 1), ARRAY['\\x00'::bytea])",
                "SELECT seal_events((SELECT max(seq) + 1 FROM event_leaf), ARRAY(SELECT id FROM event_waiting),"
                        + " ARRAY(SELECT event FROM event_leaf LIMIT 1), ARRAY(SELECT leaf_hash FROM event_leaf LIMIT 1))",
                "SELECT seal_events((SELECT max(seq) + 5 FROM event_leaf), '{}', ARRAY[gen_random_uuid()],"
                        + " ARRAY['\\x00'::bytea])")) {
            assertThat(world.psql("running", what).err()).as(what).contains("are sealed");
        }
        // Nor one of a row without the other. The lock keeps the service from sealing meanwhile.
        assertThat(world.psql("owner", """
                                BEGIN;
                                SELECT pg_advisory_xact_lock(%d);
                                INSERT INTO event_waiting (retention_class, occurred_at, events, leaf_hashes, kinds) SELECT 'operation',
                                    now(), ARRAY['%s', '%s']::uuid[], ARRAY['\\x00', '\\x01']::bytea[], ARRAY['none', 'none'];
                                SELECT seal_events((SELECT max(seq) + 1 FROM event_leaf), ARRAY[max(id)], ARRAY['%s']::uuid[],
                                    ARRAY['\\x00'::bytea]) FROM event_waiting;
                                COMMIT""".formatted(0x456e74656e7465L, ONE, OTHER, ONE))
                        .err())
                .contains("only events that wait are sealed");
        assertThat(world.query("SELECT count(*) FROM event_leaf WHERE event = '" + ONE + "'"))
                .isEqualTo("0");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "INSERT INTO event_leaf SELECT (SELECT max(seq) + 1 FROM event_leaf), gen_random_uuid(), leaf_hash, at FROM"
                        + " event_leaf LIMIT 1 | DELETE FROM event_leaf WHERE seq = (SELECT max(seq) FROM event_leaf)"
                        + " | that no checkpoint covers",
                "UPDATE checkpoint SET peaks = set_byte(peaks, 0, get_byte(peaks, 0) # 1) WHERE size = (SELECT max(size)"
                        + " FROM checkpoint) | UPDATE checkpoint SET peaks = set_byte(peaks, 0, get_byte(peaks, 0) # 1)"
                        + " WHERE size = (SELECT max(size) FROM checkpoint) | does not hold what was signed",
                "UPDATE checkpoint SET statement = concat('x', statement) WHERE size = (SELECT max(size) FROM checkpoint)"
                        + " | UPDATE checkpoint SET statement = substr(statement, 2) WHERE size = (SELECT max(size)"
                        + " FROM checkpoint) | was not signed by the record key",
                "INSERT INTO event_waiting (retention_class, occurred_at, events, leaf_hashes, kinds) SELECT 'operation', now(),"
                        + " ARRAY[gen_random_uuid()], ARRAY['\\x00'::bytea], ARRAY['none']"
                        + " | DELETE FROM event_waiting WHERE kinds = ARRAY['none'] | waits to be sealed, but is gone",
            })
    void what_was_changed_behind_the_triggers_is_not_built_on_and_told(String change, String back, String doubt) {
        World.waitUntil(
                Duration.ofSeconds(15),
                "all events are sealed",
                () -> world.query("SELECT count(*) FROM event_pending").equals("0"));
        var behind = "SET session_replication_role = replica; ";
        var size = world.query("SELECT max(size) FROM checkpoint");
        world.query(behind + change);
        try {
            world.onStatus(doubt, true);
            new ApiPerson(world).start(world.crew().shore());
            World.waitUntil(
                    Duration.ofSeconds(15),
                    "an event waits",
                    () -> !world.query("SELECT count(*) FROM event_pending").equals("0"));
            world.onStatus(doubt, true);
            assertThat(world.query("SELECT max(size) FROM checkpoint")).isEqualTo(size);
        } finally {
            world.query(behind + back);
        }
        world.onStatus("The record isn't continued", false);
        World.waitUntil(
                Duration.ofSeconds(15),
                "it goes on",
                () -> !world.query("SELECT max(size) FROM checkpoint").equals(size));
    }

    /** A leaf that was put in, events that were changed or removed while they waited, and a checkpoint that was signed by none. */
    @Test
    void a_record_that_is_not_continued_goes_on_behind_what_is_proven_and_names_what_is_not() throws IOException {
        World.waitUntil(
                Duration.ofSeconds(15),
                "all events are sealed",
                () -> world.query("SELECT count(*) FROM event_pending").equals("0"));
        var behind = "SET session_replication_role = replica; ";
        assertThat(continued()).contains("nothing has to be repaired");
        var proven = world.query("SELECT max(size) FROM checkpoint WHERE size < (SELECT max(size) FROM checkpoint)");
        world.query(behind + "UPDATE checkpoint SET statement = concat('x', statement) WHERE size > " + proven
                + "; INSERT INTO event_leaf SELECT (SELECT max(seq) + 1 FROM event_leaf), gen_random_uuid(), leaf_hash, at"
                + " FROM event_leaf LIMIT 1");
        world.onStatus("The record isn't continued", true);
        world.entente("stop", "method:push", "--reason", "not continued").expect(0);
        world.entente("resume", "method:push").expect(0);
        world.query(behind + "UPDATE event SET data = data || '{\"reason\": \"another\"}' WHERE id IN"
                + " (SELECT id FROM event WHERE kind = 'stop.started' AND data->>'reason' = 'not continued')");
        world.query(
                "INSERT INTO event_waiting (retention_class, occurred_at, events, leaf_hashes, kinds) SELECT 'operation', now(),"
                        + " ARRAY['" + OTHER + "']::uuid[], ARRAY['\\x00'::bytea], ARRAY['none']");
        assertThat(continued())
                .contains(
                        "The record continues after event " + proven + " of ",
                        "Missing: ",
                        OTHER.toString(),
                        "Changed, and left unsealed: ");
        world.kill("service");
        world.startService();
        world.onStatus("The record isn't continued", false);
        World.waitUntil(
                Duration.ofSeconds(15),
                "all events are sealed",
                () -> world.query("SELECT count(*) FROM event_pending").equals("0"));
        world.onRecord("The operator repaired the record, which continues after event ");
        assertThat(world.verify().expect(0).out()).contains("The record is what was sealed.");
        // The step leaves it unsealed; other tests expect every event to be sealed.
        world.query(behind + "DELETE FROM event WHERE data->>'reason' = 'another' AND kind = 'stop.started'");
    }

    private String continued() throws IOException {
        return World.run(
                        Map.of(
                                "ENTENTE_DATABASE_URL",
                                "jdbc:postgresql://127.0.0.1:" + world.pgPort + "/entente",
                                "ENTENTE_OWNER_PASSWORD",
                                Files.readString(world.dir.resolve("lab/postgres/owner.password"))
                                        .strip(),
                                "ENTENTE_SECRETS",
                                world.dir.resolve("secrets").toString()),
                        "java",
                        "-XX:TieredStopAtLevel=1",
                        "-jar",
                        World.ROOT
                                .resolve("service/target/program/entente-service-program.jar")
                                .toString(),
                        "continue-record")
                .expect(0)
                .out();
    }

    @Test
    void a_finished_attempt_goes_after_its_time_and_its_reference_still_leads_to_the_record() {
        var crew = world.crew();
        var person = new ApiPerson(world).prove(crew.shore(), crew.address()).choose("Record-Quay-1002");
        person.waitForOutcome(Duration.ofSeconds(30));
        var reference = person.attempt.reference();
        var its = "(SELECT attempt FROM attempt_reference WHERE reference = '" + reference.replaceAll("[^0-9]", "")
                + "')";
        World.waitUntil(
                Duration.ofSeconds(15),
                "its end is on record",
                () -> kinds(person).contains("attempt.concluded"));
        world.later(Duration.ofDays(91));
        World.waitUntil(
                Duration.ofSeconds(40),
                "the attempt is gone",
                () -> world.query("SELECT count(*) FROM attempt WHERE id = " + its)
                        .equals("0"));
        world.later(Duration.ZERO);
        for (var table : List.of("challenge", "delivery", "notification")) {
            assertThat(world.query("SELECT count(*) FROM " + table + " WHERE attempt = " + its))
                    .as(table)
                    .isEqualTo("0");
        }
        assertThat(kinds(person)).contains("attempt.started", "attempt.proved", "order.done", "attempt.concluded");
        assertThat(world.entente("attempt", "show", reference).expect(0).out()).contains("purged");
    }

    @Test
    void not_even_the_owner_updates_an_event() {
        assertThat(world.psql("owner", "UPDATE event SET kind = 'x'").err()).contains("append-only");
    }

    @Test
    void no_address_number_or_login_name_stands_in_an_event_itself() {
        assertThat(world.query("SELECT count(*) FROM event WHERE data::text ~ '[^…]@|skerry.test'"))
                .isEqualTo("0");
        assertThat(world.query(
                        "SELECT count(*) FROM account WHERE mail IS NOT NULL AND position('@'::bytea in mail) > 0"
                                + " AND position('skerry'::bytea in mail) > 0"))
                .isEqualTo("0");
    }

    @Test
    void a_message_that_cannot_be_sent_is_tried_again_and_its_fate_is_on_record() {
        var crew = world.crew();
        world.kill("standins");
        var person = new ApiPerson(world);
        person.start(crew.shore());
        person.attempt = person.ask().as(PortalApi.Attempt.class);
        World.waitUntil(
                Duration.ofSeconds(10),
                "sending failed once",
                () -> kinds(person).contains("notification.retried"));
        assertThat(kinds(person)).doesNotContain("notification.sent");
        world.startStandins();
        var code = world.mailbox.nextCode(crew.address(), 0);
        assertThat(person.answer(code).status()).isEqualTo(200);
        World.waitUntil(
                Duration.ofSeconds(10), "its fate is told", () -> kinds(person).contains("notification.sent"));
        assertThat(world.query(
                        "SELECT count(*) FROM notification WHERE payload IS NOT NULL AND state = 'sent' AND NOT news"))
                .as("codes that were sent are erased")
                .isEqualTo("0");
    }

    @Test
    void events_can_be_listed_and_followed() {
        assertThat(world.entente("event", "list", "--limit", "3").expect(0).out())
                .contains("SEQ", "WHAT HAPPENED");
        assertThat(world.entente("--output", "csv", "event", "list", "--limit", "5")
                        .expect(0)
                        .out()
                        .lines()
                        .count())
                .isEqualTo(6);
        var followed = world.entente("event", "follow", "--from", "0", "--for", "2")
                .expect(0)
                .out();
        assertThat(followed).contains("became the first administrator", "added the directory shore");
    }
}
