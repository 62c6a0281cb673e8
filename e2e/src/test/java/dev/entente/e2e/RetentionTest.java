package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.audit.AuditEvent;
import dev.entente.core.audit.EventCatalogue;
import dev.entente.core.audit.EventKind;
import dev.entente.core.audit.EventKind.Retention;
import dev.entente.core.audit.EventKind.Type;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.YearMonth;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.UUID;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What is to go goes, by a step and a role of its own; what is on hold stays; the proof of the rest is whole. */
class RetentionTest {
    private static final Duration SOON = Duration.ofSeconds(30);
    private final ServiceWorld world = ServiceWorld.get();

    @TempDir
    Path folder;

    /** As the operator's timer does it; what isn't sealed yet would wait for its next run. */
    private String retain(String... kept) throws IOException {
        sealed();
        var environment = new HashMap<>(Map.of(
                "ENTENTE_DATABASE_URL",
                "jdbc:postgresql://127.0.0.1:" + world.pgPort + "/entente",
                "ENTENTE_RETENTION_PASSWORD",
                Files.readString(world.dir.resolve("lab/postgres/retention.password"))
                        .strip()));
        for (var i = 0; i < kept.length; i += 2) {
            environment.put(kept[i], kept[i + 1]);
        }
        return Installation.run(
                        environment,
                        "java",
                        "-XX:TieredStopAtLevel=1",
                        "-jar",
                        Installation.ROOT
                                .resolve("service/target/program/entente-service-program.jar")
                                .toString(),
                        "retain")
                .expect(0)
                .out();
    }

    private void sealed() {
        Installation.waitUntil(
                SOON,
                "everything is sealed",
                () -> world.query("SELECT count(*) FROM event_pending").equals("0"));
    }

    private ApiPerson recovered(Crew crew) {
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        person.choose("Kept-Quay-" + System.nanoTime()).waitForOutcome(SOON);
        sealed();
        return person;
    }

    private String personalOf(String reference) {
        return world.query(
                "SELECT count(*) FROM event_personal p JOIN event e ON e.id = p.event JOIN attempt_reference a"
                        + " ON a.attempt = e.attempt WHERE p.name <> 'administrator' AND a.reference = '"
                        + reference.replaceAll("\\D", "") + "'");
    }

    @Test
    void a_person_s_values_go_with_a_report_and_the_proof_stays_whole() throws IOException {
        var crew = world.crew();
        var reference = recovered(crew).attempt.reference();
        var other = recovered(world.crew()).attempt.reference();
        var kept = Files.writeString(
                folder.resolve("kept"),
                world.entente("event", "checkpoint").expect(0).out());
        assertThat(personalOf(reference)).isNotEqualTo("0");
        assertThat(world.entente("event", "list", "--reference", reference)
                        .expect(0)
                        .out())
                .contains(crew.shore());

        var id = world.entente("erasure", "request", crew.fleet(), "--reason", "Asked by letter of 2 November")
                .expect(0)
                .out()
                .strip();
        assertThat(world.entente("erasure", "request", crew.shore(), "--reason", "again")
                        .expect(1)
                        .err())
                .contains("asked for already");
        assertThat(world.entente("erasure", "request", "nobody.at.all", "--reason", "a typing error")
                        .expect(1)
                        .err())
                .contains("There is no name in any directory or on record like nobody.at.all");
        assertThat(world.entente("erasure", "list").expect(0).out()).contains(id, "waits for the retention step");
        assertThat(retain()).contains("Erased the values of request " + id);

        assertThat(personalOf(reference)).isEqualTo("0");
        assertThat(personalOf(other)).isNotEqualTo("0");
        var events = world.entente("event", "list", "--reference", reference)
                .expect(0)
                .out();
        assertThat(events).contains("took the order for ? in fleet").doesNotContain(crew.shore(), crew.fleet());
        assertThat(world.entente("event", "list", "--person", crew.fleet())
                        .expect(0)
                        .out())
                .doesNotContain(reference);
        var list = world.entente("erasure", "list").expect(0).out();
        assertThat(list.lines().filter(l -> l.contains(id)))
                .singleElement()
                .asString()
                .contains("(erased)", "Asked by letter", " events went, ")
                .doesNotContain(crew.fleet());
        world.onRecord("Values that named a person were erased, as ingeborg had asked: ");
        // Nothing of the name is left in the request either.
        assertThat(world.query("SELECT coalesce(login, '') || cardinality(terms) FROM erasure WHERE id = '" + id + "'"))
                .isEqualTo("0");
        sealed();
        assertThat(world.verify("--kept", kept.toString()).expect(0).out()).contains("The record is what was sealed.");
        var proofs = Files.writeString(
                folder.resolve("proofs"),
                world.entente("event", "prove", "--reference", reference)
                        .expect(0)
                        .out());
        assertThat(world.check(proofs).expect(0).out())
                .contains("Proven: event ")
                .doesNotContain(crew.shore());
    }

