package dev.entente.bench;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.AtomicReference;

/**
 * What one whole recovery costs in a warm service, and what goes on at rest: start, code, answer, seals, two directories, and the
 * message afterwards. Statements are those that {@code pg_stat_statements} counted for the service's role, without the beginnings
 * and ends of transactions; commits are the database's own count of transactions; processor time is the operating system's, for
 * the service, the stewards and PostgreSQL. What goes on at rest is measured before and taken off.
 */
public final class CostBench {
    private static final int SIDE_BY_SIDE = 8;
    /** USER_HZ of every Linux that Java runs on. */
    private static final int TICKS = 100;

    /**
     * How much of everything.
     *
     * @param warm recoveries before anything is counted
     * @param rest seconds at rest
     * @param settle milliseconds until PostgreSQL tells what its connections counted
     */
    private record Extent(int warm, int rounds, int round, int rest, int directories, int stewards, int settle) {
        // An idle connection tells what it counted within ten seconds.
        static final Extent FULL = new Extent(500, 5, 20, 40, 40, 5, 11_000);
        static final Extent BRIEF = new Extent(1, 1, 2, 1, 2, 2, 1_200);
    }

    private final Surroundings at;
    private final Extent extent;
    private final Mailbox mailbox;
    private final Connection database;
    private final long postgres;
    /** The process that serves this program. */
    private final long backend;

    /** Transactions of this program. */
    private long own;

    private record Someone(String login, String mail) {}

    private CostBench(Surroundings at) throws IOException, SQLException {
        this.at = at;
        this.extent = at.brief() ? Extent.BRIEF : Extent.FULL;
        this.mailbox = new Mailbox(at.box());
        this.postgres = Long.parseLong(
                Files.readString(at.lab().resolve("postgres/pid")).strip());
        this.database = at.database();
        this.backend = (long) number("SELECT pg_backend_pid()");
    }

    /** Arguments: those of {@link Surroundings}. */
    public static void main(String[] arguments) throws Exception {
        var at = Surroundings.of(arguments);
        new CostBench(at)
                .run(at.people().entrySet().stream()
                        .map(p -> new Someone(p.getKey(), p.getValue()))
                        .toList());
        System.exit(0);
    }

    /** What was used since the beginning. */
    private record Used(double statements, double commits, Processor processor, long at) {
        Used since(Used before) {
            return new Used(
                    statements - before.statements,
                    commits - before.commits,
                    processor.less(before.processor, 1),
                    at - before.at);
        }

        double cpu() {
            return processor.service + processor.stewards + processor.postgres;
        }

        double seconds() {
            return at / 1e9;
        }

        Used without(Used rest) {
            var share = seconds() / rest.seconds();
            return new Used(
                    statements - share * rest.statements,
                    commits - share * rest.commits,
                    processor.less(rest.processor, share),
                    at);
        }
    }

    /** Processor time, seconds. */
    private record Processor(double service, double stewards, double postgres) {
        Processor less(Processor other, double times) {
            return new Processor(
                    service - times * other.service,
                    stewards - times * other.stewards,
                    postgres - times * other.postgres);
        }
    }

    private void run(List<Someone> people) throws Exception {
        try (var statement = database.createStatement()) {
            statement.execute("CREATE EXTENSION IF NOT EXISTS pg_stat_statements");
        }
        BenchPolicy.publish(at.work(), "shore, fleet", "reset");
        System.out.println(extent.warm() + " recoveries to warm up …");
        warmUp(people);
        var rest = during(() -> Thread.sleep(1000L * extent.rest()));
        System.out.printf(
                "at rest, two stewards: %.1f statements and %.1f commits a second, %.1f ms of processor time%n",
                rest.statements() / rest.seconds(),
                rest.commits() / rest.seconds(),
                1000 * rest.cpu() / rest.seconds());
        countAnew();
        var rounds = new ArrayList<Used>();
        for (var i = 0; i < extent.rounds(); i++) {
            var used = during(() -> round(people, extent.round(), new ArrayList<>()))
                    .without(rest);
            System.out.printf(
                    "%d recoveries: %.1f statements, %.1f commits, %.1f ms of processor time each (service %.0f, stewards"
                            + " %.0f, PostgreSQL %.0f)%n",
                    extent.round(),
                    used.statements() / extent.round(),
                    used.commits() / extent.round(),
                    1000 * used.cpu() / extent.round(),
                    1000 * used.processor().service() / extent.round(),
                    1000 * used.processor().stewards() / extent.round(),
                    1000 * used.processor().postgres() / extent.round());
            rounds.add(used);
        }
        print("profile-recovery.txt", extent.round() * extent.rounds());
        try (var crowd = new Crowd(at.url(), Path.of(System.getenv("ENTENTE_HOME"), "profiles/default.json"))) {
            crowd.connect(extent.directories(), extent.stewards());
            System.out.println(extent.directories() * extent.stewards() + " stewards more are connected …");
            Thread.sleep(1000L * extent.rest());
            countAnew();
            var crowded = during(() -> Thread.sleep(1000L * extent.rest()));
            print("profile-rest.txt", extent.rest());
            var wakes = new ArrayList<Double>();
            round(people, extent.round() * 2, wakes);
            Collections.sort(wakes);
            System.out.println("calls of stewards that failed: " + crowd.failed());
            System.out.printf(
                    "cost statements=%.0f commits=%.0f cpu-ms=%.1f idle-per-steward=%.3f wake-ms=%.1f%n",
                    median(rounds.stream().map(Used::statements).toList()) / extent.round(),
                    median(rounds.stream().map(Used::commits).toList()) / extent.round(),
                    1000 * median(rounds.stream().map(Used::cpu).toList()) / extent.round(),
                    crowded.statements() / crowded.seconds() / (extent.directories() * extent.stewards() + 2),
                    wakes.get(wakes.size() / 2));
        }
    }

