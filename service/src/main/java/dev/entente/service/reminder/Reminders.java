package dev.entente.service.reminder;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Decision;
import dev.entente.core.policy.Message;
import dev.entente.core.policy.Occasion;
import dev.entente.service.attempt.PersonNotices;
import dev.entente.service.notification.Notifications;
import dev.entente.service.people.People;
import dev.entente.service.people.Person;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.WhenDue;
import dev.entente.service.policy.Configurations;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.Locale;
import java.util.UUID;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/**
 * Tells people that their password ends, 14 days, a week and a day before, and invites those who lack a method for a reset and can set one
 * up: at first, and twice more. Nobody is looked at as long as no policy in force says that they are told.
 */
@Component
class Reminders {
    private static final Duration EVERY = Duration.ofMinutes(1);
    /** People who are looked at together. */
    private static final int AT_ONCE = 200;
    /** How long one look goes on at most. */
    private static final Duration LONGEST = Duration.ofSeconds(10);
    /** Once everybody was looked at for an invitation. */
    private static final Duration PAUSE = Duration.ofHours(12);

    private static final int INVITATIONS = 3;
    private static final DateTimeFormatter DAY =
            DateTimeFormatter.ofPattern("d MMMM yyyy", Locale.ENGLISH).withZone(ZoneOffset.UTC);

    private final Session database;
    private final Configurations configurations;
    private final People people;
    private final PersonNotices notices;
    private final Notifications notifications;
    private final InstantSource clock;

    Reminders(
            Session database,
            Configurations configurations,
            People people,
            PersonNotices notices,
            Notifications notifications,
            InstantSource clock) {
        this.database = database;
        this.configurations = configurations;
        this.people = people;
        this.notices = notices;
        this.notifications = notifications;
        this.clock = clock;
    }

    private record Look(UUID after, Instant againAt) {}

    // A clock that was set back makes nobody wait for the time it showed before.
    @WhenDue("""
            SELECT FROM reminder_look WHERE next_at <= entente_now() OR next_at > entente_now() + interval '2 minutes'""")
    @Transactional
    void look() {
        var now = clock.instant();
        var mine = Sql.rows(
                        database,
                        "SELECT after, again_at FROM reminder_look WHERE next_at <= :now OR next_at > :far FOR UPDATE SKIP LOCKED",
                        Look.class)
                .setParameter("now", now)
                .setParameter("far", now.plus(EVERY.multipliedBy(2)))
                .getResultList();
        if (mine.isEmpty()) {
            return;
        }
        var until = System.nanoTime() + LONGEST.toNanos();
        if (tells(Occasion.EXPIRY)) {
            while (ends(now) == AT_ONCE && System.nanoTime() < until) {}
        }
        var look = mine.get(0);
        var again = look.againAt().isAfter(now.plus(PAUSE)) ? now : look.againAt();
        UUID after = null;
        if (tells(Occasion.INVITATION) && !again.isAfter(now)) {
            after = look.after();
            do {
                after = invite(after, now);
            } while (after != null && System.nanoTime() < until);
            again = after == null ? now.plus(PAUSE) : again;
        }
        Sql.change(
                        database,
                        "UPDATE reminder_look SET after = cast(:after AS uuid), again_at = :again, next_at = :next")
                .setParameter("after", after)
                .setParameter("again", again)
                .setParameter("next", now.plus(EVERY))
                .executeUpdate();
    }

    private boolean tells(Occasion occasion) {
        return configurations.current().policies().stream()
                .anyMatch(policy -> policy.tellPerson().value().contains(occasion));
    }

    private record Ends(UUID person, Instant at, int step) {}

    /** @return how many were looked at */
    private int ends(Instant now) {
        var due = Sql.rows(database, """
                        SELECT e.person, e.at, e.step FROM (
                            SELECT person, min(password_ends_at) AS at, CASE WHEN min(password_ends_at) <= :day THEN 3
                                WHEN min(password_ends_at) <= :week THEN 2 ELSE 1 END AS step
                            FROM password_end WHERE password_ends_at > :now AND password_ends_at <= :fortnight GROUP BY person) e
                        LEFT JOIN reminder r ON r.person = e.person AND r.kind = 'expiry'
                        WHERE r.person IS NULL OR r.about <> e.at OR r.step < e.step ORDER BY e.at LIMIT :most""", Ends.class)
                .setParameter("now", now)
                .setParameter("day", now.plus(Duration.ofDays(1)))
                .setParameter("week", now.plus(Duration.ofDays(7)))
                .setParameter("fortnight", now.plus(Duration.ofDays(14)))
                .setParameter("most", AT_ONCE)
                .getResultList();
        var found = people.find(due.stream().map(Ends::person).toList());
        for (var one : due) {
            var person = found.get(one.person());
            if (person != null) {
                decided(person, Action.CHANGE)
                        .policy()
                        .ifPresent(policy -> notices.ahead(
                                person,
                                policy,
                                Message.PASSWORD_ENDS,
                                about -> notifications.passwordEnds(about, "on " + DAY.format(one.at()))));
            }
            looked(one.person(), Occasion.EXPIRY, one.at(), one.step(), now);
        }
        return due.size();
    }

    private record Invited(UUID person, int step, Instant at) {}

    /** @return where to go on; null once everybody was looked at */
    private UUID invite(UUID after, Instant now) {
        var page = people.search(null, after, AT_ONCE);
        if (page.isEmpty()) {
            return null;
        }
        var before = Sql.rows(
                        database,
                        "SELECT person, step, at FROM reminder WHERE kind = 'invitation' AND person IN (:people)",
                        Invited.class)
                .setParameter("people", page.stream().map(Person::id).toList())
                .getResultStream()
                .collect(Collectors.toMap(Invited::person, Function.identity()));
        for (var person : page) {
            var was = before.getOrDefault(person.id(), new Invited(person.id(), 0, Instant.EPOCH));
            if (was.step() < INVITATIONS && !was.at().plus(patience(was.step())).isAfter(now) && invite(person)) {
                looked(person.id(), Occasion.INVITATION, null, was.step() + 1, now);
            }
        }
        return page.get(page.size() - 1).id();
    }

    /** How long after so many invitations the next one may go. */
    private static Duration patience(int step) {
        return switch (step) {
            case 0 -> Duration.ZERO;
            case 1 -> Duration.ofDays(14);
            default -> Duration.ofDays(60);
        };
    }

    /** Invites somebody who could reset their password with another method, and can set one up now. */
    private boolean invite(Person person) {
        var reset = decided(person, Action.RESET);
        return !reset.obstacles().isEmpty()
                && reset.obstacles().stream().allMatch(o -> o.code().equals("methods-missing"))
                && decided(person, Action.DETAILS).obstacles().isEmpty()
                && reset.policy()
                        .filter(policy -> notices.ahead(person, policy, Message.INVITATION, notifications::invitation))
                        .isPresent();
    }

    private Decision decided(Person person, Action action) {
        return configurations.decide(person, action, configurations.now(null, false));
    }

    private void looked(UUID person, Occasion occasion, Instant about, int step, Instant now) {
        Sql.change(database, """
                        INSERT INTO reminder (person, kind, about, step, at)
                        VALUES (:person, :kind, cast(:about AS timestamptz), :step, :now)
                        ON CONFLICT (person, kind) DO UPDATE SET about = excluded.about, step = excluded.step, at = excluded.at""")
                .setParameter("person", person)
                .setParameter("kind", occasion.label())
                .setParameter("about", about)
                .setParameter("step", step)
                .setParameter("now", now)
                .executeUpdate();
    }
}