    @Test
    void of_a_name_that_two_people_bear_nothing_of_the_other_goes() throws IOException {
        var gone = world.crew();
        var stays = world.crew();
        var reference = recovered(stays).attempt.reference();
        // Somebody else's account elsewhere has the same name.
        var account = "(SELECT account FROM account_login WHERE login_key = '" + gone.fleet() + "')";
        world.query("INSERT INTO account_login (account, login_key) VALUES (" + account + ", '" + stays.shore() + "')");
        try {
            world.entente("erasure", "request", gone.fleet(), "--reason", "gone ashore")
                    .expect(0);
            assertThat(retain()).contains("Erased the values of request ");
            assertThat(personalOf(reference)).isNotEqualTo("0");
            assertThat(world.entente("event", "list", "--reference", reference)
                            .expect(0)
                            .out())
                    .contains(stays.shore());
        } finally {
            world.query("DELETE FROM account_login WHERE login_key = '" + stays.shore() + "' AND account = " + account);
        }
    }

    /** Where a name got to by what others did: looked for, told of, kept under a name, on hold once. */
    @Test
    void nothing_that_names_the_person_is_left_anywhere_in_the_record_or_beside_it() throws IOException {
        var crew = world.crew();
        recovered(crew);
        world.entente("event", "list", "--person", crew.shore()).expect(0);
        world.entente("event", "list", "--text", crew.shore()).expect(0);
        world.entente("person", "show", crew.fleet()).expect(0);
        world.entente("event", "save-search", "of-one", "--person", crew.shore())
                .expect(0);
        var hold = world.entente("hold", "place", "--person", crew.shore(), "--reason", "an inquiry")
                .expect(0)
                .out()
                .strip();
        world.entente("hold", "lift", hold).expect(0);
        told(crew.shore() + " keeps being tried, look at it.");
        sealed();
        assertThat(named(crew)).isNotEmpty();
        world.entente("erasure", "request", crew.shore(), "--reason", "gone ashore")
                .expect(0);
        assertThat(retain()).contains("Erased the values of request ");
        assertThat(named(crew)).isEmpty();
        sealed();
        assertThat(world.verify().expect(0).out()).contains("Values erased (in sealed lists): ");
    }

    /** Tables that hold what directories say of people now. */
    private static final Set<String> NOT_OF_THE_RECORD = Set.of("account", "account_login", "membership", "person");

