package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.audit.EventKind;
import dev.entente.wire.PolicyApi;
import dev.entente.wire.RecordApi;
import java.io.IOException;
import java.net.URI;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.UUID;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;

/** Events are found by what they say, alike on the command line, over the API and in the console. */
class EventSearchTest {
    private static final Duration SOON = Duration.ofSeconds(30);
    private final ServiceWorld world = ServiceWorld.get();
    private final ConsoleApi api = ConsoleApi.signedIn(world);

    private JsonNode page(String query) {
        var answer = api.get("/events?" + query);
        assertThat(answer.statusCode()).as(answer.body()).isEqualTo(200);
        return ApiPerson.JSON.readTree(answer.body());
    }

    private List<RecordApi.Event> found(String query) {
        var events = new ArrayList<RecordApi.Event>();
        page(query).path("items").forEach(e -> events.add(ApiPerson.JSON.treeToValue(e, RecordApi.Event.class)));
        return events;
    }

    private ApiPerson recovered(Crew crew) {
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        person.choose("Search-Quay-" + System.nanoTime()).waitForOutcome(SOON);
        assertThat(person.attempt.state()).isEqualTo("completed");
        return person;
    }

    @Test
    void everything_that_concerned_a_person_is_found_by_any_of_their_names() {
        var crew = world.crew();
        var other = world.crew();
        var reference = recovered(crew).attempt.reference();
        var elsewhere = recovered(other).attempt.reference();
        for (var name : List.of(crew.shore(), crew.fleet(), crew.shore().toUpperCase(Locale.ROOT))) {
            var events = found("person=" + name + "&limit=200");
            assertThat(events)
                    .as(name)
                    .extracting(RecordApi.Event::kind)
                    .contains(
                            "attempt.started",
                            "challenge.answered",
                            "password.sealed",
                            "order.leased",
                            "order.done",
                            "attempt.concluded",
                            "notification.sent");
            assertThat(events)
                    .extracting(RecordApi.Event::reference)
                    .contains(reference)
                    .doesNotContain(elsewhere);
            assertThat(events).extracting(RecordApi.Event::at).isSortedAccordingTo((a, b) -> b.compareTo(a));
        }
        assertThat(found("person=" + crew.shore() + "&reference=" + elsewhere.replace(" ", "")))
                .isEmpty();
        assertThat(api.get("/events?person=nobody.by.this.name").body()).contains("urn:entente:problem:name-not-found");
        assertThat(world.entente("event", "list", "--person", crew.fleet(), "--kind", "order.done")
                        .expect(0)
                        .out())
                .contains(reference, "accepted the new password")
                .doesNotContain(elsewhere, "order.leased");
    }

    /** Who looked, in words, by the newest events of their kind. */
    private List<String> readings(String about) {
        return found("kind=page.read&administrator=ingeborg&limit=200").stream()
                .map(RecordApi.Event::sentence)
                .filter(sentence -> sentence.contains(about))
                .toList();
    }

