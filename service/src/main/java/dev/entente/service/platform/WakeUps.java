package dev.entente.service.platform;

import java.sql.DriverManager;
import java.sql.SQLException;
import java.util.concurrent.atomic.AtomicBoolean;
import org.hibernate.Session;
import org.postgresql.PGConnection;
import org.postgresql.PGNotification;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.context.SmartLifecycle;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/**
 * Wakes all nodes through the database's NOTIFY, on a connection of its own. Only a hint: whoever waits also looks by itself
 * from time to time, so that a lost wake-up costs seconds and nothing else.
 */
@Component
public class WakeUps implements SmartLifecycle {
    /** There may be work for a steward of this directory. */
    public record WorkWaits(String directory) {}

    /** Something about this attempt changed. */
    public record AttemptChanged(String attempt) {}

    private static final Logger log = LoggerFactory.getLogger(WakeUps.class);

    private final Session database;
    private final ApplicationEventPublisher events;
    private final String url;
    private final String user;
    private final String password;
    private final AtomicBoolean running = new AtomicBoolean();
    private Thread listener;

    WakeUps(
            Session database,
            ApplicationEventPublisher events,
            @Value("${spring.datasource.url}") String url,
            @Value("${spring.datasource.username}") String user,
            @Value("${spring.datasource.password:}") String password) {
        this.database = database;
        this.events = events;
        this.url = url;
        this.user = user;
        this.password = password;
    }

    /** Takes effect when the transaction commits. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void workFor(Object directory) {
        send("work " + directory);
    }

    /** Takes effect when the transaction commits. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void changed(Object attempt) {
        send("attempt " + attempt);
    }

    private void send(String payload) {
        database.createNativeQuery("SELECT cast(pg_notify('entente', :payload) AS text)", String.class)
                .setParameter("payload", payload)
                .getSingleResult();
    }

    @Override
    public void start() {
        running.set(true);
        listener = new Thread(this::listen, "wake-ups");
        listener.setDaemon(true);
        listener.start();
    }

    private void listen() {
        while (running.get()) {
            try (var connection = DriverManager.getConnection(url, user, password);
                    var statement = connection.createStatement()) {
                statement.execute("LISTEN entente");
                var source = connection.unwrap(PGConnection.class);
                while (running.get()) {
                    var notes = source.getNotifications(10_000);
                    for (var note : notes == null ? new PGNotification[0] : notes) {
                        pass(note.getParameter());
                    }
                    statement.execute("SELECT 1");
                }
            } catch (SQLException e) {
                log.warn("wake-ups interrupted, trying again: {}", e.getSQLState());
                pause();
            }
        }
    }

    private void pass(String payload) {
        var parts = payload.split(" ", 2);
        events.publishEvent(parts[0].equals("work") ? new WorkWaits(parts[1]) : new AttemptChanged(parts[1]));
    }

    private static void pause() {
        try {
            Thread.sleep(1000);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    @Override
    public void stop() {
        running.set(false);
        listener.interrupt();
    }

    @Override
    public boolean isRunning() {
        return running.get();
    }
}
