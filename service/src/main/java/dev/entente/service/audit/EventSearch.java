package dev.entente.service.audit;

import dev.entente.core.attempt.Reference;
import dev.entente.core.audit.EventCatalogue;
import dev.entente.core.audit.EventKind;
import dev.entente.core.audit.EventKind.Severity;
import dev.entente.core.audit.Words;
import dev.entente.service.audit.AuditTrail.Located;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.wire.Page;
import dev.entente.wire.RecordApi;
import dev.entente.wire.RecordApi.Event;
import java.sql.Timestamp;
import java.time.Instant;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.json.JsonMapper;

/**
 * Finds events by what they say. Each filter is a word under which events stand newest first; of several the rarest leads, and the
 * others are looked up for each of its events. However rare what is looked for, one call looks at a bounded number of events and
 * says from where to go on.
 */
@Component
@Transactional(readOnly = true)
class EventSearch {
    /** Events that one page looks at. */
    private static final int LOOKED_AT = 10_000;
    /** And one count. */
    private static final int COUNTED = 20_000;
    /** Of these so many at first. */
    private static final int FIRST = 400;
    /** Beyond so many it makes no difference how frequent a word is. */
    private static final int MANY = 5_000;
    /** Words of one search, and terms that one of them may mean. */
    private static final int MOST_WORDS = 8;

    private static final int MOST_TERMS = 60;
    /** People whose names are told where one means several. */
    private static final int OFFERED = 6;

    private static final Pattern DAY = Pattern.compile("\\d{4}-\\d{2}-\\d{2}");
    /** Attempts of one person whose events are found. */
    private static final int ATTEMPTS = 500;

    private final Session database;
    private final AuditTrail trail;
    private final AttemptReferences references;
    private final JsonMapper json;

    private final SoughtValues values;

    EventSearch(
            Session database, AuditTrail trail, AttemptReferences references, SoughtValues values, JsonMapper json) {
        this.values = values;
        this.json = json;
        this.database = database;
        this.trail = trail;
        this.references = references;
    }

    /**
     * What is looked for; null where nothing is asked.
     *
     * @param fields values by the name of their field, such as {@code directory}
     * @param part of the record
     * @param severity the least
     * @param person a name by which somebody signs in
     * @param text words, all of them, each by how it begins
     * @param since RFC 3339, the first moment
     * @param until RFC 3339, the moment after the last
     */
    record Wanted(
            Map<String, String> fields,
            String text,
            String part,
            String severity,
            String person,
            String reference,
            String since,
            String until) {
        /** What was asked for, in a line; null for everything. */
        String words() {
            var all = new LinkedHashMap<>(fields);
            all.put("text", text);
            all.put("part", part);
            all.put("severity", severity);
            all.put("person", person);
            all.put("reference", reference);
            all.put("since", since);
            all.put("until", until);
            all.values().removeIf(Objects::isNull);
            return all.isEmpty()
                    ? null
                    : all.entrySet().stream()
                            .map(one -> one.getKey() + " " + one.getValue())
                            .collect(Collectors.joining(", "));
        }

        boolean nothing() {
            return fields.isEmpty()
                    && text == null
                    && part == null
                    && severity == null
                    && person == null
                    && reference == null
                    && since == null
                    && until == null;
        }
    }

    /** Where an event stands among the others. */
    private record Place(Instant at, UUID event) {
        static final Place END = new Place(Instant.parse("9999-12-31T00:00:00Z"), new UUID(-1, -1));

        static Place read(String after) {
            try {
                var parts = after.split("_", 2);
                return new Place(Instant.ofEpochMilli(Long.parseLong(parts[0])), UUID.fromString(parts[1]));
            } catch (RuntimeException e) {
                throw noPage();
            }
        }

        static Place of(Located one) {
            return new Place(one.at(), one.event());
        }

        String written() {
            return at.toEpochMilli() + "_" + event;
        }
    }

