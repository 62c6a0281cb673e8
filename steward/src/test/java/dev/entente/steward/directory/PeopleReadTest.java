package dev.entente.steward.directory;

import static org.assertj.core.api.Assertions.assertThat;

import com.unboundid.ldap.listener.InMemoryDirectoryServer;
import com.unboundid.ldap.listener.InMemoryDirectoryServerConfig;
import dev.entente.wire.DirectoryApi.Finding;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** What a preflight learns from reading everybody once. */
class PeopleReadTest {
    private static final String BASE = "dc=skerry,dc=test";
    private InMemoryDirectoryServer server;
    private final List<Finding> findings = new ArrayList<>();

    @BeforeEach
    void start() throws Exception {
        var configuration = new InMemoryDirectoryServerConfig(BASE);
        configuration.setSchema(null);
        server = new InMemoryDirectoryServer(configuration);
        server.add("dn: " + BASE, "objectClass: domain", "dc: skerry");
        for (var place : List.of("Deck", "Engine")) {
            server.add("dn: ou=" + place + "," + BASE, "objectClass: organizationalUnit", "ou: " + place);
        }
        server.startListening();
    }

    @AfterEach
    void stop() {
        server.shutDown(true);
    }

    private void add(String uid, String place, boolean mail) throws Exception {
        var lines = new ArrayList<>(List.of(
                "dn: uid=" + uid + ",ou=" + place + "," + BASE, "objectClass: person", "uid: " + uid, "cn: " + uid));
        if (mail) {
            lines.add("mail: " + uid + "@mail.skerry.test");
        }
        server.add(lines.toArray(String[]::new));
    }

    private PeopleRead read() throws Exception {
        try (var connection = server.getConnection()) {
            return PeopleRead.of(connection, BASE, "(objectClass=person)", "uid", findings);
        }
    }

    @Test
    void counts_over_all_pages_and_keeps_a_few_names() throws Exception {
        for (var i = 0; i < 1203; i++) {
            add("crew" + i, i % 3 == 0 ? "Engine" : "Deck", i % 100 != 0);
        }
        var read = read();
        assertThat(findings).singleElement().satisfies(f -> {
            assertThat(f.severity()).isEqualTo("ok");
            assertThat(f.evidence()).isEqualTo("1203 accounts below " + BASE);
        });
        assertThat(read.mail(true).severity()).isEqualTo("warning");
        assertThat(read.mail(true).cause())
                .isEqualTo("13 accounts have no e-mail address, which a published policy needs.");
        assertThat(read.mail(true).evidence()).contains("crew100 · ").endsWith("and 5 more");
        assertThat(read.mail(false).severity()).isEqualTo("info");
        assertThat(read.placesBelow(List.of(BASE))).containsOnlyKeys("ou=Deck," + BASE, "ou=Engine," + BASE);
        assertThat(read.placesBelow(List.of(BASE)).values())
                .allSatisfy(people -> assertThat(people).hasSize(3));
    }

    @Test
    void one_without_mail_is_one_account_and_everybody_with_it_is_fine() throws Exception {
        add("astrid", "Deck", true);
        assertThat(read().mail(true).severity()).isEqualTo("ok");
        add("calum", "Deck", false);
        assertThat(read().mail(false).cause()).isEqualTo("1 account has no e-mail address.");
        assertThat(read().mail(false).evidence()).isEqualTo("calum");
    }

    @Test
    void nobody_at_all_is_said_too() throws Exception {
        var read = read();
        assertThat(findings.get(0).evidence()).isEqualTo("0 accounts below " + BASE);
        assertThat(read.placesBelow(List.of(BASE))).isEmpty();
    }
}
