package dev.entente.service.outlet;

import dev.entente.core.audit.CanonicalJson;
import dev.entente.core.audit.EventCatalogue;
import dev.entente.core.audit.EventKind;
import dev.entente.core.audit.EventKind.Severity;
import dev.entente.core.audit.OutletKind;
import dev.entente.service.approval.Approvals;
import dev.entente.service.audit.AuditTrail;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.wire.OutletApi;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Base64;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.function.Function;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.json.JsonMapper;

/** Which outlets there are, and how they stand. */
@Component
@Transactional
public class Outlets {
    private static final String KIND = "outlet";

    /** Each of them reads the record by itself. */
    private static final int MOST = 20;

    private static final int LONGEST_AUTHORITY = 64 * 1024;
    private static final int LONGEST_CREDENTIAL = 4096;
    private static final Pattern NAME = Pattern.compile("[a-z][a-z0-9-]{0,39}");
    private static final Instant LONG_AGO = Instant.EPOCH;

    private final Session database;
    private final AuditTrail trail;
    private final EventLog events;
    private final KeyRing keys;
    private final AllowedReceivers allowed;
    private final Approvals approvals;
    private final JsonMapper json;
    private final InstantSource clock;
    private final Map<OutletKind, Receiver> receivers = new EnumMap<>(OutletKind.class);

    Outlets(
            Session database,
            AuditTrail trail,
            EventLog events,
            KeyRing keys,
            AllowedReceivers allowed,
            Approvals approvals,
            JsonMapper json,
            InstantSource clock,
            List<Receiver> receivers) {
        this.database = database;
        this.trail = trail;
        this.events = events;
        this.keys = keys;
        this.allowed = allowed;
        this.approvals = approvals;
        this.json = json;
        this.clock = clock;
        receivers.forEach(receiver -> this.receivers.put(receiver.kind(), receiver));
    }

    private static final String COLUMNS =
            "name, kind, goes_to, authority, audience, credential, kinds, parts, severity,"
                    + " personal, state, position, failures, why, since, sent_at, lease";

    Receiver receiver(OutletKind kind) {
        return receivers.get(kind);
    }

    Outlet find(String name) {
        return Sql.rows(database, "SELECT " + COLUMNS + " FROM outlet WHERE name = :name", Outlet.class)
                .setParameter("name", name)
                .getResultStream()
                .findFirst()
                .orElseThrow(() -> Problem.of("outlet-not-found").with("name", name));
    }

    /** All that is there, by name, and where they may lead. */
    @Transactional(readOnly = true)
    public OutletApi.Outlets shown() {
        var size = size();
        return new OutletApi.Outlets(
                Sql.rows(database, "SELECT " + COLUMNS + " FROM outlet ORDER BY name", Outlet.class)
                        .getResultStream()
                        .map(outlet -> shown(outlet, size))
                        .toList(),
                allowed.receivers(),
                allowed.files().isPresent());
    }

    OutletApi.Outlet shown(String name) {
        return shown(find(name), size());
    }

    private long size() {
        return trail.extent().map(AuditTrail.Extent::size).orElse(0L);
    }

    private OutletApi.Outlet shown(Outlet outlet, long size) {
        var offered = Sql.values(database, "SELECT count(*) FROM outlet_offered WHERE outlet = :outlet", Long.class)
                .setParameter("outlet", outlet.name())
                .getSingleResult();
        return new OutletApi.Outlet(
                outlet.name(),
                outlet.kind().label(),
                outlet.goesTo(),
                outlet.authority() != null,
                outlet.audience(),
                outlet.credential() != null,
                outlet.kinds(),
                outlet.parts(),
                outlet.severity().label(),
                outlet.personal(),
                outlet.state().label(),
                outlet.position(),
                Math.max(0, size - outlet.position()) + offered,
                outlet.failures(),
                outlet.why(),
                outlet.since(),
                outlet.sentAt());
    }

    /**
     * Makes an outlet, or changes the one with this name; what tells less of it, or from elsewhere, may have to be approved.
     *
     * @return empty if it waits for another administrator
     */
    Optional<OutletApi.Made> set(String name, OutletApi.NewOutlet wanted, String administrator) {
        checked(name, wanted);
        var before = existing(name);
        var says = before.map(one -> differences(one, wanted)).orElse(List.of());
        if (!says.isEmpty() && !approvals.askedFor().equals("nothing")) {
            // What is shown once can't be shown to who approves.
            var later = "".equals(wanted.credential()) && fetched(wanted) ? wanted.keepingCredential() : wanted;
            approvals.make(KIND, name, says, new Change(later, null, false), administrator);
            return Optional.empty();
        }
        return Optional.of(put(name, wanted, says, administrator));
    }