    /** Writes one event of each kind that has personal values, all of them one person's. */
    @Test
    void a_dump_of_the_database_shows_nothing_of_an_erased_person_whatever_kinds_of_events_they_were_in()
            throws IOException {
        var crew = world.crew();
        var name = world.query(
                "SELECT DISTINCT p.display_name FROM person p JOIN account a ON a.person = p.id JOIN account_login l"
                        + " ON l.account = a.id WHERE l.login_key = '" + crew.shore() + "'");
        var network = "203.0.113." + (100 + crew.shore().hashCode() % 100);
        var recipient = "q…@" + crew.fleet().length() + System.nanoTime() + ".test";
        var attempt = UUID.randomUUID();
        var written = new ArrayList<UUID>();
        var kinds = EventCatalogue.all().stream()
                .filter(kind -> kind.fields().values().stream().anyMatch(field -> field.type() == Type.PERSONAL))
                .toList();
        assertThat(kinds.size()).isGreaterThan(60);
        try {
            for (var kind : kinds) {
                var ofAttempt = kind.classes().contains(Retention.ATTEMPT);
                // From where an administrator's sign-in was tried stays, whatever name was typed.
                var named = ofAttempt
                        || kind.fields().containsKey("login") && !kind.name().startsWith("administrator.");
                var personal = new TreeMap<String, String>();
                var data = new TreeMap<String, Object>();
                kind.fields().forEach((field, what) -> {
                    if (what.type() != Type.PERSONAL) {
                        data.put(field, some(what.type()));
                        return;
                    }
                    personal.put(
                            field,
                            switch (field) {
                                case "login" -> crew.shore();
                                case "account" -> crew.fleet();
                                case "name" -> name;
                                // Where no name stands beside them, nothing says whose these are.
                                case "network" -> named ? network : "192.0.2.7";
                                case "recipient" -> named ? recipient : "s…@elsewhere.test";
                                case "administrator", "approver", "author" -> "ingeborg";
                                default -> "what " + crew.fleet() + " had";
                            });
                });
                written.add(happened(
                        kind,
                        kind.classes().iterator().next(),
                        ofAttempt ? attempt : null,
                        ofAttempt ? written.size() + 1 : 0,
                        data,
                        personal));
            }
            var values = List.of(crew.shore(), crew.fleet(), name, network, recipient);
            assertThat(dumped(values)).contains("event_personal", "event_term");
            world.entente("erasure", "request", crew.shore(), "--reason", "gone ashore")
                    .expect(0);
            assertThat(retain()).contains("Erased the values of request ");
            assertThat(dumped(values))
                    .as(() -> world.query(
                            "SELECT e.kind, p.name, p.value FROM event_personal p JOIN event e ON e.id = p.event"
                                    + " WHERE p.value ~* '" + String.join("|", values) + "'"))
                    .isSubsetOf(NOT_OF_THE_RECORD);
            assertThat(world.query("SELECT count(*) FROM event_personal WHERE value = 'ingeborg' AND event = ANY('{"
                            + String.join(
                                    ",", written.stream().map(UUID::toString).toList()) + "}')"))
                    .as("who administers stays")
                    .isNotEqualTo("0");
        } finally {
            var those = "ANY('{"
                    + String.join(",", written.stream().map(UUID::toString).toList()) + "}')";
            unguarded("DELETE FROM event WHERE id = " + those + "; DELETE FROM event_personal WHERE event = " + those
                    + "; DELETE FROM event_term WHERE event = " + those);
        }
    }

    @Test
    void a_word_that_another_persons_event_has_in_the_same_row_stays_under_it() throws IOException {
        var gone = world.crew();
        var stays = world.crew();
        var kind = EventCatalogue.find("order.done").orElseThrow();
        var word = "name:holystone" + System.nanoTime();
        var first = happened(kind, Retention.ATTEMPT, null, 0, Map.of(), Map.of("login", gone.shore()));
        var second = happened(kind, Retention.ATTEMPT, null, 0, Map.of(), Map.of("login", stays.shore()));
        try {
            unguarded("UPDATE event SET occurred_at = (SELECT occurred_at FROM event WHERE id = '" + first
                    + "') WHERE id = '" + second + "'; INSERT INTO event_term (term, at, event, others) SELECT '" + word
                    + "', occurred_at, id, ARRAY['" + second + "'::uuid] FROM event WHERE id = '" + first + "'");
            world.entente("erasure", "request", gone.shore(), "--reason", "gone ashore")
                    .expect(0);
            assertThat(retain()).contains("Erased the values of request ");
            assertThat(world.query("SELECT event, others IS NULL FROM event_term WHERE term = '" + word + "'"))
                    .isEqualTo(second + "|t");
        } finally {
            var those = "IN ('" + first + "', '" + second + "')";
            unguarded("DELETE FROM event WHERE id " + those + "; DELETE FROM event_personal WHERE event " + those
                    + "; DELETE FROM event_term WHERE event " + those);
        }
    }