    /**
     * Newest first: what is sealed, by its positions, where nothing is looked for. A page may hold fewer than were asked for, even none,
     * and still have one after it.
     *
     * @param after where the page before ended; null for the first
     */
    Page<Event> page(Wanted wanted, String after, int limit) {
        if (!wanted.nothing()) {
            return find(wanted, after, limit);
        }
        var stretch = trail.before(position(after), limit);
        return new Page<>(stretch.events(), stretch.last() ? null : String.valueOf(stretch.next()));
    }

    private record Standing(Instant at, Long seq) {}

    /**
     * Where the page after an event begins.
     *
     * @throws Problem 422 if there is none
     */
    String after(Wanted wanted, UUID event) {
        var stands = Sql.rows(database, """
                        SELECT e.occurred_at AS at, l.seq FROM event e LEFT JOIN event_leaf l ON l.event = e.id WHERE e.id = :event""", Standing.class)
                .setParameter("event", event)
                .getResultStream()
                .filter(one -> !wanted.nothing() || one.seq() != null)
                .findFirst()
                .orElseThrow(EventSearch::noPage);
        return wanted.nothing() ? stands.seq().toString() : new Place(stands.at(), event).written();
    }

    private static long position(String after) {
        try {
            return after == null ? Long.MAX_VALUE : Long.parseLong(after);
        } catch (NumberFormatException e) {
            throw noPage();
        }
    }

    private Page<Event> find(Wanted wanted, String after, int limit) {
        var place = after == null ? Place.END : Place.read(after);
        var since = time("since", wanted.since(), Instant.EPOCH);
        var until = time("until", wanted.until(), Place.END.at());
        if (until.isBefore(place.at())) {
            place = new Place(until, new UUID(0, 0));
        }
        var terms = terms(wanted);
        var lead = lead(wanted, terms);
        var found = new ArrayList<Located>();
        var more = true;
        var looked = 0;
        // Few at first: where most events fit, they are enough.
        for (var next = terms.isEmpty() ? limit + 1 : FIRST;
                more && found.size() <= limit && looked < LOOKED_AT;
                next *= 5) {
            var most = Math.min(next, LOOKED_AT - looked);
            var step = look(lead, terms, since, place, most);
            found.addAll(step.met());
            looked += step.looked();
            place = step.last();
            more = step.looked() == most;
        }
        var shown = found.subList(0, Math.min(limit, found.size()));
        // One more than is shown tells that there is a page after it.
        var last = found.size() > limit ? Place.of(shown.get(limit - 1)) : more ? place : null;
        return new Page<>(trail.events(List.copyOf(shown)), last == null ? null : last.written());
    }

    /**
     * How many events meet all of it: exactly where one call can look at all that could, otherwise as many as what it looked at lets expect
     * of what PostgreSQL's statistics tell.
     */
    RecordApi.EventCount count(Wanted wanted) {
        if (wanted.nothing()) {
            return new RecordApi.EventCount(trail.there(), true);
        }
        var terms = terms(wanted);
        var lead = lead(wanted, terms);
        var since = time("since", wanted.since(), Instant.EPOCH);
        var until = time("until", wanted.until(), Place.END.at());
        var step = look(lead, terms, since, new Place(until, new UUID(0, 0)), COUNTED);
        if (step.looked() < COUNTED) {
            return new RecordApi.EventCount(step.met().size(), true);
        }
        var expected = Math.max(COUNTED, eventsARow(lead, step.last().at(), until) * expected(lead, since, until))
                * step.met().size()
                / COUNTED;
        // Newer events may share more rows than older ones, so that the product can exceed all that there are.
        return new RecordApi.EventCount(
                Math.max(step.met().size(), Math.min(trail.there(), Math.round(expected))), false);
    }

    /** How many events one row of words has on average, among those that were looked at. */
    private double eventsARow(Lead lead, Instant first, Instant until) {
        if (lead.terms() == null) {
            return 1;
        }
        var rows = Sql.values(database, """
                        SELECT count(*) FROM (SELECT FROM event_term WHERE term = ANY(cast(:terms AS text[])) AND at >= :first
                            AND at < :until LIMIT :most) t""", Long.class)
                .setParameter("terms", lead.terms().toArray(String[]::new))
                .setParameter("first", first)
                .setParameter("until", until)
                .setParameter("most", COUNTED)
                .getSingleResult();
        return (double) COUNTED / Math.max(1, rows);
    }