    /**
     * A change that may wait.
     *
     * @param set as it shall be; null if that isn't what changes
     * @param goOn where it goes on; null if that isn't what changes
     */
    private record Change(OutletApi.NewOutlet set, OutletApi.GoOn goOn, boolean remove) {}

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void make(Approvals.Approved change) {
        if (!change.kind().equals(KIND)) {
            return;
        }
        change.handled().set(true);
        var wanted = json.readValue(change.wanted(), Change.class);
        if (wanted.set() != null) {
            checked(change.subject(), wanted.set());
            put(
                    change.subject(),
                    wanted.set(),
                    existing(change.subject())
                            .map(one -> differences(one, wanted.set()))
                            .orElse(List.of()),
                    change.author());
        } else if (wanted.goOn() != null) {
            move(find(change.subject()), wanted.goOn(), change.author());
        } else {
            drop(find(change.subject()), change.author());
        }
    }

    private Optional<Outlet> existing(String name) {
        return Sql.rows(database, "SELECT " + COLUMNS + " FROM outlet WHERE name = :name FOR UPDATE", Outlet.class)
                .setParameter("name", name)
                .getResultStream()
                .findFirst();
    }

    private static boolean fetched(OutletApi.NewOutlet wanted) {
        return OutletKind.SECURITY_EVENTS_FETCHED.label().equals(wanted.kind());
    }

    /** Old and new values, a sentence each. */
    private List<String> differences(Outlet before, OutletApi.NewOutlet wanted) {
        var says = new ArrayList<String>();
        difference(
                says,
                before,
                "receiver",
                Objects.toString(before.goesTo(), "none"),
                Objects.toString(wanted.to(), "none"));
        difference(says, before, "kinds", all(before.kinds()), all(wanted.kinds()));
        difference(says, before, "parts", all(before.parts()), all(wanted.parts()));
        difference(says, before, "severity", before.severity().label(), wanted.severity());
        difference(says, before, "personal data", sent(before.personal()), sent(wanted.personal()));
        difference(
                says,
                before,
                "audience",
                Objects.toString(before.audience(), "its address"),
                Objects.toString(wanted.audience(), "its address"));
        if (wanted.authority() != null) {
            difference(says, before, "authority", digest(before.authority()), digest(wanted.authority()));
        }
        if (wanted.from() != null) {
            difference(says, before, "next event", before.position(), wanted.from());
        }
        return says;
    }

    private static void difference(List<String> says, Outlet outlet, String what, Object before, Object after) {
        if (!before.equals(after)) {
            says.add("The " + what + " of the outlet " + outlet.name() + ": " + before + " before, " + after
                    + " after.");
        }
    }

    private static String all(List<String> some) {
        return some.isEmpty() ? "all" : String.join(", ", some);
    }

    private static String sent(boolean personal) {
        return personal ? "included" : "left out";
    }

    private static String digest(String authority) {
        return authority == null || authority.isBlank()
                ? "none"
                : CanonicalJson.digest(authority).substring(0, 16);
    }

    private void checked(String name, OutletApi.NewOutlet wanted) {
        if (!NAME.matcher(name).matches()) {
            throw Problem.of("outlet-name");
        }
        var kind = OutletKind.labelled(wanted.kind())
                .orElseThrow(() -> Problem.of("outlet-kind")
                        .with(
                                "list",
                                Arrays.stream(OutletKind.values())
                                        .map(OutletKind::label)
                                        .collect(Collectors.joining(", "))));
        if (Severity.labelled(wanted.severity()).isEmpty()) {
            throw Problem.of("severity-unknown");
        }
        missing(wanted.kinds(), EventKind::name).ifPresent(one -> {
            throw Problem.of("outlet-event-unknown").with("one", one);
        });
        missing(wanted.parts(), EventKind::part).ifPresent(part -> {
            throw Problem.of("outlet-part-unknown").with("part", part);
        });
        receivers.get(kind).check(wanted);
        bounded(wanted);
        var before = existing(name);
        if (before.isEmpty()
                && Sql.values(database, "SELECT count(*) FROM outlet", Long.class)
                                .getSingleResult()
                        >= MOST) {
            throw Problem.of("outlets-many").with("most", MOST);
        }
        before.filter(b -> b.kind() != kind).ifPresent(b -> {
            throw Problem.of("outlet-kind-changed").with("name", name);
        });
        if (kind == OutletKind.FILE) {
            writtenBy(wanted.to(), name).ifPresent(other -> {
                throw Problem.of("outlet-file-taken").with("file", wanted.to()).with("name", other);
            });
        }
        if (wanted.from() != null) {
            within(wanted.from());
        }
    }