    /** "No such event" is said only where that is so. */
    @Test
    void what_nothing_on_record_has_is_told_with_what_comes_nearest() {
        var crew = world.crew();
        var reference = recovered(crew).attempt.reference();
        for (var unknown : List.of(
                List.of("directory", "shor", "shore"),
                List.of("administrator", "ingebrg", "ingeborg"),
                List.of("policy", "pilott", "pilot"),
                List.of("method", "email-cod", "email-code"),
                List.of("state", "complete", "completed"),
                List.of("message", "password-rest", "password-reset"))) {
            var said = world.entente("event", "list", "--" + unknown.get(0), unknown.get(1))
                    .expect(1)
                    .err();
            assertThat(said)
                    .contains(
                            "No event on record has the " + unknown.get(0) + " \"" + unknown.get(1) + "\"",
                            unknown.get(2));
        }
        // As other commands print them, whether any has it or not.
        for (var known : List.of("cause=used-before", "cause=USED_BEFORE", "state=blocked", "method=passkey")) {
            assertThat(api.get("/events?" + known).statusCode()).as(known).isEqualTo(200);
        }
        // By the name that people are shown by, or a part of it; by several kinds, a day, and a network.
        var name = ApiPerson.JSON
                .readTree(api.get("/person?named=" + crew.shore()).body())
                .path("name")
                .asString();
        assertThat(world.entente("event", "list", "--person", name, "--limit", "200")
                        .expect(0)
                        .out())
                .contains(reference, crew.shore());
        assertThat(world.entente("event", "list", "--person", "a").expect(1).err())
                .contains("More than one person matches \"a\"");
        assertThat(found("kind=attempt.started,attempt.concluded&reference=" + reference.replace(" ", "")))
                .extracting(RecordApi.Event::kind)
                .containsExactlyInAnyOrder("attempt.started", "attempt.concluded");
        var today = LocalDate.ofInstant(world.now(), ZoneOffset.UTC);
        assertThat(found("person=" + crew.shore() + "&since=" + today + "&until=" + today))
                .isNotEmpty();
        assertThat(found("person=" + crew.shore() + "&until=" + today.minusDays(1)))
                .isEmpty();
        for (var list : List.of("attempt", "notification")) {
            assertThat(world.entente(
                                    list,
                                    "list",
                                    "--person",
                                    crew.shore(),
                                    "--since",
                                    today.toString(),
                                    "--until",
                                    today.toString())
                            .expect(0)
                            .out())
                    .contains(reference);
            assertThat(world.entente(
                                    list,
                                    "list",
                                    "--person",
                                    crew.shore(),
                                    "--until",
                                    today.minusDays(1).toString())
                            .expect(0)
                            .out())
                    .isEmpty();
        }
        assertThat(found("network=127.0.0.0/8&kind=attempt.started")).isNotEmpty();
        assertThat(found("network=100.100.100.0/24&kind=attempt.started")).isEmpty();
        assertThat(api.get("/events?network=203.0.113.0/99").body()).contains("not-a-network");
        world.entente("stop", "method:push", "--reason", "a change").expect(0);
        world.entente("resume", "method:push").expect(0);
        assertThat(found("kind=changes&limit=200"))
                .extracting(RecordApi.Event::kind)
                .contains("stop.started")
                .doesNotContain("page.read", "list.read");
        assertThat(found("kind=failures&limit=200"))
                .extracting(RecordApi.Event::severity)
                .doesNotContain("info", "notice");
    }

    @Test
    void lists_that_name_people_are_on_record_with_what_was_asked_and_how_many() {
        var crew = world.crew();
        recovered(crew);
        for (var again = 0; again < 3; again++) {
            for (var path : List.of(
                    "/people?search=" + crew.shore(),
                    "/events?text=" + crew.shore() + "&limit=2",
                    "/events/from/0?limit=2",
                    "/record?from=0&limit=2",
                    "/attempts?limit=2",
                    "/notifications?limit=2")) {
                assertThat(api.get(path).statusCode()).as(path).isEqualTo(200);
            }
        }
        api.get("/events/export?kind=stop.started&text=" + crew.shore());
        var read = found("kind=list.read&limit=200").stream()
                .map(RecordApi.Event::sentence)
                .toList();
        assertThat(read).containsOnlyOnce("ingeborg read people by search " + crew.shore() + ": 1 entry.");
        assertThat(read).containsOnlyOnce("ingeborg read events by text " + crew.shore() + ": 2 entries.");
        for (var what : List.of("the sealed record", "attempts", "messages")) {
            assertThat(read).anyMatch(sentence -> sentence.startsWith("ingeborg read " + what));
        }
        assertThat(found("kind=events.exported"))
                .extracting(RecordApi.Event::sentence)
                .contains("ingeborg exported events as csv by kind stop.started, text " + crew.shore() + ": 0 events.");
    }

