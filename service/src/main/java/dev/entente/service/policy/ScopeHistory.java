package dev.entente.service.policy;

import dev.entente.core.policy.Configuration;
import dev.entente.core.scope.Membership;
import dev.entente.core.scope.Scope;
import dev.entente.core.scope.ScopeSets;
import dev.entente.service.people.DirectoryGroups;
import dev.entente.service.people.People;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WhenDue;
import dev.entente.wire.Page;
import dev.entente.wire.PolicyApi;
import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.UUID;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.roaringbitmap.RoaringBitmap;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionTemplate;

/**
 * Who came to a published scope and who left it, and why: a while after people or the configuration changed, one node
 * compares each scope with what it was. People who come with a scope's first revision are its beginning and not told one by
 * one.
 */
@Component
class ScopeHistory {
    // Of one scope at one time; how many more there were is told.
    private static final int MOST = 2000;
    private static final int AT_ONCE = 500;
    private static final Duration KEPT = Duration.ofDays(400);
    // Reading everybody may take as long as a tenth of the time, and no more.
    private static final int SPARING = 10;

    /** Differs whenever what scopes say, what directories say or the day has changed. */
    private static final String STAMP = """
            (SELECT string_agg(cast(changed_by AS text), ' ' ORDER BY topic) || ' ' || cast(entente_now() AT TIME ZONE 'UTC' AS date)
                FROM topic_stamp WHERE topic IN ('people', 'revision'))""";

    private final Session database;
    private final Configurations configurations;
    private final Everybody everybody;
    private final People people;
    private final TransactionTemplate transaction;
    private final InstantSource clock;
    private final DirectoryGroups groups;
    private volatile Instant rest = Instant.MIN;

    ScopeHistory(
            Session database,
            Configurations configurations,
            Everybody everybody,
            People people,
            TransactionTemplate transaction,
            InstantSource clock,
            DirectoryGroups groups) {
        this.database = database;
        this.configurations = configurations;
        this.everybody = everybody;
        this.people = people;
        this.transaction = transaction;
        this.clock = clock;
        this.groups = groups;
    }

    private record State(String words, RoaringBitmap members) {}

    @WhenDue("SELECT FROM scope_watch WHERE stamp <> " + STAMP)
    void look() {
        if (clock.instant().isBefore(rest)) {
            return;
        }
        var begun = System.nanoTime();
        transaction.executeWithoutResult(status -> {
            var before = Sql.values(database, "SELECT stamp FROM scope_watch FOR UPDATE SKIP LOCKED", String.class)
                    .getResultStream()
                    .findFirst();
            if (before.isPresent()) {
                // Read before anything else: what changes meanwhile is looked at again.
                var stamp =
                        Sql.values(database, "SELECT " + STAMP, String.class).getSingleResult();
                look(before.get(), stamp);
            }
        });
        rest = clock.instant().plus(Duration.ofNanos(System.nanoTime() - begun).multipliedBy(SPARING));
    }

    private void look(String before, String stamp) {
        var configuration = configurations.current();
        var today = LocalDate.ofInstant(clock.instant(), ZoneOffset.UTC);
        // Conditions may be relative to the day.
        if (stamp.equals(before)) {
            return;
        }
        var read = everybody.read();
        var sets = new ScopeSets(read.crowd().population(), configuration.scopes(), today);
        var known = known();
        for (var scope : configuration.scopes().values()) {
            var now = read.own(sets.of(scope.name()));
            var was = known.get(scope.name());
            if (was != null) {
                compare(configuration, scope, was, now, today);
            }
            if (was == null || !was.members().equals(now) || !was.words().equals(scope.words())) {
                keep(scope, now, configuration.revision());
            }
        }
        var gone = new HashSet<>(known.keySet());
        gone.removeAll(configuration.scopes().keySet());
        if (!gone.isEmpty()) {
            Sql.change(database, "DELETE FROM scope_state WHERE scope IN (:gone)")
                    .setParameter("gone", gone)
                    .executeUpdate();
        }
        Sql.change(database, "DELETE FROM scope_change WHERE at < :limit")
                .setParameter("limit", clock.instant().minus(KEPT))
                .executeUpdate();
        Sql.change(database, "UPDATE scope_watch SET stamp = :stamp")
                .setParameter("stamp", stamp)
                .executeUpdate();
    }

    private Map<String, State> known() {
        var known = new HashMap<String, State>();
        for (var row : Sql.rows(database, "SELECT scope, words, members FROM scope_state", Stored.class)
                .getResultList()) {
            known.put(row.scope(), new State(row.words(), bitmap(row.members())));
        }
        return known;
    }