    /** @param says how it differs from what was there */
    private OutletApi.Made put(String name, OutletApi.NewOutlet wanted, List<String> says, String administrator) {
        var before = existing(name);
        var kind = OutletKind.labelled(wanted.kind()).orElseThrow();
        var severity = Severity.labelled(wanted.severity()).orElseThrow();
        var sameReceiver =
                before.filter(b -> Objects.equals(b.goesTo(), wanted.to())).isPresent();
        var fetched = kind == OutletKind.SECURITY_EVENTS_FETCHED;
        var token = fetched && (before.isEmpty() || "".equals(wanted.credential()))
                ? Base64.getUrlEncoder().withoutPadding().encodeToString(keys.randomBytes(32))
                : null;
        // A credential never follows to another receiver: whoever may change the address could read it there.
        var credential = token != null
                ? keys.encrypt(Outlet.about(name), token)
                : fetched || wanted.credential() == null
                        ? before.filter(b -> fetched || sameReceiver)
                                .map(Outlet::credential)
                                .orElse(null)
                        : wanted.credential().isEmpty() ? null : keys.encrypt(Outlet.about(name), wanted.credential());
        var authority = wanted.authority() == null
                ? before.map(Outlet::authority).orElse(null)
                : wanted.authority().isBlank() ? null : wanted.authority();
        var position = wanted.from() == null ? before.map(Outlet::position).orElseGet(this::size) : wanted.from();
        Sql.change(database, """
                        INSERT INTO outlet (name, kind, goes_to, authority, audience, credential, kinds, parts, severity, personal,
                            state, position, next_try, leased_until)
                        VALUES (:name, :kind, :to, :authority, :audience, :credential, cast(:kinds AS text[]),
                            cast(:parts AS text[]), :severity, :personal, 'FOLLOWING', :position, :now, :now)
                        ON CONFLICT (name) DO UPDATE SET goes_to = excluded.goes_to, authority = excluded.authority,
                            audience = excluded.audience, credential = excluded.credential, kinds = excluded.kinds,
                            parts = excluded.parts, severity = excluded.severity, personal = excluded.personal,
                            position = excluded.position, next_try = excluded.next_try, failures = 0, why = NULL, since = NULL,
                            state = CASE WHEN outlet.state = 'STOPPED' THEN 'FOLLOWING' ELSE outlet.state END,
                            lease = outlet.lease + 1, leased_until = excluded.leased_until""")
                .setParameter("name", name)
                .setParameter("kind", kind.name())
                .setParameter("to", wanted.to())
                .setParameter("authority", authority)
                .setParameter("audience", wanted.audience())
                .setParameter("credential", credential)
                .setParameter("kinds", wanted.kinds().toArray(String[]::new))
                .setParameter("parts", wanted.parts().toArray(String[]::new))
                .setParameter("severity", severity.name())
                .setParameter("personal", wanted.personal())
                .setParameter("position", position)
                .setParameter("now", clock.instant())
                .executeUpdate();
        if (wanted.from() != null) {
            takeBack(name);
        }
        events.write(NewEvent.administration("outlet.set", administrator)
                .with("outlet", name)
                .with("kind", kind.label())
                .with("to", wanted.to())
                .with("personal", wanted.personal())
                .with("kinds", wanted.kinds().isEmpty() ? null : all(wanted.kinds()))
                .with("parts", wanted.parts().isEmpty() ? null : all(wanted.parts()))
                .with("severity", severity.label())
                .with("position", position)
                .with("before", before.map(Outlet::position).orElse(null))
                .with("changed", says.isEmpty() ? null : String.join(" ", says)));
        return new OutletApi.Made(shown(name), token);
    }