    private static Object some(Type type) {
        return switch (type) {
            case NUMBER, ORDINAL -> 1;
            case FLAG -> true;
            case ID -> "0".repeat(8);
            case TIME -> "2026-01-01T00:00:00Z";
            default -> "something";
        };
    }

    /** Past the triggers: events written so are never sealed, and no outlet or notice sees them. */
    private void unguarded(String sql) {
        world.query("SET session_replication_role = replica; " + sql);
    }

    private UUID happened(
            EventKind kind,
            Retention kept,
            UUID attempt,
            int ordinal,
            Map<String, Object> data,
            Map<String, String> personal) {
        var id = UUID.randomUUID();
        var at = world.now().truncatedTo(ChronoUnit.MILLIS);
        var sql = new StringBuilder(
                "INSERT INTO event (id, retention_class, occurred_at, kind, attempt, ordinal, revision,"
                        + " data, commitments, leaf_version, leaf_hash) VALUES ('" + id + "', '" + kept.label() + "', '"
                        + at
                        + "', '" + kind.name() + "', " + (attempt == null ? "NULL" : "'" + attempt + "'") + ", "
                        + ordinal
                        + ", 0, '" + ApiPerson.JSON.writeValueAsString(data) + "', '{}', 2, '')");
        personal.forEach((field, value) ->
                sql.append("; INSERT INTO event_personal VALUES ('" + id + "', '" + field + "', '" + value + "', '')"));
        kind.terms(data, personal)
                .forEach(term -> sql.append("; INSERT INTO event_term (term, at, event) VALUES ('" + term + "', '" + at
                        + "', '" + id + "')"));
        unguarded(sql.toString());
        return id;
    }

    /** Tables in a dump of all of the database of which a row says one of these. */
    private Set<String> dumped(List<String> values) throws IOException {
        var password = Files.readString(world.dir.resolve("lab/postgres/postgres.password"))
                .strip();
        var dump = folder.resolve("dump");
        Installation.run(
                        Map.of("PGPASSWORD", password),
                        "pg_dump",
                        "--data-only",
                        "--host=127.0.0.1",
                        "--port=" + world.pgPort,
                        "--username=postgres",
                        "--file=" + dump,
                        "entente")
                .expect(0);
        var found = new TreeSet<String>();
        var table = "";
        try (var lines = Files.newBufferedReader(dump)) {
            for (var line = lines.readLine(); line != null; line = lines.readLine()) {
                if (line.startsWith("COPY public.")) {
                    table = line.substring("COPY public.".length(), line.indexOf(" ("));
                } else {
                    var row = line.toLowerCase(Locale.ROOT);
                    if (values.stream().anyMatch(value -> row.contains(value.toLowerCase(Locale.ROOT)))) {
                        found.add(table);
                    }
                }
            }
        }
        return found;
    }

    @Test
    void a_person_who_is_gone_from_every_directory_is_held_and_erased_by_the_name_on_record() throws IOException {
        var name = "gone.ashore." + System.nanoTime();
        world.query("INSERT INTO event_term (term, at, event) VALUES ('login:" + name + "', now(), gen_random_uuid())");
        var hold = world.entente("hold", "place", "--person", name, "--reason", "an inquiry")
                .expect(0)
                .out()
                .strip();
        var asked = world.entente("erasure", "request", name, "--reason", "gone ashore")
                .expect(0)
                .out()
                .strip();
        assertThat(world.entente("erasure", "request", name, "--reason", "again")
                        .expect(1)
                        .err())
                .contains("asked for already");
        assertThat(retain()).contains("Request " + asked + " waits: something of it is on hold.");
        world.entente("hold", "lift", hold).expect(0);
        assertThat(retain()).contains("Erased the values of request " + asked);
    }