    @Test
    void that_an_administrator_looked_at_somebody_is_on_record_and_not_each_time_a_page_asks_again() {
        var crew = world.crew();
        var reference = recovered(crew).attempt.reference();
        var person =
                ApiPerson.JSON.readTree(api.get("/person?named=" + crew.shore()).body());
        var id = person.path("id").asString();
        var name = person.path("name").asString();
        var message = page("person=" + crew.shore() + "&kind=notification.queued&limit=1")
                .path("items")
                .path(0)
                .path("data")
                .path("notification")
                .asString();
        for (var again = 0; again < 3; again++) {
            for (var path : List.of(
                    "/people/" + id,
                    "/explain?person=" + crew.shore(),
                    "/attempts/" + reference.replace(" ", ""),
                    "/notifications/" + message,
                    "/events?person=" + crew.shore())) {
                assertThat(api.get(path).statusCode()).as(path).isEqualTo(200);
            }
        }
        assertThat(readings(name)).containsExactly("ingeborg looked at the page of " + name + ".");
        assertThat(readings(reference)).containsExactly("ingeborg looked at the attempt " + reference + ".");
        assertThat(readings(crew.shore())).containsExactly("ingeborg looked at the events of " + crew.shore() + ".");
        assertThat(page("kind=page.read&limit=200").toString()).contains(message);
        // It is part of what concerned the person.
        assertThat(found("kind=page.read&person=" + crew.shore()))
                .extracting(RecordApi.Event::sentence)
                .contains("ingeborg looked at the page of " + name + ".");
        world.later(Duration.ofMinutes(16));
        try {
            api.get("/people/" + id);
            assertThat(readings(name)).hasSize(2);
            // Whoever takes them away as a file has seen them as well.
            api.get("/events/export?person=" + crew.shore());
            assertThat(readings(crew.shore())).hasSize(2);
        } finally {
            world.later(Duration.ZERO);
        }
    }

    @Test
    void what_is_found_is_exported_as_a_table_without_formulas_and_that_is_on_record() throws IOException {
        var reason = "=HYPERLINK(\"http://evil.test\") quay " + System.nanoTime();
        world.entente("stop", "method:push", "--reason", reason).expect(0);
        world.entente("resume", "method:push").expect(0);
        var answer = api.get("/events/export?format=csv&kind=stop.started");
        assertThat(answer.statusCode()).isEqualTo(200);
        assertThat(answer.headers().firstValue("Content-Type").orElseThrow()).startsWith("text/csv");
        var lines = answer.body().lines().toList();
        assertThat(lines.get(0))
                .isEqualTo(
                        "\ufeffposition,time,kind,severity,reference,administrator,login,person,directory,steward,method,"
                                + "policy,network,cause,state,message,what happened,facts,names,id");
        assertThat(lines.subList(1, lines.size())).isNotEmpty().allMatch(line -> line.contains("stop.started"));
        assertThat(answer.body()).contains(reason.replace("\"", "\"\""));
        // Everything there is, page after page.
        var sealed = Long.parseLong(world.query("SELECT count(*) FROM event_leaf l JOIN event e ON e.id = l.event"));
        var all = api.get("/events/export").body().lines().count() - 1;
        assertThat(sealed).isPositive();
        assertThat(all).isGreaterThanOrEqualTo(sealed);

        // Only what is sealed has a position.
        Installation.waitUntil(
                Duration.ofSeconds(30),
                "everything is sealed",
                () -> world.query("SELECT count(*) FROM event_pending").equals("0"));
        var workbook = Files.createTempFile("events", ".xlsx");
        Installation.run(
                        Map.of(),
                        "curl",
                        "-sf",
                        "-o",
                        workbook.toString(),
                        "-H",
                        "Authorization: Bearer " + api.token(),
                        world.url + "/api/v1/events/export?format=xlsx&kind=stop.started")
                .expect(0);
        // A workbook is an archive of XML; another program reads it.
        var read = Installation.run(
                        Map.of(),
                        "python3",
                        "-c",
                        "import sys, zipfile; z = zipfile.ZipFile(sys.argv[1]); print(z.testzip());"
                                + " print(z.read('xl/worksheets/sheet1.xml').decode())",
                        workbook.toString())
                .expect(0)
                .out();
        assertThat(read)
                .startsWith("None")
                .contains("stop.started", "<autoFilter ref=\"A1:T1\">")
                // Position and time are numbers, not texts.
                .containsPattern("<c r=\"A2\"[^>]*><v>[0-9]+</v>")
                .containsPattern("<c r=\"B2\"[^>]*><v>[0-9.]+</v>")
                .doesNotContain("<f>");
        Files.delete(workbook);
        world.onRecord("ingeborg exported events as xlsx by kind stop.started: ");
        assertThat(api.get("/events/export?format=doc").statusCode()).isEqualTo(422);
        assertThat(api.get("/events/export?since=yesterday").body()).contains("time-unreadable");
    }