    private static double median(List<Double> values) {
        return values.stream().sorted().toList().get(values.size() / 2);
    }

    /** Side by side, until what runs often is compiled. */
    private void warmUp(List<Someone> people) throws Exception {
        var next = new AtomicInteger();
        var threads = new ArrayList<Thread>();
        var failed = new AtomicReference<Exception>();
        for (var t = 0; t < SIDE_BY_SIDE; t++) {
            var thread = new Thread(() -> {
                try {
                    for (var i = next.getAndIncrement(); i < extent.warm(); i = next.getAndIncrement()) {
                        recover(people.get(i % people.size()));
                    }
                } catch (Exception e) {
                    failed.set(e);
                }
            });
            thread.start();
            threads.add(thread);
        }
        for (var thread : threads) {
            thread.join();
        }
        if (failed.get() != null) {
            throw failed.get();
        }
        told();
    }

    private void recover(Someone one) throws Exception {
        var recovery = new Recovery(at.url(), one.login(), one.mail());
        recovery.prove(mailbox);
        recovery.handIn();
        var outcome = recovery.outcome();
        if (!outcome.equals("completed")) {
            throw new IllegalStateException(one.login() + " ended " + outcome);
        }
    }

    /** One after the other; notes how long each waited for a steward. */
    private void round(List<Someone> people, int many, List<Double> wakes) throws Exception {
        for (var i = 0; i < many; i++) {
            recover(people.get(i % people.size()));
            wakes.add(number("SELECT 1000 * extract(epoch FROM max(leased_at - created_at)) FROM delivery"
                    + " WHERE attempt = (SELECT attempt FROM delivery ORDER BY created_at DESC LIMIT 1)"));
        }
        told();
    }

    /** The messages about them are sent, and they have their places on record. */
    private void told() throws Exception {
        while (number("SELECT (SELECT count(*) FROM notification WHERE state IN ('queued', 'sending'))"
                        + " + (SELECT count(*) FROM event_pending)")
                > 0) {
            Thread.sleep(10);
        }
    }

    private interface Work {
        void run() throws Exception;
    }

    private Used during(Work what) throws Exception {
        var before = used();
        what.run();
        return used().since(before);
    }

    private static final String OURS = " FROM pg_stat_statements s JOIN pg_roles r ON r.oid = s.userid"
            + " WHERE r.rolname <> 'postgres' AND s.query !~* '^(begin|commit|rollback|set session|show )'";

    private Used used() throws SQLException, IOException, InterruptedException {
        Thread.sleep(extent.settle());
        return new Used(
                number("SELECT coalesce(sum(calls), 0)" + OURS),
                number("SELECT xact_commit FROM pg_stat_database WHERE datname = 'entente'") - own,
                processor(),
                System.nanoTime());
    }

    private double number(String sql) throws SQLException {
        own++;
        try (var statement = database.createStatement();
                var rows = statement.executeQuery(sql)) {
            rows.next();
            return rows.getDouble(1);
        }
    }

    private void countAnew() throws SQLException {
        number("SELECT 1 FROM pg_stat_statements_reset()");
    }

    /** The statements that were made most often. */
    private void print(String file, int by) throws SQLException {
        var lines = new ArrayList<String>();
        try (var statement = database.createStatement();
                var rows =
                        statement.executeQuery("SELECT calls, round(total_exec_time::numeric, 1), regexp_replace(query,"
                                + " '\\s+', ' ', 'g')" + OURS + " ORDER BY calls DESC LIMIT 150")) {
            while (rows.next()) {
                lines.add(String.format(
                        "%8.2f %8.3f ms  %s", rows.getDouble(1) / by, rows.getDouble(2) / by, rows.getString(3)));
            }
        }
        try {
            Files.write(at.work().resolve(file), lines);
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
        System.out.println("what was asked, each statement: " + at.work().resolve(file));
    }

    private Processor processor() throws IOException {
        var service = ticks(stat(Path.of("/proc/" + at.processes().get(0))), false);
        var stewards = 0L;
        for (var id : at.processes().subList(1, at.processes().size())) {
            stewards += ticks(stat(Path.of("/proc/" + id)), false);
        }
        // Connections that have ended are counted with their parent.
        var database = ticks(stat(Path.of("/proc/" + postgres)), true);
        try (var found = Files.list(Path.of("/proc"))) {
            for (var folder : found.filter(p -> p.getFileName().toString().matches("\\d+"))
                    .toList()) {
                var stat = stat(folder);
                // What this program asks is its own.
                if (stat.length > 3
                        && Long.parseLong(stat[1]) == postgres
                        && Long.parseLong(folder.getFileName().toString()) != backend) {
                    database += ticks(stat, false);
                }
            }
        }
        return new Processor(service / (double) TICKS, stewards / (double) TICKS, database / (double) TICKS);
    }

    private static long ticks(String[] stat, boolean children) {
        if (stat.length < 16) {
            return 0;
        }
        var own = Long.parseLong(stat[11]) + Long.parseLong(stat[12]);
        return children ? own + Long.parseLong(stat[13]) + Long.parseLong(stat[14]) : own;
    }

    /** Fields after the name: state, parent, …; see proc(5). Empty for a process that is gone. */
    private static String[] stat(Path process) {
        try {
            var text = Files.readString(process.resolve("stat"));
            return text.substring(text.lastIndexOf(')') + 2).split(" ");
        } catch (IOException e) {
            return new String[0];
        }
    }
}