    private record Stored(String scope, String words, byte[] members) {}

    private void compare(Configuration configuration, Scope scope, State was, RoaringBitmap now, LocalDate today) {
        var changed = was.words().equals(scope.words())
                ? ""
                : "revision " + configuration.revision() + " made it people " + scope.words() + "; ";
        tell(configuration, scope, RoaringBitmap.andNot(now, was.members()), true, changed, today);
        tell(configuration, scope, RoaringBitmap.andNot(was.members(), now), false, changed, today);
    }

    private void tell(
            Configuration configuration,
            Scope scope,
            RoaringBitmap who,
            boolean came,
            String changed,
            LocalDate today) {
        var told = new ArrayList<Integer>();
        who.limit(MOST).forEach((int number) -> told.add(number));
        for (var from = 0; from < told.size(); from += AT_ONCE) {
            var part = told.subList(from, Math.min(told.size(), from + AT_ONCE));
            var ids = people.numbered(part);
            var found = people.find(List.copyOf(ids.values()));
            for (var number : part) {
                var id = ids.get(number);
                var person = id == null ? null : found.get(id);
                var why = person == null
                        ? "no account is left"
                        : new Membership(
                                        configuration.scopes(),
                                        people.facts(person).subject(),
                                        groups.groups(),
                                        today)
                                .in(scope.name())
                                .because();
                insert(configuration, scope, id, came, 0, changed + why);
            }
        }
        var more = who.getCardinality() - told.size();
        if (more > 0) {
            insert(configuration, scope, null, came, more, changed + "many at once");
        }
    }

    private void insert(Configuration configuration, Scope scope, UUID person, boolean came, int more, String why) {
        Sql.change(database, """
                        INSERT INTO scope_change (scope, person, came, more, why, revision, at)
                        VALUES (:scope, cast(:person AS uuid), :came, :more, :why, :revision, :at)""")
                .setParameter("scope", scope.name())
                .setParameter("person", person)
                .setParameter("came", came)
                .setParameter("more", more)
                .setParameter("why", why)
                .setParameter("revision", configuration.revision())
                .setParameter("at", clock.instant())
                .executeUpdate();
    }

    private void keep(Scope scope, RoaringBitmap members, int revision) {
        Sql.change(database, """
                        INSERT INTO scope_state (scope, words, members, revision)
                        VALUES (:scope, :words, :members, :revision) ON CONFLICT (scope) DO UPDATE
                        SET words = excluded.words, members = excluded.members, revision = excluded.revision""")
                .setParameter("scope", scope.name())
                .setParameter("words", scope.words())
                .setParameter("members", bytes(members))
                .setParameter("revision", revision)
                .executeUpdate();
    }

    /** Changes of one scope, the newest first; {@code before} is the last id of the page before. */
    @Transactional(readOnly = true)
    public Page<PolicyApi.ScopeChange> of(String scope, Long before, int limit) {
        var size = Math.max(1, Math.min(limit, 500));
        var rows = Sql.rows(database, """
                        SELECT id, at, came, person, more, why, revision FROM scope_change
                        WHERE scope = :scope AND id < :before ORDER BY id DESC LIMIT :limit""", Change.class)
                .setParameter("scope", scope)
                .setParameter("before", before == null ? Long.MAX_VALUE : before)
                .setParameter("limit", size + 1)
                .getResultList();
        var names = people.names(
                rows.stream().map(Change::person).filter(Objects::nonNull).collect(Collectors.toSet()));
        var items = rows.stream()
                .limit(size)
                .map(c -> new PolicyApi.ScopeChange(
                        c.id(), c.at(), c.came(), c.person(), names.get(c.person()), c.more(), c.why(), c.revision()))
                .toList();
        return new Page<>(
                items, rows.size() > size ? String.valueOf(items.get(size - 1).id()) : null);
    }

    /** @param person null where only their number is known */
    private record Change(long id, Instant at, boolean came, UUID person, int more, String why, int revision) {}

    private static byte[] bytes(RoaringBitmap bitmap) {
        bitmap.runOptimize();
        var bytes = new ByteArrayOutputStream();
        try {
            bitmap.serialize(new DataOutputStream(bytes));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        return bytes.toByteArray();
    }

    private static RoaringBitmap bitmap(byte[] bytes) {
        var bitmap = new RoaringBitmap();
        try {
            bitmap.deserialize(new DataInputStream(new ByteArrayInputStream(bytes)));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        return bitmap;
    }
}