    @Test
    void what_cannot_be_recorded_is_neither_shown_nor_done() {
        var crew = world.crew();
        var explanation = "/explain?person=" + crew.shore();
        world.query(
                "ALTER TABLE event ADD CONSTRAINT refused CHECK (kind NOT IN ('page.read', 'stop.started')) NOT VALID");
        try {
            var shown = api.get(explanation);
            assertThat(shown.statusCode()).isEqualTo(500);
            assertThat(shown.body()).doesNotContain("considered").doesNotContain("refused");
            assertThat(world.entente("stop", "method:push", "--reason", "Not on record")
                            .code())
                    .isNotZero();
            assertThat(world.entente("stops").expect(0).out()).doesNotContain("Not on record");
        } finally {
            world.query("ALTER TABLE event DROP CONSTRAINT refused");
        }
        var shown = api.get(explanation);
        assertThat(shown.statusCode()).isEqualTo(200);
        assertThat(shown.body()).contains("considered");
    }

    @Test
    void a_table_that_was_cut_off_goes_on_where_it_was_and_has_its_checksum_and_proofs_beside_it(@TempDir Path folder)
            throws IOException {
        for (var i = 0; i < 40; i++) {
            var stop = new PolicyApi.NewStop("method:push", "=Quay, \"north\" " + i, null);
            assertThat(api.post("/stops", ApiPerson.JSON.writeValueAsString(stop))
                            .statusCode())
                    .isLessThan(300);
            assertThat(api.delete("/stops?what=method:push").statusCode()).isLessThan(300);
        }
        Installation.waitUntil(
                SOON,
                "all of it has its position",
                () -> world.query("SELECT count(*) FROM event_pending").equals("0"));
        var wire = new SwallowingWire("127.0.0.1", URI.create(world.url).getPort());
        for (var ending : List.of("csv", "jsonl")) {
            var file = folder.resolve("stops." + ending);
            wire.breakAfter(9_000);
            var broken = world.entente(
                    "--server",
                    "http://localhost:" + wire.port(),
                    "event",
                    "table",
                    file.toString(),
                    "--kind",
                    "stop.started");
            assertThat(broken.code()).as(broken.out() + broken.err()).isEqualTo(3);
            assertThat(broken.err()).contains("the same command goes on");
            assertThat(file).doesNotExist();
            try (var there = Files.list(folder)) {
                assertThat(there.filter(one -> one.toString().endsWith(".part")))
                        .singleElement()
                        .satisfies(part -> assertThat(Files.size(part)).isBetween(1_000L, 9_000L));
            }
            var whole = world.entente("event", "table", file.toString(), "--kind", "stop.started", "--with-proofs");
            assertThat(whole.expect(0).err()).contains("Going on where it was cut off");
            assertThat(Files.readString(file))
                    .as("as if it had come at once")
                    .isEqualTo(api.get("/events/export?kind=stop.started&format=" + ending)
                            .body());
            Installation.run(Map.of(), "sh", "-c", "cd " + folder + " && sha256sum -c stops." + ending + ".sha256")
                    .expect(0);
            var proofs = folder.resolve("stops." + ending + ".proofs");
            assertThat(Files.readAllLines(proofs)).hasSizeGreaterThanOrEqualTo(40);
            assertThat(world.check(proofs).expect(0).out())
                    .contains("=Quay, \"north\" 39")
                    .doesNotContain("NOT PROVEN");
        }
        // Proofs are of the events of the table, whatever it is, and of no others that came since.
        var workbook = folder.resolve("stops.xlsx");
        world.entente("event", "table", workbook.toString(), "--kind", "stop.started", "--with-proofs")
                .expect(0);
        var ofTable = Files.readAllLines(folder.resolve("stops.jsonl.proofs"));
        assertThat(positions(Files.readAllLines(folder.resolve("stops.xlsx.proofs"))))
                .isEqualTo(positions(ofTable))
                .isEqualTo(positions(Files.readAllLines(folder.resolve("stops.csv.proofs"))))
                .isEqualTo(Files.readAllLines(folder.resolve("stops.jsonl")).stream()
                        .map(line -> ApiPerson.JSON.readTree(line).path("seq").asLong())
                        .toList());
        // The last row that had come is no more on record: it begins anew.
        var anew = folder.resolve("anew.jsonl");
        wire.breakAfter(9_000);
        assertThat(world.entente(
                                "--server",
                                "http://localhost:" + wire.port(),
                                "event",
                                "table",
                                anew.toString(),
                                "--kind",
                                "stop.started")
                        .code())
                .isEqualTo(3);
        try (var there = Files.list(folder)) {
            var part = there.filter(one -> one.toString().endsWith(".part"))
                    .findFirst()
                    .orElseThrow();
            Files.writeString(part, "{\"id\":\"" + UUID.randomUUID() + "\"}\n");
        }
        world.entente("event", "table", anew.toString(), "--kind", "stop.started")
                .expect(0);
        assertThat(Files.readString(anew)).isEqualTo(Files.readString(folder.resolve("stops.jsonl")));
        assertThat(world.entente("event", "table", folder.resolve("stops.doc").toString())
                        .err())
                .contains("has to end with .csv, .jsonl or .xlsx");
        assertThat(api.get("/events/export?after=" + UUID.randomUUID()).body()).contains("page-unknown");
        assertThat(api.get("/record/proofs/events?positions=" + "0,".repeat(200) + "0")
                        .body())
                .contains("too-many-proofs");
    }

