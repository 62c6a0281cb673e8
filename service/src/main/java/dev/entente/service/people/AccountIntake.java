package dev.entente.service.people;

import dev.entente.core.scope.GroupGraph;
import dev.entente.core.verify.Hint;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.directory.Directories;
import dev.entente.wire.StewardApi;
import java.sql.Timestamp;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.function.Function;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.stereotype.Component;

/** Accounts as a sync reads them, a whole batch with each statement. */
@Component
class AccountIntake {
    // Clocks of directories and ours may differ this much, and a password that we set be seen this late.
    private static final Duration OURS = Duration.ofMinutes(2);

    private static final Pattern ADDRESS = Pattern.compile("\\S+@[^\\s@]+");

    private final AccountOwners owners;
    private final LoginNames logins;
    private final Addresses addresses;
    private final PhoneNumbers numbers;
    private final Directories directories;
    private final EventLog events;
    private final InstantSource clock;
    private final ApplicationEventPublisher publisher;

    AccountIntake(
            AccountOwners owners,
            LoginNames logins,
            Addresses addresses,
            PhoneNumbers numbers,
            Directories directories,
            EventLog events,
            InstantSource clock,
            ApplicationEventPublisher publisher) {
        this.owners = owners;
        this.logins = logins;
        this.addresses = addresses;
        this.numbers = numbers;
        this.directories = directories;
        this.events = events;
        this.clock = clock;
        this.publisher = publisher;
    }

    void take(BatchSql sql, UUID directory, List<StewardApi.Person> batch) {
        var known = owners.known(sql, directory, batch);
        var places = owners.places(sql, directory, batch, known);
        var persons = owners.owners(sql, batch, places);
        var now = clock.instant();
        var mails = batch.stream().map(AccountIntake::mails).toList();
        var phones = batch.stream().map(p -> numbers.read(p.phone())).toList();
        Function<Function<StewardApi.Person, String>, String[]> column =
                value -> batch.stream().map(value).toArray(String[]::new);
        sql.update(
                """
                INSERT INTO account (id, directory, person, dn, dn_key, login, display_name, department, disabled, locked,
                    mail, mail_domains, phone, calls_only, phone_undialable, seen_at, correlation, quarantined, manager, ends_at, must_change, last_sign_in, password_set_at,
                    password_ends_at, rules, attributes, changed_in)
                SELECT t.id, ?, t.person, t.dn, t.dn_key, t.login, t.name, t.department, t.disabled, t.locked, t.mail, t.mail_domains,
                    t.phone, t.calls_only, t.phone_undialable, ?,
                    t.correlation, t.quarantined, t.manager, t.ends_at, t.must_change, t.last_sign_in, t.password_set_at,
                    t.password_ends_at, t.rules, t.attributes,
                    (SELECT this_transaction())
                FROM unnest(?::uuid[], ?::uuid[], ?::text[], ?::text[], ?::text[], ?::text[], ?::text[], ?::boolean[],
                    ?::boolean[], ?::bytea[], ?::text[], ?::bytea[], ?::boolean[], ?::boolean[], ?::text[], ?::boolean[], ?::text[], ?::timestamptz[], ?::boolean[],
                    ?::timestamptz[], ?::timestamptz[], ?::timestamptz[], ?::text[], ?::jsonb[])
                    AS t(id, person, dn, dn_key, login, name, department, disabled, locked, mail, mail_domains, phone, calls_only,
                        phone_undialable, correlation, quarantined,
                        manager, ends_at, must_change, last_sign_in, password_set_at, password_ends_at, rules, attributes)
                ON CONFLICT (id) DO UPDATE SET dn = excluded.dn, dn_key = excluded.dn_key, login = excluded.login,
                    display_name = excluded.display_name, department = excluded.department, disabled = excluded.disabled,
                    locked = excluded.locked, mail = excluded.mail, mail_domains = excluded.mail_domains, phone = excluded.phone,
                    calls_only = excluded.calls_only, phone_undialable = excluded.phone_undialable, seen_at = excluded.seen_at, gone_at = NULL,
                    person = excluded.person, correlation = excluded.correlation, quarantined = excluded.quarantined,
                    manager = excluded.manager, ends_at = excluded.ends_at, must_change = excluded.must_change,
                    last_sign_in = excluded.last_sign_in, password_set_at = excluded.password_set_at,
                    password_ends_at = excluded.password_ends_at, rules = excluded.rules,
                    attributes = excluded.attributes, changed_in = excluded.changed_in
                WHERE account.directory = excluded.directory""",
                directory,
                now,
                batch.stream().map(StewardApi.Person::id).toArray(UUID[]::new),
                persons.toArray(UUID[]::new),
                column.apply(StewardApi.Person::dn),
                column.apply(p -> GroupGraph.placeKey(p.dn())),
                column.apply(StewardApi.Person::login),
                column.apply(p -> p.displayName() == null ? p.login() : p.displayName()),
                column.apply(StewardApi.Person::department),
                batch.stream().map(StewardApi.Person::disabled).toArray(Boolean[]::new),
                batch.stream().map(StewardApi.Person::locked).toArray(Boolean[]::new),
                IntStream.range(0, batch.size())
                        .mapToObj(i -> mails.get(i).isEmpty()
                                ? null
                                : addresses.encryptedMail(batch.get(i).id(), mails.get(i)))
                        .toArray(byte[][]::new),
                mails.stream()
                        .map(all -> all.isEmpty() ? null : Addresses.domains(all))
                        .toArray(String[]::new),
                IntStream.range(0, batch.size())
                        .mapToObj(i -> phones.get(i)
                                .map(d -> addresses.encryptedPhone(batch.get(i).id(), d.number()))
                                .orElse(null))
                        .toArray(byte[][]::new),
                phones.stream()
                        .map(d -> d.map(PhoneNumbers.Dialled::callsOnly).orElse(false))
                        .toArray(Boolean[]::new),
                IntStream.range(0, batch.size())
                        .mapToObj(i ->
                                batch.get(i).phone() != null && phones.get(i).isEmpty())
                        .toArray(Boolean[]::new),
                places.stream().map(AccountOwners.Place::correlation).toArray(String[]::new),
                places.stream().map(p -> p.doubt() != null).toArray(Boolean[]::new),
                column.apply(StewardApi.Person::manager),
                times(batch, StewardApi.Person::expiresAt),
                batch.stream().map(StewardApi.Person::mustChange).toArray(Boolean[]::new),
                times(batch, StewardApi.Person::lastSignIn),
                times(batch, StewardApi.Person::passwordSetAt),
                times(batch, StewardApi.Person::passwordEndsAt),
                column.apply(StewardApi.Person::rules),
                column.apply(p -> StoredAttributes.write(p.attributes())));
        logins.take(sql, directory, batch, known.keySet());
        owners.openCases(sql, directory, batch, places);
        passwordsSetElsewhere(sql, directory, batch, known);
        addressesMoved(batch, known, persons, mails);
    }

