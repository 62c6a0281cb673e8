package dev.entente.bench;

import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.Modification;
import com.unboundid.ldap.sdk.ModificationType;
import com.unboundid.ldap.sdk.SearchScope;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Executors;
import java.util.concurrent.atomic.AtomicInteger;

/**
 * How many passwords a second travel from the browser's call to the directory's confirmation, beside a bare client that does
 * the same modify and bind with as many connections on the same server; and how much longer one alone takes. Everybody has
 * proved who they are before the clock starts.
 */
public final class DeliverBench {
    private static final int CONNECTIONS = 8;

    private final Surroundings at;
    private final Mailbox mailbox;
    private final Connection database;
    private final int alone;
    // A service that has run for a while: before that most of its time goes into compiling itself.
    private final int warm;
    /** When the measuring of this directory began, by the database. */
    private String since;

    private record Someone(String login, String dn, String mail) {}

    private DeliverBench(Surroundings at) throws IOException, SQLException {
        this.at = at;
        this.mailbox = new Mailbox(at.box());
        this.database = at.database();
        this.alone = at.brief() ? 2 : 60;
        this.warm = at.brief() ? 0 : 800;
    }

    /** Arguments: those of {@link Surroundings}. */
    public static void main(String[] arguments) throws Exception {
        var at = Surroundings.of(arguments);
        var bench = new DeliverBench(at);
        // The domain controller first: soon after its start the service is still busy with compiling itself.
        var ad = bench.measure("shore", "sAMAccountName", at.brief() ? 6 : 240);
        var slapd = bench.measure("fleet", "uid", at.brief() ? 6 : 960);
        System.out.printf(
                "deliver slapd=%.2f active-directory=%.2f added-p50-ms=%.1f%n",
                slapd.ours / slapd.bare, ad.ours / ad.bare, slapd.added);
        System.exit(0);
    }

    private record Measured(double ours, double bare, double added) {}

    private Measured measure(String directory, String loginAttribute, int many) throws Exception {
        since = text("SELECT clock_timestamp()");
        BenchPolicy.publish(at.work(), directory, "");
        var people = people(directory, loginAttribute);
        System.out.println(directory + ": " + people.size() + " people; proving " + many + " attempts …");
        warmUp(people);
        var proved = prove(people, many);
        var begun = System.nanoTime();
        inParallel(proved, attempt -> {
            attempt.handIn();
            return null;
        });
        var handed = System.nanoTime();
        waitForAll();
        var seconds = (System.nanoTime() - begun) / 1e9;
        var done = count("SELECT count(*) FROM delivery WHERE state = 'done'" + " AND created_at > '" + since + "'");
        var others = count("SELECT count(*) FROM delivery WHERE state <> 'done'" + " AND created_at > '" + since + "'");
        if (others > 0) {
            System.out.println("not done: " + others);
        }
        var ours = many / seconds;
        var bare = bare(directory, people, many);
        System.out.printf(
                "%s: %.0f deliveries a second (handed in within %.1f s), bare %.0f a second; %d done in all%n",
                directory, ours, (handed - begun) / 1e9, bare, done);
        var oneByOne = alone(people, Math.min(alone, many));
        var bareAlone = bareAlone(directory, people, Math.min(alone, many));
        System.out.printf("%s: alone p50 %.1f ms, bare %.1f ms; %s%n", directory, oneByOne, bareAlone, phases());
        return new Measured(ours, bare, oneByOne - bareAlone);
    }

    private LDAPConnection service(String directory) throws LDAPException, GeneralSecurityException {
        var connection = at.connect(directory);
        connection.bind(
                directory.equals("shore")
                        ? "CN=svc-entente,OU=Service Accounts,DC=skerry,DC=test"
                        : "cn=svc-entente,ou=services,dc=fleet,dc=skerry,dc=test",
                "Svc-Quiet-Water-7");
        return connection;
    }

    /** The accounts of the people who are measured with, known again by their addresses. */
    private List<Someone> people(String directory, String loginAttribute) throws Exception {
        var addresses = at.people().values();
        var people = new ArrayList<Someone>();
        try (var connection = service(directory)) {
            var base =
                    directory.equals("shore") ? "OU=People,DC=skerry,DC=test" : "ou=people,dc=fleet,dc=skerry,dc=test";
            for (var entry : connection
                    .search(base, SearchScope.SUB, "(mail=*)", loginAttribute, "mail")
                    .getSearchEntries()) {
                var address = entry.getAttributeValue("mail");
                if (addresses.contains(address)) {
                    people.add(new Someone(entry.getAttributeValue(loginAttribute), entry.getDN(), address));
                }
            }
        }
        return people;
    }

    private void warmUp(List<Someone> people) throws Exception {
        inParallel(prove(people, warm), attempt -> {
            attempt.handIn();
            return null;
        });
        waitForAll();
    }

