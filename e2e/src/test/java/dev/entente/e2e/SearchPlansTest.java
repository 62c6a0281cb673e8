package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.audit.EventCatalogue;
import java.io.IOException;
import java.io.RandomAccessFile;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import tools.jackson.databind.JsonNode;

/**
 * How PostgreSQL finds events, by each filter: the plans that it says it carried out. However many events there are, each part of
 * a plan reads events by an index, and either one that is named or no more than a LIMIT above it lets through in the order of that
 * index. The record here is small, so PostgreSQL is kept from what pays only for that: to read all of it, or to gather and sort.
 */
class SearchPlansTest {
    private static final Set<String> IN_ORDER =
            Set.of("Append", "Merge Append", "Subquery Scan", "Result", "Incremental Sort", "Nested Loop");
    private static final Pattern OF_THE_RECORD =
            Pattern.compile("event(_term.*|_(attempt|administration|operation)_.*)?");
    /** One event, by its id; those of a few attempts; or those of the moments at which the events of a page happened. */
    private static final Pattern NAMED =
            Pattern.compile("\\((?:[a-z0-9_]+\\.)?(?:event = |id = |attempt = |at = |occurred_at = ANY)");

    private static final Pattern QUESTION =
            Pattern.compile("^(?!.*INSERT INTO).*(event_term|event_word| AS looked|er1_0)", Pattern.DOTALL);

    /** A plan is one object, and what is within it stands further to the right. */
    private static final String LAST_OF_A_PLAN = "\t}";

    private final ServiceWorld world = ServiceWorld.get();
    private final ConsoleApi api = ConsoleApi.signedIn(world);
    private final Path log = world.dir.resolve("lab/postgres.log");

    private void role(String... settings) {
        for (var setting : settings) {
            world.query("ALTER ROLE entente_running " + setting);
        }
        // What is set for a role is so from its next connection on.
        world.query("SELECT count(pg_terminate_backend(pid)) FROM pg_stat_activity WHERE usename = 'entente_running'");
        World.waitUntil(
                Duration.ofSeconds(60),
                "the service has connections again",
                () -> api.get("/events?limit=1").statusCode() == 200);
    }

    @BeforeEach
    void plans_are_told() {
        role(
                "SET session_preload_libraries = 'auto_explain'",
                "SET auto_explain.log_min_duration = 0",
                "SET auto_explain.log_format = 'json'",
                "SET enable_seqscan = off",
                "SET enable_bitmapscan = off",
                "SET enable_sort = off");
    }

    @AfterEach
    void no_more() {
        role("RESET ALL");
    }

    /** Questions about the record that were carried out meanwhile, with their plans. */
    private List<JsonNode> plans(Runnable meanwhile) {
        var from = log.toFile().length();
        meanwhile.run();
        var plans = new ArrayList<JsonNode>();
        // A plan is told when what it gave is put away, which may be after the answer.
        World.waitUntil(Duration.ofSeconds(20), "plans are told", () -> {
            plans.clear();
            plans.addAll(about(from));
            return !plans.isEmpty();
        });
        return plans;
    }

    /** Whole plans only: the log may begin and end here while PostgreSQL is in the middle of one. */
    private List<JsonNode> about(long from) {
        var plans = new ArrayList<JsonNode>();
        var plan = new StringBuilder();
        var whole = false;
        for (var line : told(from).lines().toList()) {
            if (!line.startsWith("\t")) {
                plan.setLength(0);
                whole = line.endsWith("plan:");
                continue;
            }
            plan.append(line.strip()).append('\n');
            if (whole && line.equals(LAST_OF_A_PLAN)) {
                plans.add(ApiPerson.JSON.readTree(plan.toString()));
            }
        }
        return plans.stream()
                .filter(one ->
                        QUESTION.matcher(one.path("Query Text").asString()).find())
                .toList();
    }

