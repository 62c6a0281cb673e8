package dev.entente.service.people;

import dev.entente.service.directory.Jobs;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.wire.StewardApi;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/**
 * Takes in what a sync reads. Each row carries the sync that saw it last; when a sync has read everything, rows that it did
 * not see are gone from the directory.
 */
@Component
class SyncIntake {
    private static final int MOST = 500;

    private final Session database;
    private final KeyRing keys;

    SyncIntake(Session database, KeyRing keys) {
        this.database = database;
        this.keys = keys;
    }

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void take(Jobs.SyncBatch sync) {
        var batch = sync.batch();
        if (batch.people().size() > MOST
                || batch.groups().size() > MOST
                || batch.ous().size() > MOST) {
            throw Problem.invalid("A batch holds at most " + MOST + " of each.");
        }
        batch.people().forEach(person -> account(sync, person));
        for (var group : batch.groups()) {
            database.createNativeMutationQuery("""
                            INSERT INTO directory_group (directory, dn, name, parents, sync)
                            VALUES (:directory, :dn, :name, :parents, :sync)
                            ON CONFLICT (directory, dn) DO UPDATE SET name = :name, parents = :parents, sync = :sync""")
                    .setParameter("directory", sync.directory())
                    .setParameter("dn", group.dn())
                    .setParameter("name", group.name())
                    .setParameter("parents", group.parents().toArray(String[]::new))
                    .setParameter("sync", sync.job())
                    .executeUpdate();
        }
        for (var ou : batch.ous()) {
            database.createNativeMutationQuery("""
                            INSERT INTO directory_ou (directory, dn, sync) VALUES (:directory, :dn, :sync)
                            ON CONFLICT (directory, dn) DO UPDATE SET sync = :sync""")
                    .setParameter("directory", sync.directory())
                    .setParameter("dn", ou)
                    .setParameter("sync", sync.job())
                    .executeUpdate();
        }
    }

    private void account(Jobs.SyncBatch sync, StewardApi.Person person) {
        // Without a value to correlate by, an account is a person of its own.
        var correlation = person.correlation() == null || person.correlation().isBlank()
                ? "account " + person.id()
                : person.correlation().strip();
        var owner = database.createNativeQuery("""
                        INSERT INTO person (id, correlation, display_name) VALUES (:id, :correlation, :name)
                        ON CONFLICT (correlation) DO UPDATE SET display_name = :name RETURNING id""", UUID.class)
                .setParameter("id", UUID.randomUUID())
                .setParameter("correlation", correlation)
                .setParameter("name", person.displayName())
                .getSingleResult();
        var mail = person.mail() == null ? null : keys.encrypt(People.mailContext(person.id()), person.mail());
        database.createNativeMutationQuery("""
                        INSERT INTO account (id, directory, person, dn, login, display_name, department, disabled, locked,
                            mail, groups, sync)
                        VALUES (:id, :directory, :person, :dn, :login, :name, :department, :disabled, :locked,
                            cast(:mail AS bytea), :groups, :sync)
                        ON CONFLICT (id) DO UPDATE SET person = :person, dn = :dn, login = :login, display_name = :name,
                            department = :department, disabled = :disabled, locked = :locked, mail = cast(:mail AS bytea),
                            groups = :groups, sync = :sync WHERE account.directory = :directory""")
                .setParameter("id", person.id())
                .setParameter("directory", sync.directory())
                .setParameter("person", owner)
                .setParameter("dn", person.dn())
                .setParameter("login", person.login())
                .setParameter("name", person.displayName())
                .setParameter("department", person.department())
                .setParameter("disabled", person.disabled())
                .setParameter("locked", person.locked())
                .setParameter("mail", mail)
                .setParameter("groups", person.groups().toArray(String[]::new))
                .setParameter("sync", sync.job())
                .executeUpdate();
        database.createNativeMutationQuery("DELETE FROM account_login WHERE account = :account")
                .setParameter("account", person.id())
                .executeUpdate();
        var logins = new LinkedHashSet<String>();
        var all = new ArrayList<>(person.logins());
        all.add(person.login());
        all.forEach(login -> logins.add(People.loginKey(login)));
        for (var login : logins) {
            database.createNativeMutationQuery(
                            "INSERT INTO account_login (login_key, account) VALUES (:login, :account)")
                    .setParameter("login", login)
                    .setParameter("account", person.id())
                    .executeUpdate();
        }
    }

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void sweep(Jobs.SyncEnded sync) {
        for (var table : new String[] {"account", "directory_group", "directory_ou"}) {
            database.createNativeMutationQuery(
                            "DELETE FROM " + table + " WHERE directory = :directory AND sync <> :sync")
                    .setParameter("directory", sync.directory())
                    .setParameter("sync", sync.job())
                    .executeUpdate();
        }
    }
}
