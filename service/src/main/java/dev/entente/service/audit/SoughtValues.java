package dev.entente.service.audit;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.attempt.Cause;
import dev.entente.core.audit.EventCatalogue;
import dev.entente.core.audit.EventKind;
import dev.entente.core.audit.EventKind.Retention;
import dev.entente.core.audit.EventKind.Severity;
import dev.entente.core.policy.Message;
import dev.entente.core.policy.Nearest;
import dev.entente.core.verify.Method;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import java.math.BigInteger;
import java.net.InetAddress;
import java.net.UnknownHostException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.function.Predicate;
import java.util.regex.Pattern;
import org.hibernate.Session;
import org.springframework.stereotype.Component;

/**
 * What the values mean that events are sought by: each becomes the terms that it may stand under. A value that nothing on record has is
 * told as that, with those that come nearest: no such event is another answer.
 */
@Component
class SoughtValues {
    /** Values of one field that are looked through for those that come near. */
    private static final int MOST = 2_000;

    /** Kinds that stand for several: what went wrong, and what administrators changed. */
    private static final String FAILURES = "failures", CHANGES = "changes";

    /** Administrators who read change nothing. */
    private static final Set<String> READING =
            Set.of("page.read", "list.read", "events.exported", "report.made", "administrator.signed-in");

    private static final Pattern PREFIX = Pattern.compile("([0-9A-Fa-f.:]+)/([0-9]{1,3})");

    private final Session database;

    SoughtValues(Session database) {
        this.database = database;
    }

    /** Terms of which an event has to have one. */
    List<String> terms(String field, String value) {
        return switch (field) {
            case "kind" -> kinds(value);
            case "network" -> value.contains("/") ? networks(value) : List.of(EventKind.term(field, value));
            default -> known(field, value);
        };
    }

    private static List<String> kinds(String value) {
        var terms = new ArrayList<String>();
        for (var one : value.split(",")) {
            var name = one.strip();
            switch (name) {
                case FAILURES -> terms.addAll(kinds(kind -> kind.severity().compareTo(Severity.WARNING) >= 0));
                case CHANGES ->
                    terms.addAll(kinds(kind -> kind.classes().contains(Retention.ADMINISTRATION)
                            && kind.fields().containsKey("administrator")
                            && !READING.contains(kind.name())));
                default -> {
                    if (EventCatalogue.find(name).isEmpty()) {
                        throw Problem.of("event-kind-unknown").with("kind", name);
                    }
                    terms.add(EventKind.term("kind", name));
                }
            }
        }
        return terms;
    }

    /** Terms of the kinds that are so. */
    static List<String> kinds(Predicate<EventKind> which) {
        return EventCatalogue.all().stream()
                .filter(which)
                .map(kind -> EventKind.term("kind", kind.name()))
                .toList();
    }

    private List<String> known(String field, String value) {
        var terms = new ArrayList<>(List.of(EventKind.term(field, value)));
        if (field.equals("cause")) {
            // As other commands print it, and as events have it.
            terms.add(EventKind.term(field, value.replace('-', '_')));
        }
        if (field.equals("state") && value.equalsIgnoreCase(AttemptState.BLOCKED.name())) {
            terms.add(EventKind.term("kind", "attempt.blocked"));
        }
        if (!possible(field, value) && !onRecord(terms)) {
            throw Problem.of("filter-value-unknown")
                    .with("filter", field)
                    .with("value", value)
                    .with("nearest", nearest(field, value));
        }
        return terms;
    }

    /** Values that there are whether something on record has them or not. */
    private static boolean possible(String field, String value) {
        return switch (field) {
            case "state" -> Arrays.stream(AttemptState.values()).anyMatch(one -> alike(one.name(), value));
            case "method" -> Method.known().stream().anyMatch(one -> one.label().equals(value));
            case "message" -> Message.labelled(value).isPresent();
            case "cause" -> Arrays.stream(Cause.values()).anyMatch(one -> alike(one.name(), value));
            default -> false;
        };
    }

    private static boolean alike(String name, String value) {
        return name.equalsIgnoreCase(value.strip().replace('-', '_'));
    }

    private boolean onRecord(List<String> terms) {
        return Sql.values(
                                database,
                                "SELECT count(*) FROM (SELECT FROM event_term WHERE term = ANY(cast(:terms AS text[])) LIMIT 1) t",
                                Long.class)
                        .setParameter("terms", terms.toArray(String[]::new))
                        .getSingleResult()
                > 0;
    }

    private String nearest(String field, String value) {
        var there = begunBy(List.of(field + ":"), MOST).stream()
                .map(term -> term.substring(field.length() + 1))
                .map(one -> field.equals("cause") ? one.replace('_', '-') : one)
                .toList();
        var said = Nearest.suggestion(value.strip().toLowerCase(Locale.ROOT), there);
        return said.endsWith("?") ? said : said + ".";
    }

    /** Addresses on record that begin with these bits (RFC 4632, RFC 4291 section 2.3). */
    private List<String> networks(String value) {
        var said = PREFIX.matcher(value.strip());
        var address = said.matches() ? address(said.group(1)) : null;
        var bits = address == null ? 0 : Integer.parseInt(said.group(2));
        if (address == null || bits < 1 || bits > 8 * address.length) {
            throw Problem.of("not-a-network").with("network", value);
        }
        // Read by how they are written, as far as whole parts of them are said.
        var whole = address.length == 4
                ? Arrays.stream(said.group(1).split("\\.")).limit(bits / 8).reduce("", (a, b) -> a + b + ".")
                : bits >= 16 ? Integer.toHexString((address[0] & 255) << 8 | address[1] & 255) + ":" : "";
        var found = begunBy(List.of("network:" + whole), MOST).stream()
                .filter(term -> {
                    var one = address(term.substring("network:".length()));
                    return one != null && one.length == address.length && begins(one, address, bits);
                })
                .toList();
        return found.isEmpty() ? List.of(EventKind.term("network", value)) : found;
    }

    private static boolean begins(byte[] one, byte[] with, int bits) {
        var rest = 8 * one.length - bits;
        return new BigInteger(1, one).shiftRight(rest).equals(new BigInteger(1, with).shiftRight(rest));
    }

    /** Null for a name: none is ever looked up. */
    private static byte[] address(String text) {
        try {
            return text.matches("[0-9A-Fa-f.:]+")
                            && (text.contains(":") || text.matches("([0-9]{1,3}\\.){3}[0-9]{1,3}"))
                    ? InetAddress.getByName(text).getAddress()
                    : null;
        } catch (UnknownHostException e) {
            return null;
        }
    }

    /** Terms that begin so, found one after the other by the index, however many events each has. */
    List<String> begunBy(List<String> beginnings, int most) {
        return Sql.values(database, """
                        WITH RECURSIVE t (beginning, term) AS (
                            SELECT b, (SELECT e.term FROM event_term e WHERE e.term >= b AND e.term < b || chr(1114111)
                                ORDER BY e.term LIMIT 1) FROM unnest(cast(:beginnings AS text[])) AS b
                            UNION ALL
                            SELECT beginning, (SELECT e.term FROM event_term e WHERE e.term > t.term
                                AND e.term < t.beginning || chr(1114111) ORDER BY e.term LIMIT 1) FROM t WHERE term IS NOT NULL)
                        SELECT term FROM t WHERE term IS NOT NULL LIMIT :most""", String.class)
                .setParameter("beginnings", beginnings.toArray(String[]::new))
                .setParameter("most", most)
                .getResultList();
    }
}