    private String told(long from) {
        try (var file = new RandomAccessFile(log.toFile(), "r")) {
            var bytes = new byte[(int) (file.length() - from)];
            file.seek(from);
            file.readFully(bytes);
            return new String(bytes, StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }

    /** What reads more than it should, in the words of the plan. */
    private static List<String> unbounded(JsonNode node, boolean limited) {
        var wrong = new ArrayList<String>();
        var type = node.path("Node Type").asString();
        var relation = node.path("Relation Name").asString();
        if (!relation.isEmpty() && OF_THE_RECORD.matcher(relation).matches()) {
            var condition = node.path("Index Cond").asString()
                    + node.path("Recheck Cond").asString();
            var named = NAMED.matcher(condition).find();
            var inOrder = limited && type.startsWith("Index");
            if (!named && !inOrder) {
                wrong.add(type + " on " + relation + " by " + condition);
            }
        }
        var below = type.equals("Limit") || limited && IN_ORDER.contains(type);
        node.path("Plans")
                .forEach(child -> wrong.addAll(unbounded(
                        child,
                        // What is worked out for each row begins anew, and so does what a loop looks up for it.
                        below
                                && !child.path("Parent Relationship").asString().equals("SubPlan")
                                && !(type.equals("Nested Loop")
                                        && child.path("Parent Relationship")
                                                .asString()
                                                .equals("Inner")))));
        return wrong;
    }

    private Map<String, String> filters() {
        var day = "since=" + Instant.now().minus(Duration.ofDays(1)) + "&until="
                + Instant.now().plusSeconds(60);
        var filters = new LinkedHashMap<String, String>();
        for (var field : EventCatalogue.SOUGHT) {
            // One that there is: others are told as unknown.
            var value = world.query("SELECT substr(term, " + (field.length() + 2)
                    + ") FROM event_term WHERE term LIKE '" + field + ":%' LIMIT 1");
            if (!value.isEmpty()) {
                filters.put(field, field + "=" + URLEncoder.encode(value, StandardCharsets.UTF_8));
            }
        }
        assertThat(filters).hasSizeGreaterThan(6);
        // Names are sought together with the person that bears them.
        filters.remove("login");
        filters.put("person", "person=" + world.crew().shore());
        filters.put("kind", "kind=order.done");
        filters.put("part", "part=delivery");
        filters.put("severity", "severity=warning");
        filters.put("a span", day);
        filters.put("a kind within a span", "kind=attempt.started&" + day);
        filters.put("two things", "kind=order.done&directory=shore");
        filters.put("a word", "text=accepted");
        filters.put("words", "text=accepted+password");
        filters.put("a word and a directory", "text=accepted&directory=shore");
        filters.put(
                "a person and a kind", "kind=order.done&person=" + world.crew().shore());
        return filters;
    }

    @Test
    void every_filter_reads_by_an_index_and_no_more_than_it_shows() {
        var person = new ApiPerson(world);
        var crew = world.crew();
        person.prove(crew.shore(), crew.address());
        var filters = filters();
        filters.put("reference", "reference=" + person.attempt.reference().replace(" ", ""));
        for (var filter : filters.entrySet()) {
            for (var call : List.of("/events?", "/events/count?")) {
                var plans =
                        plans(() -> assertThat(api.get(call + filter.getValue()).statusCode())
                                .as(call + filter)
                                .isEqualTo(200));
                assertThat(plans).as(call + filter).isNotEmpty();
                for (var plan : plans) {
                    assertThat(unbounded(plan.path("Plan"), false))
                            .as("%s%s: %s", call, filter, plan.toPrettyString())
                            .isEmpty();
                }
            }
        }
    }

    @Test
    void a_plan_that_reads_everything_is_noticed() {
        var plans = plans(() -> world.psql(
                        "running",
                        "SELECT count(*) FROM event_term WHERE at > now();"
                                + " SELECT event AS looked FROM event_term WHERE term LIKE 'k%' ORDER BY at LIMIT 3")
                .expect(0));
        // The service asks on its own meanwhile.
        var ours = plans.stream()
                .filter(plan -> plan.path("Query Text").asString().contains("at > now()"))
                .toList();
        assertThat(ours).hasSize(2);
        for (var plan : ours) {
            assertThat(unbounded(plan.path("Plan"), false))
                    .as(plan.toPrettyString())
                    .isNotEmpty();
        }
    }
}
