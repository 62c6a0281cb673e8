package dev.entente.service.platform;

import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicBoolean;
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
import org.springframework.transaction.support.TransactionSynchronization;
import org.springframework.transaction.support.TransactionSynchronizationManager;

/**
 * Wakes all nodes through the database's NOTIFY, on a connection of its own. Only a hint: whoever waits also looks by itself
 * from time to time, so that a lost wake-up costs seconds and nothing else. That is why it is sent after the commit and not
 * in it: PostgreSQL lets transactions that notify commit one after the other only.
 */
@Component
public class WakeUps implements SmartLifecycle {
    /** There may be work for a steward of this directory. */
    public record WorkWaits(String directory) {}

    /**
     * Something about this attempt changed.
     *
     * @param more whether more of it is likely to follow in a moment
     */
    public record AttemptChanged(String attempt, boolean more) {}

    /** A message may be waiting to be sent, by mail or to a telephone. */
    public record MessageWaits(boolean phone) {}

    private static final String HELLO = "hello";
    private static final Duration SAID_EVERY = Duration.ofSeconds(10);
    private static final Duration TOGETHER = Duration.ofMillis(50);
    private static final int MOST_TOGETHER = 500;
    private static final Logger log = LoggerFactory.getLogger(WakeUps.class);

    private final ApplicationEventPublisher events;
    private final String url;
    private final String user;
    private final String password;
    private final AtomicBoolean running = new AtomicBoolean();
    private final BlockingQueue<String> waiting = new ArrayBlockingQueue<>(10_000);
    private final List<Thread> threads = new ArrayList<>();
    /** Tells this node's own hints from those of others. */
    private final String node = UUID.randomUUID().toString();

    private final AtomicBoolean greets = new AtomicBoolean();
    private volatile long othersHeard = System.nanoTime() - Duration.ofDays(1).toNanos();

    WakeUps(
            ApplicationEventPublisher events,
            @Value("${spring.datasource.url}") String url,
            @Value("${spring.datasource.username}") String user,
            @Value("${spring.datasource.password:}") String password) {
        this.events = events;
        this.url = url;
        this.user = user;
        this.password = password;
    }

    /** Takes effect when the transaction has committed. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void workFor(Object directory) {
        afterCommit("work " + directory);
    }

    /** Takes effect when the transaction has committed. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void changed(Object attempt) {
        afterCommit("attempt " + attempt);
    }

    /** The same where more is likely to follow in a moment. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void progressed(Object attempt) {
        afterCommit("progress " + attempt);
    }

    /** Takes effect when the transaction has committed. */
    @Transactional(propagation = Propagation.MANDATORY)
    public void message(boolean phone) {
        afterCommit(phone ? "phone" : "mail");
    }

    private void afterCommit(String payload) {
        TransactionSynchronizationManager.registerSynchronization(new TransactionSynchronization() {
            @Override
            public void afterCommit() {
                // Full when the database does not take any: then those who wait look by themselves.
                waiting.offer(payload);
            }
        });
    }

    @Override
    public void start() {
        running.set(true);
        for (var part : Map.<String, Connected>of("wake-ups", this::listen, "wake-ups-out", this::send)
                .entrySet()) {
            var thread = new Thread(() -> connected(part.getValue()), part.getKey());
            thread.setDaemon(true);
            thread.start();
            threads.add(thread);
        }
    }

    private interface Connected {
        void run(Connection connection) throws SQLException, InterruptedException;
    }

    private void connected(Connected part) {
        while (running.get()) {
            try (var connection = DriverManager.getConnection(url, user, password)) {
                part.run(connection);
            } catch (SQLException e) {
                log.warn("wake-ups interrupted, trying again: {}", e.getSQLState());
                pause();
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                return;
            }
        }
    }

    private void listen(Connection connection) throws SQLException {
        try (var statement = connection.createStatement()) {
            statement.execute("LISTEN entente");
            var source = connection.unwrap(PGConnection.class);
            var hello = "SELECT pg_notify('entente', '" + node + " " + HELLO + "')";
            var said = System.nanoTime() - SAID_EVERY.toNanos();
            while (running.get()) {
                // Shows the others that this node is there, and whether the connection is.
                if (System.nanoTime() - said >= SAID_EVERY.toNanos() || greets.getAndSet(false)) {
                    statement.execute(hello);
                    said = System.nanoTime();
                }
                var notes = source.getNotifications((int) SAID_EVERY.toMillis());
                for (var note : notes == null ? new PGNotification[0] : notes) {
                    heard(note.getParameter());
                }
            }
        }
    }

    /** Those who wait on this node hear at once; other nodes a moment later, of all of that moment together. */
    private void send(Connection connection) throws SQLException, InterruptedException {
        try (var statement = connection.prepareStatement("SELECT pg_notify('entente', hint) FROM unnest(?) AS hint")) {
            while (running.get()) {
                var hints = new LinkedHashSet<String>();
                var until = 0L;
                for (var next = waiting.take(); next != null && hints.size() < MOST_TOGETHER; ) {
                    until = hints.isEmpty() ? System.nanoTime() + TOGETHER.toNanos() : until;
                    // Again, however often: what was heard of a moment ago may have been looked at before it changed
                    // once more.
                    pass(next);
                    hints.add(node + " " + next);
                    next = waiting.poll(Math.max(0, until - System.nanoTime()), TimeUnit.NANOSECONDS);
                }
                if (othersAreThere()) {
                    statement.setArray(1, connection.createArrayOf("text", hints.toArray()));
                    statement.execute();
                }
            }
        }
    }

    private void heard(String payload) {
        var parts = payload.split(" ", 2);
        if (parts[0].equals(node)) {
            return;
        }
        if (!othersAreThere()) {
            // It has just come, and should know that this one is there.
            greets.set(true);
        }
        othersHeard = System.nanoTime();
        if (!parts[1].equals(HELLO)) {
            pass(parts[1]);
        }
    }

    /** A node that is alone tells nobody; each lets the others hear of it now and then. */
    private boolean othersAreThere() {
        return System.nanoTime() - othersHeard < 5 * SAID_EVERY.toNanos();
    }

    private void pass(String payload) {
        var parts = payload.split(" ", 2);
        events.publishEvent(
                switch (parts[0]) {
                    case "work" -> new WorkWaits(parts[1]);
                    case "mail", "phone" -> new MessageWaits(parts[0].equals("phone"));
                    default -> new AttemptChanged(parts[1], parts[0].equals("progress"));
                });
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
        threads.forEach(Thread::interrupt);
    }

    @Override
    public boolean isRunning() {
        return running.get();
    }
}