    /** How many rows PostgreSQL expects to find. */
    private long expected(Lead lead, Instant since, Instant until) {
        var sql = "EXPLAIN (FORMAT JSON) SELECT FROM "
                + (lead.terms() == null
                        ? "event WHERE occurred_at >= ? AND occurred_at < ?"
                        : "event_term WHERE at >= ? AND at < ? AND term = ANY(?)");
        return database.doReturningWork(connection -> {
            try (var statement = connection.prepareStatement(sql)) {
                statement.setTimestamp(1, Timestamp.from(since));
                statement.setTimestamp(2, Timestamp.from(until));
                if (lead.terms() != null) {
                    statement.setArray(
                            3, connection.createArrayOf("text", lead.terms().toArray()));
                }
                try (var rows = statement.executeQuery()) {
                    rows.next();
                    return json.readTree(rows.getString(1))
                            .path(0)
                            .path("Plan")
                            .path("Plan Rows")
                            .asLong();
                }
            }
        });
    }

    private List<List<String>> terms(Wanted wanted) {
        if (wanted.part() != null
                && SoughtValues.kinds(known -> known.part().equals(wanted.part()))
                        .isEmpty()) {
            throw Problem.of("event-part-unknown").with("part", wanted.part());
        }
        var terms = new ArrayList<List<String>>();
        wanted.fields().forEach((field, value) -> terms.add(values.terms(field, value)));
        if (wanted.text() != null) {
            terms.addAll(words(wanted.text()));
        }
        if (wanted.part() != null) {
            terms.add(SoughtValues.kinds(kind -> kind.part().equals(wanted.part())));
        }
        if (wanted.severity() != null) {
            terms.add(atLeast(wanted.severity()));
        }
        return terms;
    }

    /** For each word of a text all terms that it may mean: of the words, names and fields on record, and of kinds that mention it. */
    private List<List<String>> words(String text) {
        var words = Words.of(text, MOST_WORDS);
        if (words.isEmpty()) {
            throw Problem.of("text-without-words");
        }
        return words.stream()
                .map(word -> {
                    var terms = new ArrayList<>(SoughtValues.kinds(kind -> kind.mentions(word)));
                    var fields = new ArrayList<>(List.of(EventKind.WORD_TERM, EventKind.NAME_TERM));
                    fields.addAll(EventCatalogue.SOUGHT);
                    terms.addAll(values.begunBy(
                            fields.stream()
                                    .map(field -> EventKind.term(field, word))
                                    .toList(),
                            MOST_TERMS));
                    // One that nothing has.
                    return terms.isEmpty() ? List.of(EventKind.term(EventKind.WORD_TERM, word)) : List.copyOf(terms);
                })
                .toList();
    }

    /**
     * Where to look: the events of these attempts, and those of these words.
     *
     * @param terms null for everything
     */
    private record Lead(List<UUID> attempts, List<String> terms) {}

    private Lead lead(Wanted wanted, List<List<String>> terms) {
        var attempt = Optional.ofNullable(wanted.reference())
                .map(said -> Reference.parse(said)
                        .flatMap(references::attempt)
                        .orElseThrow(() -> Problem.of("attempt-not-found").with("reference", said)));
        if (wanted.person() != null) {
            var person = person(wanted.person());
            return attempt.map(one -> new Lead(
                            person.attempts().stream().filter(one::equals).toList(), List.of()))
                    .orElse(person);
        }
        if (attempt.isPresent()) {
            return new Lead(List.of(attempt.get()), List.of());
        }
        if (terms.isEmpty()) {
            return new Lead(List.of(), null);
        }
        var rarest = terms.get(0);
        var fewest = Long.MAX_VALUE;
        for (var one : terms.size() == 1 ? List.<List<String>>of() : terms) {
            var many = Sql.values(database, """
                            SELECT count(*) FROM (SELECT FROM event_term WHERE term = ANY(cast(:terms AS text[])) LIMIT :many) t""", Long.class)
                    .setParameter("terms", one.toArray(String[]::new))
                    .setParameter("many", MANY)
                    .getSingleResult();
            if (many < fewest) {
                fewest = many;
                rarest = one;
            }
        }
        terms.remove(rarest);
        return new Lead(List.of(), rarest);
    }