    private static List<Long> positions(List<String> proofs) {
        return proofs.stream()
                .map(line -> ApiPerson.JSON.readTree(line).path("seq").asLong(-1))
                .toList();
    }

    @Test
    void filters_narrow_each_other_down_and_pages_follow_without_a_gap_or_a_double() {
        var crew = world.crew();
        var before = world.now();
        var reference = recovered(crew).attempt.reference().replace(" ", "");
        assertThat(found("kind=order.done&directory=fleet&reference=" + reference))
                .hasSize(1)
                .allSatisfy(e -> assertThat(e.data()).containsEntry("directory", "fleet"));
        assertThat(found("kind=order.done&reference=" + reference)).hasSize(2);
        assertThat(found("kind=order.done&state=completed&reference=" + reference))
                .isEmpty();
        assertThat(found("state=completed&reference=" + reference))
                .extracting(RecordApi.Event::kind)
                .containsExactly("attempt.concluded");
        assertThat(found("kind=order.done&until=" + before)).noneMatch(e -> e.at().isAfter(before));
        // Other tests of this world have moved its time.
        assertThat(found("since=9000-01-01T00:00:00Z")).isEmpty();

        var all = found("part=delivery&limit=200&reference=" + reference);
        var walked = new ArrayList<RecordApi.Event>();
        var after = "";
        do {
            var page =
                    page("part=delivery&limit=2&reference=" + reference + (after.isEmpty() ? "" : "&after=" + after));
            page.path("items").forEach(e -> walked.add(ApiPerson.JSON.treeToValue(e, RecordApi.Event.class)));
            after = page.path("after").asString("");
        } while (!after.isEmpty());
        assertThat(walked)
                .extracting(RecordApi.Event::id)
                .isEqualTo(all.stream().map(RecordApi.Event::id).toList());
        assertThat(all.size()).isGreaterThan(4);

        var two = found("kind=order.done&limit=2");
        var one = page("kind=order.done&limit=1");
        assertThat(one.path("items").path(0).path("id").asString())
                .isEqualTo(two.get(0).id().toString());
        assertThat(found("kind=order.done&limit=1&after=" + one.path("after").asString()))
                .extracting(RecordApi.Event::id)
                .containsExactly(two.get(1).id());
        assertThat(page("kind=order.done&limit=2&reference=" + reference)
                        .path("after")
                        .asString(""))
                .as("exactly as many as there are, and no page after them")
                .isEmpty();
    }

