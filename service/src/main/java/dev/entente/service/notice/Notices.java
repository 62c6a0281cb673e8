package dev.entente.service.notice;

import dev.entente.core.notice.Concern;
import dev.entente.core.notice.Pace;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.notification.MailChannel;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.wire.NotificationApi;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.EnumMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** What each administrator chose to be told of, and where. */
@Component
@Transactional
public class Notices {
    /** Stands for the addresses of the mail channel, which are told as usual. */
    static final UUID SHARED = new UUID(0, 0);

    static final int USUAL_HOUR = 7;
    private static final int LAST_HOUR = 23;

    private final Session database;
    private final KeyRing keys;
    private final EventLog events;
    private final MailChannel mail;

    Notices(Session database, KeyRing keys, EventLog events, MailChannel mail) {
        this.database = database;
        this.keys = keys;
        this.events = events;
        this.mail = mail;
    }

    /**
     * Somebody who is told.
     *
     * @param login null for the addresses of the mail channel
     * @param hour of the day, UTC, at which the daily list is sent
     */
    record Reader(UUID id, String login, List<String> addresses, Map<Concern, Pace> paces, int hour) {}

    private record Chosen(UUID administrator, String login, byte[] address, List<String> paces, int hour) {}

    /** Everybody who is told of anything. */
    @Transactional(readOnly = true)
    List<Reader> readers() {
        var readers = new ArrayList<Reader>();
        var shared = mail.administrators();
        if (!shared.isEmpty()) {
            readers.add(new Reader(SHARED, null, shared, usual(), USUAL_HOUR));
        }
        chosen("c.address IS NOT NULL", null).stream()
                .map(c -> new Reader(c.administrator(), c.login(), List.of(address(c)), paces(c.paces()), c.hour()))
                .forEach(readers::add);
        return readers;
    }

    /** Whether anybody is told of this, at once or later. */
    @Transactional(readOnly = true)
    public boolean anybody(Concern concern) {
        return readers().stream().anyMatch(r -> r.paces().get(concern) != Pace.OFF);
    }

    private List<Chosen> chosen(String condition, String login) {
        return Sql.rows(database, """
                        SELECT c.administrator, a.login, c.address, c.paces, c.hour FROM notice_choice c
                        JOIN known_administrator a ON a.id = c.administrator
                        WHERE a.active AND a.role = 'administrator' AND (cast(:login AS text) IS NULL OR a.login = :login)
                            AND\s""" + condition + " ORDER BY a.login", Chosen.class)
                .setParameter("login", login)
                .getResultList();
    }

    private String address(Chosen chosen) {
        return keys.decrypt(context(chosen.administrator()), chosen.address());
    }

    private static String context(UUID administrator) {
        return "address of administrator " + administrator + " v1";
    }

    private static Map<Concern, Pace> usual() {
        var usual = new EnumMap<Concern, Pace>(Concern.class);
        for (var concern : Concern.values()) {
            usual.put(concern, concern.usual());
        }
        return usual;
    }

    /** What is said of what is not there any more is left out. */
    private static Map<Concern, Pace> paces(List<String> said) {
        var paces = usual();
        for (var one : said) {
            var at = one.indexOf('=');
            Concern.labelled(one.substring(0, at))
                    .ifPresent(concern ->
                            Pace.labelled(one.substring(at + 1)).ifPresent(pace -> paces.put(concern, pace)));
        }
        return paces;
    }

    /** What somebody chose. */
    @Transactional(readOnly = true)
    NotificationApi.Notices of(String login) {
        var chosen = chosen("true", login).stream().findFirst();
        var paces = new TreeMap<String, String>();
        chosen.map(c -> paces(c.paces()))
                .orElse(usual())
                .forEach((concern, pace) -> paces.put(concern.label(), pace.label()));
        return new NotificationApi.Notices(
                chosen.filter(c -> c.address() != null).map(this::address).orElse(null),
                paces,
                chosen.map(Chosen::hour).orElse(USUAL_HOUR),
                Arrays.stream(Concern.values())
                        .map(c -> new NotificationApi.ConcernShown(
                                c.label(), c.words(), c.usual().label()))
                        .toList());
    }

    /** Chooses. */
    NotificationApi.Notices choose(NotificationApi.NoticesWanted wanted, String login) {
        var address = Optional.ofNullable(wanted.address()).map(String::strip).filter(a -> !a.isEmpty());
        if (address.filter(a -> !a.matches("[^@\\s,]+@[^@\\s,]+") || a.length() > 254)
                .isPresent()) {
            throw Problem.of("notices-address");
        }
        if (wanted.hour() < 0 || wanted.hour() > LAST_HOUR) {
            throw Problem.of("notices-hour");
        }
        var paces = new ArrayList<String>();
        wanted.paces().forEach((concern, pace) -> {
            if (Concern.labelled(concern).isEmpty()) {
                throw Problem.of("notices-concern").with("concern", concern);
            }
            if (Pace.labelled(pace).isEmpty()) {
                throw Problem.of("notices-pace").with("concern", concern);
            }
            paces.add(concern + "=" + pace);
        });
        var id = Sql.values(database, "SELECT id FROM known_administrator WHERE login = :login", UUID.class)
                .setParameter("login", login)
                .getSingleResult();
        Sql.change(database, """
                        INSERT INTO notice_choice (administrator, address, paces, hour)
                        VALUES (:id, cast(:address AS bytea), cast(:paces AS text[]), :hour)
                        ON CONFLICT (administrator) DO UPDATE SET address = excluded.address, paces = excluded.paces,
                            hour = excluded.hour""")
                .setParameter("id", id)
                .setParameter(
                        "address",
                        address.map(a -> keys.encrypt(context(id), a)).orElse(null))
                .setParameter("paces", paces.toArray(String[]::new))
                .setParameter("hour", wanted.hour())
                .executeUpdate();
        events.write(NewEvent.administration("notices.chosen", login));
        return of(login);
    }
}