    /** Another outlet that writes this file: lines of two would stand among each other, and each would take the other's for its own. */
    private Optional<String> writtenBy(String file, String but) {
        return Sql.values(
                        database,
                        "SELECT name FROM outlet WHERE kind = 'FILE' AND goes_to = :file AND name <> :but",
                        String.class)
                .setParameter("file", file)
                .setParameter("but", but)
                .getResultStream()
                .findFirst();
    }

    private static Optional<String> missing(List<String> wanted, Function<EventKind, String> of) {
        var all = EventCatalogue.all().stream().map(of).collect(Collectors.toSet());
        return wanted.stream().filter(one -> !all.contains(one)).findFirst();
    }

    private static void bounded(OutletApi.NewOutlet wanted) {
        if (wanted.authority() != null && wanted.authority().length() > LONGEST_AUTHORITY) {
            throw Problem.of("outlet-authority");
        }
        if (wanted.credential() != null
                && (wanted.credential().length() > LONGEST_CREDENTIAL
                        || wanted.credential().chars().anyMatch(c -> c <= ' ' || c > '~'))) {
            throw Problem.of("outlet-credential");
        }
        if (wanted.audience() != null && wanted.audience().length() > 500) {
            throw Problem.of("outlet-audience");
        }
    }

    private void within(long from) {
        if (from < 0 || from > size()) {
            throw Problem.of("outlet-position").with("what", size());
        }
    }

    /** @return whether it is gone; otherwise it waits for another administrator */
    boolean remove(String name, String administrator) {
        var outlet = find(name);
        if (approvals.askedFor().equals("nothing")) {
            drop(outlet, administrator);
            return true;
        }
        return approvals.make(
                KIND,
                name,
                List.of("The outlet " + name + " is removed; it stood at event " + outlet.position() + "."),
                new Change(null, null, true),
                administrator);
    }

    private void drop(Outlet outlet, String administrator) {
        Sql.change(database, "DELETE FROM outlet WHERE name = :name")
                .setParameter("name", outlet.name())
                .executeUpdate();
        events.write(NewEvent.administration("outlet.removed", administrator)
                .with("outlet", outlet.name())
                .with("position", outlet.position()));
    }

    OutletApi.Outlet pause(String name, String administrator) {
        find(name);
        Sql.change(database, "UPDATE outlet SET state = 'PAUSED', since = :now, lease = lease + 1 WHERE name = :name")
                .setParameter("now", clock.instant())
                .setParameter("name", name)
                .executeUpdate();
        events.write(NewEvent.administration("outlet.paused", administrator).with("outlet", name));
        return shown(name);
    }

    /**
     * Goes on: where it is, behind what was not taken, or from anywhere.
     *
     * @return empty if what leaves events out, or tells them again, waits for another administrator
     */
    Optional<OutletApi.Outlet> goOn(String name, OutletApi.GoOn wanted, String administrator) {
        var outlet = find(name);
        goes(outlet, wanted);
        if ((wanted.skip() || wanted.from() != null) && !approvals.askedFor().equals("nothing")) {
            approvals.make(
                    KIND,
                    name,
                    List.of("The next event of the outlet " + name + ": " + outlet.position() + " before, "
                            + next(outlet, wanted) + " after."),
                    new Change(null, wanted, false),
                    administrator);
            return Optional.empty();
        }
        move(outlet, wanted, administrator);
        return Optional.of(shown(name));
    }

    private static long next(Outlet outlet, OutletApi.GoOn wanted) {
        return wanted.from() != null ? wanted.from() : outlet.position() + (wanted.skip() ? 1 : 0);
    }

    private void goes(Outlet outlet, OutletApi.GoOn wanted) {
        if (wanted.skip() && (outlet.state() != OutletState.STOPPED || wanted.from() != null)) {
            throw Problem.of("outlet-goes");
        }
        if (wanted.from() != null) {
            within(wanted.from());
        }
    }