    @Test
    void events_of_before_are_found_by_the_same_words() throws IOException {
        recovered(world.crew());
        var migration =
                Files.readString(World.ROOT.resolve("service/src/main/resources/db/migration/V34__event_search.sql"));
        var from = migration.indexOf("INSERT INTO event_term");
        var words = migration.substring(from, migration.indexOf(";", from)).replace("INTO event_term", "INTO before");
        assertThat(world.query(
                        "CREATE TEMP TABLE before (term text COLLATE \"C\", at timestamptz, event uuid); " + words
                                + "; CREATE TEMP TABLE now AS SELECT term, at, event FROM event_word WHERE event IN (SELECT event FROM before)"
                                + " AND term !~ '^(word|name):';"
                                + " SELECT count(*) > 50 FROM before;"
                                // Of whom was erased, no words are left.
                                + " SELECT term FROM (TABLE before EXCEPT TABLE now) more WHERE term NOT IN"
                                + " (SELECT 'person:' || person FROM erasure WHERE person IS NOT NULL);"
                                + " SELECT term FROM (TABLE now EXCEPT TABLE before) fewer"))
                .isEqualTo("t");
    }

    @Test
    void words_of_before_are_found_as_those_of_now() throws IOException {
        var word = "holystone" + System.nanoTime();
        world.entente("stop", "method:push", "--reason", "the " + word + " is out")
                .expect(0);
        world.entente("resume", "method:push").expect(0);
        var migration = Files.readString(
                World.ROOT.resolve("service/src/main/resources/db/migration/V41__words_and_saved_searches.sql"));
        var from = migration.indexOf("INSERT INTO event_term");
        var words = migration.substring(from, migration.indexOf(";", from)).replace("INTO event_term", "INTO before");
        assertThat(world.query(
                        "CREATE TEMP TABLE before (term text COLLATE \"C\", at timestamptz, event uuid, PRIMARY KEY (term, at, event)); "
                                + words
                                + "; CREATE TEMP TABLE now AS SELECT term, at, event FROM event_word WHERE event IN (SELECT event FROM before)"
                                + " AND term ~ '^(word|name):[a-z0-9]+$';"
                                + " SELECT count(*) > 3 FROM now; SELECT count(*) FROM before WHERE term = 'word:"
                                + word
                                + "';"
                                + " SELECT term FROM (TABLE now EXCEPT TABLE before) fewer"))
                .isEqualTo("t\n1");
    }

    @Test
    void the_longest_word_of_as_many_events_as_share_a_row_fits_its_index() {
        // Three bytes each, and none twice: nothing of it is compressed.
        var word = EventKind.term(
                "administrator",
                IntStream.range(0x4e00, 0x4f00).mapToObj(Character::toString).collect(Collectors.joining()));
        assertThat(world.query("INSERT INTO event_term (term, at, event, others) SELECT '" + word + "', 'epoch',"
                        + " gen_random_uuid(), array_agg(gen_random_uuid()) FROM generate_series(1, 99);"
                        + " DELETE FROM event_term WHERE at = 'epoch' RETURNING cardinality(others)"))
                .isEqualTo("99");
    }

    @Test
    void words_of_any_language_are_found_by_how_they_begin_and_all_of_them() {
        var mark = "zq" + System.nanoTime();
        world.entente("stop", "action:unlock", "--reason", "Die Brücke " + mark + " prüft 電話番号 und Ключи")
                .expect(0);
        world.entente("resume", "action:unlock").expect(0);
        for (var text : List.of(
                mark,
                mark.toUpperCase(Locale.ROOT),
                "brü " + mark,
                "BRÜCKE PRÜFT " + mark,
                "電話 " + mark,
                "ключ " + mark,
                // A word of the kind's sentence, and the name of its field.
                "stopped " + mark.substring(0, 12),
                "ingeb " + mark)) {
            assertThat(found("text=" + URLEncoder.encode(text, StandardCharsets.UTF_8)))
                    .as(text)
                    .extracting(RecordApi.Event::kind)
                    .containsExactly("stop.started");
        }
        assertThat(found("text=" + mark + "+nothingatall")).isEmpty();
        assertThat(found("text=" + mark + "&kind=stop.ended")).isEmpty();
        assertThat(found("text=stop&administrator=ingeborg&limit=200"))
                .extracting(RecordApi.Event::id)
                .doesNotHaveDuplicates();
        assertThat(api.get("/events?text=%21%3F").body()).contains("text-without-words");
        assertThat(world.entente("event", "list", "--text", mark).expect(0).out())
                .contains("Brücke", "stop.started");
    }