    private Lead person(String name) {
        var own = new TreeSet<>(Set.of(EventKind.term("login", name)));
        var key = name.strip().toLowerCase(Locale.ROOT);
        var known = knownBy("person IN (SELECT person FROM known_login WHERE login_key = :key)", key);
        if (known.isEmpty() && values.begunBy(List.copyOf(own), 1).stream().noneMatch(own::contains)) {
            known = knownBy("person = cast(:key AS uuid)", shownAs(name).toString());
        }
        known.forEach(one -> {
            own.add(EventKind.term("login", one.loginKey()));
            own.add(EventKind.term("person", one.person().toString()));
        });
        // Event by event: joined at once, PostgreSQL may read all that there are.
        var attempts = Sql.values(database, """
                        SELECT DISTINCT e.attempt FROM unnest(cast(:terms AS text[])) AS w(term)
                            CROSS JOIN LATERAL (SELECT event, at FROM event_word WHERE term = w.term
                                ORDER BY at DESC, event DESC LIMIT :looked) t
                            CROSS JOIN LATERAL (SELECT attempt FROM event WHERE id = t.event AND occurred_at = t.at LIMIT 1) e
                        WHERE e.attempt IS NOT NULL LIMIT :most""", UUID.class)
                .setParameter("terms", own.toArray(String[]::new))
                .setParameter("looked", LOOKED_AT)
                .setParameter("most", ATTEMPTS)
                .getResultList();
        return new Lead(attempts, List.copyOf(own));
    }

    private record Known(UUID person, String loginKey) {}

    private List<Known> knownBy(String condition, String key) {
        return Sql.rows(database, "SELECT person, login_key FROM known_login WHERE " + condition, Known.class)
                .setParameter("key", key)
                .getResultList();
    }

    private record Shown(UUID person, String displayName) {}

    /** Whom a name or a part of one means that is no name to sign in with. */
    private UUID shownAs(String name) {
        var found = Sql.rows(database, """
                        SELECT person, display_name FROM known_name WHERE position(lower(:name) IN lower(display_name)) > 0
                        ORDER BY lower(display_name) <> lower(:name), display_name LIMIT :most""", Shown.class)
                .setParameter("name", name.strip())
                .setParameter("most", OFFERED)
                .getResultList();
        var exact = found.stream()
                .filter(one -> one.displayName().equalsIgnoreCase(name.strip()))
                .toList();
        if (found.isEmpty()) {
            throw Problem.of("name-not-found").with("login", name.strip());
        }
        if (exact.size() != 1 && found.size() > 1) {
            throw Problem.of("several-people")
                    .with("text", name.strip())
                    .with("list", found.stream().map(Shown::displayName).collect(Collectors.joining(", ")))
                    .with("what", "");
        }
        return found.get(0).person();
    }

    /**
     * What one look saw.
     *
     * @param met those that stand under one word of each list as well, newest first
     * @param looked how many it saw
     * @param last the last of them
     */
    private record Step(List<Located> met, int looked, Place last) {}

    private record Seen(Instant at, UUID event, boolean met, long looked) {}