    private void move(Outlet outlet, OutletApi.GoOn wanted, String administrator) {
        goes(outlet, wanted);
        var name = outlet.name();
        var position = next(outlet, wanted);
        Sql.change(database, """
                        UPDATE outlet SET state = 'FOLLOWING', position = :position, failures = 0, why = NULL, since = NULL,
                            next_try = :now, lease = lease + 1, leased_until = :now WHERE name = :name""")
                .setParameter("position", position)
                .setParameter("now", clock.instant())
                .setParameter("name", name)
                .executeUpdate();
        if (wanted.from() != null) {
            takeBack(name);
        }
        events.write(NewEvent.administration("outlet.resumed", administrator)
                .with("outlet", name)
                .with("from", position)
                .with("before", outlet.position())
                .with("skipped", wanted.skip()));
    }

    /** What was offered is offered again in its turn. */
    private void takeBack(String name) {
        Sql.change(database, "DELETE FROM outlet_offered WHERE outlet = :name")
                .setParameter("name", name)
                .executeUpdate();
    }

    /** Those whose turn it is; nobody else takes them for a while. */
    List<Outlet> take(Duration turn) {
        var those = receivers.values().stream()
                .filter(Receiver::sends)
                .map(r -> r.kind().name())
                .toArray(String[]::new);
        return Sql.rows(database, """
                        UPDATE outlet SET lease = lease + 1, leased_until = :until WHERE name IN (
                            SELECT name FROM outlet WHERE state = 'FOLLOWING' AND next_try <= :now AND leased_until <= :now
                                AND kind = ANY(cast(:kinds AS text[])) AND position < (SELECT size FROM sealed_events)
                            FOR UPDATE SKIP LOCKED)
                        RETURNING """ + " " + COLUMNS, Outlet.class)
                .setParameter("until", clock.instant().plus(turn))
                .setParameter("now", clock.instant())
                .setParameter("kinds", those)
                .getResultStream()
                .toList();
    }

    /**
     * What was taken.
     *
     * @param until the turn goes on; null if it is over
     * @return the outlet as it stands; empty if somebody else has it now
     */
    Optional<Outlet> came(Outlet outlet, long position, boolean told, Instant until) {
        var now = Sql.rows(database, """
                        UPDATE outlet SET position = :position, failures = 0, why = NULL, since = NULL,
                            sent_at = CASE WHEN :told THEN cast(:now AS timestamptz) ELSE sent_at END, leased_until = :until
                        WHERE name = :name AND lease = :lease AND state = 'FOLLOWING'
                        RETURNING """ + " " + COLUMNS, Outlet.class)
                .setParameter("position", position)
                .setParameter("told", told)
                .setParameter("now", clock.instant())
                .setParameter("until", until == null ? LONG_AGO : until)
                .setParameter("name", outlet.name())
                .setParameter("lease", outlet.lease())
                .getResultStream()
                .findFirst();
        if (now.isPresent() && outlet.failures() >= TOLD_AFTER) {
            events.write(NewEvent.operation("outlet.works").with("outlet", outlet.name()));
        }
        return now;
    }

    /** Once is bad luck; a receiver that is away is told of when it stays away. */
    public static final int TOLD_AFTER = 3;

    /** What was not taken. */
    void failed(Outlet outlet, long position, NotTaken e, Instant next) {
        var failures = outlet.failures() + 1;
        var changed = Sql.change(database, """
                        UPDATE outlet SET position = :position, failures = :failures, why = :why,
                            since = coalesce(since, :now), next_try = :next, leased_until = :now,
                            state = CASE WHEN :forGood THEN 'STOPPED' ELSE state END
                        WHERE name = :name AND lease = :lease AND state = 'FOLLOWING'""")
                .setParameter("position", position)
                .setParameter("failures", failures)
                .setParameter("why", e.getMessage())
                .setParameter("now", clock.instant())
                .setParameter("next", next)
                .setParameter("forGood", e.isForGood())
                .setParameter("name", outlet.name())
                .setParameter("lease", outlet.lease())
                .executeUpdate();
        if (changed == 1 && (e.isForGood() || failures == TOLD_AFTER)) {
            events.write(NewEvent.operation(e.isForGood() ? "outlet.stopped" : "outlet.failing")
                    .with("outlet", outlet.name())
                    .with("position", position)
                    .with("why", e.getMessage()));
        }
    }

    OutletApi.Tried tried(String name, NotTaken e, String administrator) {
        events.write(NewEvent.administration("outlet.tried", administrator)
                .with("outlet", name)
                .with("why", e == null ? null : e.getMessage()));
        return new OutletApi.Tried(e == null, e == null ? null : e.getMessage());
    }
}