    @Test
    void how_many_there_are_is_counted_or_said_to_be_about() {
        var reference = recovered(world.crew()).attempt.reference().replace(" ", "");
        var counted = ApiPerson.JSON.readTree(
                api.get("/events/count?kind=order.done&reference=" + reference).body());
        assertThat(counted.path("events").asInt()).isEqualTo(2);
        assertThat(counted.path("exact").asBoolean()).isTrue();
        assertThat(world.entente("event", "count", "--kind", "order.done", "--reference", reference)
                        .expect(0)
                        .out()
                        .strip())
                .isEqualTo("2 events");
        var all = ApiPerson.JSON.readTree(api.get("/events/count").body());
        assertThat(all.path("exact").asBoolean()).isTrue();
        assertThat(all.path("events").asLong())
                .isBetween(
                        1L,
                        Long.parseLong(
                                world.query("SELECT count(*) FROM event_leaf l JOIN event e ON e.id = l.event")));
    }

    @Test
    void a_search_is_saved_for_everybody_and_used_by_its_name() {
        var name = "grave " + System.nanoTime();
        world.entente("event", "save-search", name, "--severity", "warning", "--administrator", "ingeborg")
                .expect(0);
        assertThat(world.entente("event", "searches").expect(0).out())
                .contains(name, "--administrator ingeborg --severity warning");
        world.entente("stop", "action:unlock", "--reason", "a saved search is tried")
                .expect(0);
        world.entente("resume", "action:unlock").expect(0);
        assertThat(world.entente("event", "list", "--saved", name, "--text", "saved search tried")
                        .expect(0)
                        .out())
                .contains("a saved search is tried");
        world.onRecord("ingeborg saved the search " + name + ".");
        assertThat(world.entente("event", "save-search", name).expect(1).err()).contains("looks for nothing");
        assertThat(world.entente("event", "save-search", " ", "--severity", "warning")
                        .expect(1)
                        .err())
                .contains("name");
        assertThat(api.put("/events/searches/other", Map.of("filters", Map.of("colour", "red")))
                        .body())
                .contains("filter-unknown");
        world.entente("event", "remove-search", name).expect(0);
        assertThat(world.entente("event", "list", "--saved", name).expect(1).err())
                .contains("no search is saved");
        assertThat(world.entente("event", "remove-search", name).expect(1).err())
                .contains("There is no search");
    }

    @Test
    void the_grave_ones_are_found_among_all_and_an_administrator_by_name() {
        world.entente("stop", "action:unlock", "--reason", "search is tried").expect(0);
        world.entente("resume", "action:unlock").expect(0);
        assertThat(found("severity=warning&administrator=ingeborg&limit=200"))
                .extracting(RecordApi.Event::sentence)
                .anyMatch(s -> s.contains("search is tried"));
        assertThat(found("severity=notice&kind=stop.ended&administrator=ingeborg"))
                .isNotEmpty();
        assertThat(found("severity=warning"))
                .noneMatch(e -> List.of("info", "notice").contains(e.severity()));
        assertThat(found("administrator=ingeborg&since=" + Instant.EPOCH)).isNotEmpty();
    }

    @Test
    void what_cannot_be_asked_is_said() {
        assertThat(api.get("/events?severity=terrible").body()).contains("severity-unknown");
        assertThat(api.get("/events?kind=order.don").body()).contains("event-kind-unknown", "entente event kinds");
        assertThat(api.get("/events/count?part=deliveries").body()).contains("event-part-unknown");
        assertThat(api.get("/events?since=yesterday").body()).contains("time-unreadable");
        assertThat(api.get("/events?kind=order.done&after=nonsense").body()).contains("page-unknown");
        assertThat(api.get("/events?after=nonsense").body()).contains("page-unknown");
        assertThat(api.get("/events?reference=R12345678").statusCode()).isEqualTo(404);
        assertThat(world.entente("event", "list", "--severity", "terrible")
                        .expect(1)
                        .err())
                .contains("info, notice, warning or alert");
        assertThat(world.entente("event", "kinds").expect(0).out()).contains("order.done", "login (personal)", "alert");
    }
}
