package dev.entente.bench;

import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.util.ssl.PEMFileTrustManager;
import com.unboundid.util.ssl.SSLUtil;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.GeneralSecurityException;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;

/**
 * What runs already when a benchmark begins: service, mailbox, PostgreSQL and both directories. Their ports are in the environment,
 * as {@code bin/lib/lab.sh} takes them.
 *
 * @param url the service
 * @param box the stand-in mailbox
 * @param lab folder of the directories and of PostgreSQL
 * @param work holds {@code people.tsv}, and {@code logs} with those of the stewards' heaps; the benchmark writes beside them
 * @param brief whether it only has to run to its end, with figures of few rounds
 * @param processes process ids of the service and of each steward, in this order
 */
record Surroundings(String url, String box, Path lab, Path work, boolean brief, List<Long> processes) {
    /** Reads the program's arguments: URL BOX LAB WORK full|brief PID… */
    static Surroundings of(String[] arguments) {
        return new Surroundings(
                arguments[0],
                arguments[1],
                Path.of(arguments[2]),
                Path.of(arguments[3]),
                arguments[4].equals("brief"),
                Arrays.asList(arguments).subList(5, arguments.length).stream()
                        .map(Long::parseLong)
                        .toList());
    }

    /** People who have an account in both directories: login name in the domain, and address. */
    Map<String, String> people() throws IOException {
        var people = new LinkedHashMap<String, String>();
        for (var line : Files.readAllLines(work.resolve("people.tsv"))) {
            var columns = line.split("\t");
            people.put(columns[0], columns[1]);
        }
        return people;
    }

    Connection database() throws IOException, SQLException {
        return DriverManager.getConnection(
                "jdbc:postgresql://127.0.0.1:" + System.getenv("LAB_PG_PORT") + "/entente",
                "postgres",
                Files.readString(lab.resolve("postgres/postgres.password")).strip());
    }

    /** Which ldaps server a directory is. */
    String server(String directory) {
        return directory.equals("shore")
                ? System.getenv("LAB_AD_IP") + ":636"
                : "127.0.0.1:" + System.getenv("LAB_LDAPS_PORT");
    }

    LDAPConnection connect(String directory) throws LDAPException, GeneralSecurityException {
        var factory =
                new SSLUtil(new PEMFileTrustManager(lab.resolve("pki/ca.crt").toFile())).createSSLSocketFactory();
        var server = server(directory).split(":");
        return new LDAPConnection(factory, server[0], Integer.parseInt(server[1]));
    }
}