    private Step look(Lead lead, List<List<String>> terms, Instant since, Place before, int most) {
        // Each part is read in the order in which its events stand, as far as they are needed. That is said of each:
        // asked for the first of all together, PostgreSQL sorts everything.
        var far =
                " AND (%1$s, %2$s) < (:at, :event) AND %1$s <= :at AND %1$s >= :since ORDER BY %1$s DESC, %2$s DESC LIMIT :most)";
        var parts = new ArrayList<String>();
        if (lead.terms() == null) {
            parts.add("(SELECT occurred_at AS at, id AS event FROM event WHERE true"
                    + far.formatted("occurred_at", "id"));
        } else {
            for (var i = 0; i < lead.terms().size(); i++) {
                parts.add("(SELECT at, event FROM event_word WHERE term = :term" + i + far.formatted("at", "event"));
            }
        }
        if (!lead.attempts().isEmpty()) {
            // One attempt after the other: PostgreSQL takes an attempt to have events in every month, and would look
            // for all of them among everything that happened, newest first.
            parts.add("(SELECT e.at, e.event FROM unnest(cast(:attempts AS uuid[])) AS a(id) CROSS JOIN LATERAL"
                    + " (SELECT occurred_at AS at, id AS event FROM event WHERE attempt = a.id OFFSET 0) e WHERE true"
                    + far.formatted("e.at", "e.event"));
        }
        if (parts.isEmpty()) {
            return new Step(List.of(), 0, before);
        }
        // What is of an attempt and bears a word of the person's as well stands there twice, and what bears two words;
        // an event has one kind.
        var once = lead.attempts().isEmpty()
                && (lead.terms() == null || lead.terms().stream().allMatch(term -> term.startsWith("kind:")));
        var together = String.join(once ? " UNION ALL " : " UNION ", parts);
        // Looked up for each of them: with OFFSET it is no join, for which PostgreSQL may read all that stands under
        // the word.
        var conditions = new ArrayList<>(List.of("true"));
        for (var i = 0; i < terms.size(); i++) {
            conditions.add("EXISTS (SELECT FROM event_term t WHERE t.term = ANY(cast(:terms" + i
                    + " AS text[])) AND t.at = p.at AND (t.event = p.event OR p.event = ANY(t.others)) OFFSET 0)");
        }
        var sql = Sql.rows(
                        database,
                        "WITH p AS MATERIALIZED (SELECT at, event FROM (" + together
                                + ") t ORDER BY at DESC, event DESC LIMIT :most)"
                                + " SELECT p.at, p.event, true AS met, cast(0 AS bigint) AS looked FROM p WHERE "
                                + String.join(" AND ", conditions)
                                + " UNION ALL (SELECT p.at, p.event, false, (SELECT count(*) FROM p) FROM p"
                                + " ORDER BY at, event LIMIT 1)",
                        Seen.class)
                .setParameter("at", before.at())
                .setParameter("event", before.event())
                .setParameter("since", since)
                .setParameter("most", most);
        if (lead.terms() != null) {
            for (var i = 0; i < lead.terms().size(); i++) {
                sql.setParameter("term" + i, lead.terms().get(i));
            }
        }
        if (!lead.attempts().isEmpty()) {
            sql.setParameter(
                    "attempts", lead.attempts().stream().map(UUID::toString).toArray(String[]::new));
        }
        for (var i = 0; i < terms.size(); i++) {
            sql.setParameter("terms" + i, terms.get(i).toArray(String[]::new));
        }
        var seen = sql.getResultList();
        var last = seen.stream().filter(one -> !one.met()).findFirst();
        return new Step(
                seen.stream()
                        .filter(Seen::met)
                        .sorted(Comparator.comparing(Seen::at)
                                .thenComparing(one -> one.event().toString())
                                .reversed())
                        .map(one -> new Located(one.event(), one.at()))
                        .toList(),
                last.map(one -> (int) one.looked()).orElse(0),
                last.map(one -> new Place(one.at(), one.event())).orElse(before));
    }

    private static List<String> atLeast(String severity) {
        var least = Severity.labelled(severity).orElseThrow(() -> Problem.of("severity-unknown"));
        return SoughtValues.kinds(kind -> kind.severity().compareTo(least) >= 0);
    }

    private static Problem noPage() {
        return Problem.of("page-unknown");
    }

    /** A day is all of it: it begins with its first moment and is over with the first one of the next. */
    private static Instant day(String text, boolean over) {
        var day = LocalDate.parse(text);
        return (over ? day.plusDays(1) : day).atStartOfDay(ZoneOffset.UTC).toInstant();
    }

    private static Instant time(String name, String said, Instant otherwise) {
        try {
            return Optional.ofNullable(said)
                    .map(text -> DAY.matcher(text).matches() ? day(text, name.equals("until")) : Instant.parse(text))
                    .orElse(otherwise);
        } catch (DateTimeParseException e) {
            throw Problem.of("time-unreadable").with("name", name);
        }
    }
}