    /** That Today told of something, as the service writes it. */
    private void told(String says) {
        var salt = new byte[AuditEvent.SALT_LENGTH];
        var at = world.now().truncatedTo(ChronoUnit.MILLIS);
        var event = new AuditEvent(
                AuditEvent.VERSION,
                UUID.randomUUID(),
                at.toEpochMilli(),
                "attention.appeared",
                "operation",
                null,
                null,
                0,
                0,
                Map.of("what", "pressure", "severity", "error"),
                Map.of("says", AuditEvent.commit(salt, "says", says)));
        world.query(
                "INSERT INTO event (id, retention_class, occurred_at, kind, ordinal, revision, data, commitments, leaf_version,"
                        + " leaf_hash) VALUES ('" + event.id() + "', 'operation', '" + at + "', '" + event.kind()
                        + "', 0, 0,"
                        + " '{\"what\": \"pressure\", \"severity\": \"error\"}', '{\"says\": \""
                        + event.commitments().get("says")
                        + "\"}', 2, '\\x" + HexFormat.of().formatHex(event.leafHash())
                        + "'); INSERT INTO event_personal VALUES ('"
                        + event.id() + "', 'says', '" + says + "', '\\x"
                        + HexFormat.of().formatHex(salt) + "'); INSERT INTO event_term (term, at, event) VALUES ('kind:"
                        + event.kind() + "', '" + at + "', '" + event.id() + "')");
    }

    /** Tables of the record, and of what stands beside it, whose rows say one of their names. */
    private List<String> named(Crew crew) {
        return Stream.of(
                        "event",
                        "event_personal",
                        "event_term",
                        "legal_hold",
                        "erasure",
                        "saved_search",
                        "record_gone",
                        "attention")
                .filter(table -> !world.query("SELECT count(*) FROM " + table + " t WHERE t::text ~* '" + crew.shore()
                                + "|" + crew.fleet() + "'")
                        .equals("0"))
                .toList();
    }

    @Test
    void a_hold_on_a_person_an_attempt_or_a_span_stops_an_erasure_until_it_is_lifted() throws IOException {
        var crew = world.crew();
        var before = world.now().minusSeconds(1);
        var reference = recovered(crew).attempt.reference();
        var asked = world.entente("erasure", "request", crew.shore(), "--reason", "gone ashore")
                .expect(0)
                .out()
                .strip();
        for (var on :
                new String[][] {{"--person", crew.fleet()}, {"--reference", reference}, {"--since", before.toString()}
                }) {
            var hold = world.entente("hold", "place", on[0], on[1], "--reason", "an inquiry")
                    .expect(0)
                    .out()
                    .strip();
            assertThat(retain()).as(on[0]).contains("Request " + asked + " waits: something of it is on hold.");
            assertThat(personalOf(reference)).isNotEqualTo("0");
            assertThat(world.entente("erasure", "list").expect(0).out()).contains("waits for the hold " + hold);
            assertThat(world.entente("hold", "list").expect(0).out()).contains(hold, "an inquiry", "in force");
            world.entente("hold", "lift", hold).expect(0);
            assertThat(world.entente("hold", "lift", hold).expect(1).err()).contains("There is no hold in force");
        }
        assertThat(retain()).contains("Erased the values of request " + asked);
        assertThat(personalOf(reference)).isEqualTo("0");
        world.onRecord(
                "placed a person on hold: an inquiry", "placed a span of time on hold: an inquiry", "lifted a hold");
    }

    @Test
    void a_hold_keeps_a_finished_attempt_that_would_be_purged() {
        var held = recovered(world.crew()).attempt.reference();
        var other = recovered(world.crew()).attempt.reference();
        var hold = world.entente("hold", "place", "--reference", held, "--reason", "an inquiry")
                .expect(0)
                .out()
                .strip();
        world.later(Duration.ofDays(91));
        try {
            Installation.waitUntil(Duration.ofSeconds(40), "the other is purged", () -> !kept(other));
            assertThat(kept(held)).isTrue();
            world.entente("hold", "lift", hold).expect(0);
            Installation.waitUntil(Duration.ofSeconds(40), "this one is, too", () -> !kept(held));
        } finally {
            world.later(Duration.ZERO);
        }
    }