    /** Whoever has an account taken over in a directory would have codes sent elsewhere; so people hear of it at both ends. */
    private void addressesMoved(
            List<StewardApi.Person> batch,
            Map<UUID, AccountOwners.Before> known,
            List<UUID> persons,
            List<List<String>> mails) {
        for (var i = 0; i < batch.size(); i++) {
            var before = known.get(batch.get(i).id());
            if (before == null || before.mail() == null || persons.get(i) == null) {
                continue;
            }
            var was = addresses.decryptedMail(batch.get(i).id(), before.mail());
            var is = mails.get(i);
            var told = Stream.concat(
                            was.stream().filter(a -> !is.contains(a)),
                            is.stream().filter(a -> !was.contains(a)))
                    .toList();
            if (!told.isEmpty()) {
                publisher.publishEvent(new AddressChanged(
                        persons.get(i),
                        told,
                        is.isEmpty() ? "none" : is.stream().map(Hint::of).collect(Collectors.joining(", "))));
            }
        }
    }

    /** A password that moved without us is noticed: it may have fallen out of step with the person's other accounts. */
    private void passwordsSetElsewhere(
            BatchSql sql, UUID directory, List<StewardApi.Person> batch, Map<UUID, AccountOwners.Before> known) {
        for (var person : batch) {
            var before = known.get(person.id());
            if (before == null || before.passwordSetAt() == null || person.passwordSetAt() == null) {
                continue;
            }
            var set = Instant.ofEpochMilli(person.passwordSetAt());
            if (Duration.between(before.passwordSetAt(), set).abs().compareTo(OURS) <= 0) {
                continue;
            }
            var noticed = sql.update("""
                    UPDATE account SET changed_elsewhere_at = ? WHERE id = ? AND NOT EXISTS (
                        SELECT 1 FROM delivery_progress d WHERE d.account = account.id
                        AND (d.ended_at IS NULL OR d.ended_at > ?))""", set, person.id(), set.minus(OURS));
            if (noticed == 1) {
                events.write(NewEvent.operation("password.set-elsewhere")
                        .with("directory", directories.get(directory).name())
                        .withPersonal("login", person.login()));
            }
        }
    }

    /** Addresses with something before and after their @, each once; the directory's first one first. */
    private static List<String> mails(StewardApi.Person person) {
        return Stream.concat(
                        Stream.ofNullable(person.mail()),
                        person.moreMail() == null ? Stream.empty() : person.moreMail().stream())
                .map(String::strip)
                .filter(a -> ADDRESS.matcher(a).matches())
                .distinct()
                .limit(Addresses.MOST)
                .toList();
    }

    private static Timestamp[] times(List<StewardApi.Person> batch, Function<StewardApi.Person, Long> time) {
        return batch.stream()
                .map(time)
                .map(at -> at == null ? null : new Timestamp(at))
                .toArray(Timestamp[]::new);
    }
}