    private void waitForAll() throws SQLException, InterruptedException {
        while (count("SELECT count(*) FROM delivery WHERE ended_at IS NULL") > 0) {
            Thread.sleep(5);
        }
    }

    private int count(String sql) throws SQLException {
        return Integer.parseInt(text(sql));
    }

    private String text(String sql) throws SQLException {
        try (var statement = database.createStatement();
                var rows = statement.executeQuery(sql)) {
            rows.next();
            return rows.getString(1);
        }
    }

    private interface Work<T, R> {
        R on(T item) throws Exception;
    }

    private static <T, R> List<R> inParallel(List<T> items, Work<T, R> work) throws Exception {
        var pool = Executors.newFixedThreadPool(16);
        try {
            var results = new ArrayList<R>();
            for (var future : pool.invokeAll(
                    items.stream().<Callable<R>>map(item -> () -> work.on(item)).toList())) {
                try {
                    results.add(future.get());
                } catch (ExecutionException e) {
                    throw new IllegalStateException(e.getCause());
                }
            }
            return results;
        } finally {
            pool.shutdown();
        }
    }

    private List<Recovery> prove(List<Someone> people, int many) throws Exception {
        var all = new ArrayList<Recovery>();
        for (var i = 0; i < many; i++) {
            var one = people.get(i % people.size());
            all.add(new Recovery(at.url(), one.login(), one.mail()));
        }
        inParallel(all, attempt -> {
            attempt.prove(mailbox);
            return null;
        });
        return all;
    }

    /**
     * One person at a time, from handing in to being told as their page is: by the stream of updates, without asking. Milliseconds,
     * the median.
     */
    private double alone(List<Someone> people, int many) throws Exception {
        var times = new ArrayList<Double>();
        var handingIn = new ArrayList<Double>();
        for (var attempt : prove(people, many)) {
            var begun = System.nanoTime();
            attempt.handIn();
            var handed = System.nanoTime();
            handingIn.add((handed - begun) / 1e6);
            attempt.outcome();
            times.add((System.nanoTime() - begun) / 1e6);
            // What follows, such as a message and the sealing of events, does not fall into the next one's time.
            Thread.sleep(300);
        }
        times.sort(Double::compare);
        handingIn.sort(Double::compare);
        System.out.printf("handing in alone p50 %.1f ms%n", handingIn.get(handingIn.size() / 2));
        return times.get(times.size() / 2);
    }

    /** Where the time of those that went alone went, by the service's clock. */
    private String phases() throws SQLException {
        return "of it " + median("leased_at - created_at") + " ms until a steward had it, "
                + median("begun_at - leased_at") + " until it was begun, " + median("ended_at - begun_at")
                + " until it had ended";
    }

    private String median(String phase) throws SQLException {
        try (var statement = database.createStatement();
                var rows = statement.executeQuery(
                        "SELECT round(1000 * extract(epoch FROM percentile_cont(0.5) WITHIN GROUP (ORDER BY " + phase
                                + ")), 1) FROM (SELECT * FROM delivery ORDER BY created_at DESC LIMIT " + alone
                                + ") d")) {
            rows.next();
            return rows.getString(1);
        }
    }

    private double bareAlone(String directory, List<Someone> people, int many) throws Exception {
        var times = new ArrayList<Double>();
        try (var writing = service(directory);
                var binding = at.connect(directory)) {
            for (var i = 0; i < many; i++) {
                var begun = System.nanoTime();
                set(directory, writing, binding, people.get(i % people.size()));
                times.add((System.nanoTime() - begun) / 1e6);
            }
        }
        times.sort(Double::compare);
        return times.get(times.size() / 2);
    }

    private void set(String directory, LDAPConnection writing, LDAPConnection binding, Someone one)
            throws LDAPException {
        var password = Recovery.password();
        writing.modify(
                one.dn(),
                directory.equals("shore")
                        ? new Modification(
                                ModificationType.REPLACE,
                                "unicodePwd",
                                ("\"" + password + "\"").getBytes(StandardCharsets.UTF_16LE))
                        : new Modification(ModificationType.REPLACE, "userPassword", password));
        binding.bind(one.dn(), password);
    }

    private double bare(String directory, List<Someone> people, int many) throws Exception {
        var next = new AtomicInteger();
        var threads = new ArrayList<Integer>();
        for (var i = 0; i < CONNECTIONS; i++) {
            threads.add(i);
        }
        var begun = System.nanoTime();
        inParallel(threads, thread -> {
            try (var writing = service(directory);
                    var binding = at.connect(directory)) {
                for (var i = next.getAndIncrement(); i < many; i = next.getAndIncrement()) {
                    set(directory, writing, binding, people.get(i % people.size()));
                }
            }
            return null;
        });
        return many / ((System.nanoTime() - begun) / 1e9);
    }
}