    private boolean kept(String reference) {
        return world.query("SELECT count(*) FROM attempt WHERE reference = '" + reference.replaceAll("\\D", "") + "'")
                .equals("1");
    }

    @Test
    void months_that_are_old_enough_are_cut_off_unless_something_of_them_is_on_hold() throws IOException {
        var month = YearMonth.from(world.now().atZone(ZoneOffset.UTC)).minusMonths(30);
        var then = month.atDay(12).atStartOfDay(ZoneOffset.UTC).toInstant();
        world.query("SELECT prepare_event_months('" + month.atDay(1) + "', 1)");
        world.later(Duration.between(Instant.now(), then));
        try {
            world.entente("stop", "method:push", "--reason", "long ago").expect(0);
            world.entente("resume", "method:push").expect(0);
            sealed();
        } finally {
            world.later(Duration.ZERO);
        }
        var part = "event_administration_" + month.toString().replace('-', '_');
        assertThat(Long.parseLong(world.query("SELECT count(*) FROM " + part))).isGreaterThanOrEqualTo(2);
        var kept = Files.writeString(
                folder.resolve("kept"),
                world.entente("event", "checkpoint").expect(0).out());
        assertThat(retain()).doesNotContain("administration events of " + month);
        var hold = world.entente(
                        "hold",
                        "place",
                        "--since",
                        then.minusSeconds(60).toString(),
                        "--until",
                        then.plusSeconds(3600).toString(),
                        "--reason",
                        "an inquiry")
                .expect(0)
                .out()
                .strip();
        assertThat(retain("ENTENTE_KEEP_ADMINISTRATION", "24"))
                .contains("The administration events of " + month + " stay: something of them is on hold.");
        world.entente("hold", "lift", hold).expect(0);
        assertThat(retain("ENTENTE_KEEP_ADMINISTRATION", "24"))
                .contains("Cut off the administration events of " + month + ".");
        assertThat(world.query("SELECT to_regclass('" + part + "') IS NULL")).isEqualTo("t");
        world.onRecord("The administration events of " + month + " were cut off");
        sealed();
        assertThat(world.verify("--kept", kept.toString()).expect(0).out())
                .contains("Cut off (in sealed lists): ", "The record is what was sealed.");
        assertThat(world.entente("event", "list", "--kind", "stop.started", "--limit", "500")
                        .expect(0)
                        .out())
                .doesNotContain("long ago");
        assertThat(retain("ENTENTE_KEEP_ADMINISTRATION", "24")).doesNotContain(month.toString());
    }

    @Test
    void the_step_removes_nothing_but_by_its_functions_and_the_service_nothing_at_all() throws IOException {
        for (var statement : new String[] {
            "DELETE FROM event_personal",
            "DELETE FROM event_term",
            "DELETE FROM event",
            "UPDATE legal_hold SET lifted_at = now()",
            "DELETE FROM legal_hold",
            "UPDATE erasure SET terms = '{login:somebody}'",
            "TRUNCATE event_leaf"
        }) {
            assertThat(world.psql("retention", statement).err()).as(statement).contains("permission denied");
        }
        for (var statement : new String[] {
            "SELECT erase_person(gen_random_uuid())",
            "SELECT cut_month('attempt', '2020-01-01')",
            "DELETE FROM legal_hold",
            "UPDATE legal_hold SET terms = '{}'",
            "UPDATE legal_hold SET lifted_at = now()",
            "INSERT INTO erasure (id, reason, terms, requested_by, requested_at) VALUES (gen_random_uuid(), 'x',"
                    + " '{kind:attempt.started}', 'x', now())",
            "UPDATE erasure SET told_at = now()",
            "INSERT INTO record_gone (event, list) VALUES (gen_random_uuid(), '{}')",
            "SELECT record_event('record.cut', '{}', NULL)",
            "SELECT record_gone_by('record.cut', '{}', NULL, '{}')",
            "DELETE FROM event_personal"
        }) {
            assertThat(world.psql("running", statement).err()).as(statement).contains("permission denied");
        }
        assertThat(retain("ENTENTE_KEEP_ATTEMPT", "9999")).doesNotContain("Cut off");
    }
}
