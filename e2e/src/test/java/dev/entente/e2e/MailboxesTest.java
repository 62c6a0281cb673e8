package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.unboundid.ldap.sdk.Modification;
import com.unboundid.ldap.sdk.ModificationType;
import com.unboundid.ldap.sdk.SearchScope;
import dev.entente.bench.Mailbox;
import dev.entente.core.policy.Action;
import dev.entente.wire.PortalApi;
import java.util.List;
import java.util.Locale;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** People with several mailboxes, and mailboxes that open with the password which was lost. */
class MailboxesTest extends PublishingWithDirectoriesTest {
    private static final String OFFICE = "office.test";

    @AfterEach
    void noMailboxIsLocked() {
        world.entente("directory", "change", "shore", "--mailbox-domain", "").expect(0);
    }

    /** As the directory has it from now on, and as it was read. */
    private void addresses(Crew crew, String mail, String... others) throws Exception {
        try (var administrator = world.ldap("shore")) {
            administrator.bind("Administrator@skerry.test", "Adm1n-Skerry-Line");
            var entry = administrator.searchForEntry(
                    "DC=skerry,DC=test", SearchScope.SUB, "(sAMAccountName=" + crew.shore() + ")", "1.1");
            administrator.modify(
                    entry.getDN(),
                    new Modification(ModificationType.REPLACE, "mail", mail),
                    new Modification(ModificationType.REPLACE, "otherMailbox", others));
        }
        var domains = List.of(others).stream()
                .filter(a -> a.contains("@"))
                .map(a -> a.substring(a.indexOf('@') + 1))
                .sorted()
                .toList();
        World.waitUntil(SOON, "the addresses are read", () -> {
            var read = world.query("SELECT mail_domains FROM account WHERE login = '" + crew.shore() + "'");
            return read.startsWith(mail.substring(mail.indexOf('@') + 1))
                    && List.of(read.split(" ")).stream()
                            .skip(1)
                            .sorted()
                            .toList()
                            .equals(domains);
        });
    }

    private PortalApi.Attempt started(ApiPerson person, Crew crew) {
        return person.start(crew.shore()).as(PortalApi.Attempt.class);
    }

    private ApiPerson.Answer ask(ApiPerson person, String method, String address) {
        return person.call("POST", "/attempt/challenges", new PortalApi.Ask(method, null, address));
    }

    @Test
    void several_addresses_can_be_chosen_from_after_the_first_proof_and_never_one_that_is_locked() throws Exception {
        var crew = world.crew();
        var home = "home-" + crew.shore() + "@harbour.test";
        addresses(crew, crew.address(), home, "at-" + crew.shore() + "@" + OFFICE, "no address at all");
        world.entente("directory", "change", "shore", "--mailbox-domain", OFFICE.toUpperCase(Locale.ROOT))
                .expect(0);
        assertThat(world.entente("directory", "show", "shore").out()).contains("same password", OFFICE);
        pilot("prove:\n  reset: { methods: 2, any-of: [email-code, email-link], first: [email-code] }\n", crew);

        var person = new ApiPerson(world);
        assertThat(started(person, crew).addresses()).isEmpty();
        assertThat(ask(person, "email-code", "AAAAAAAAAAAA").body()).contains("address-unknown");
        person.attempt = person.ask().as(PortalApi.Attempt.class);
        assertThat(person.attempt.addresses()).isEmpty();
        person.attempt = person.answer(world.mailbox.codeOf(person.attempt.reference(), crew.address()))
                .as(PortalApi.Attempt.class);
        assertThat(person.attempt.addresses())
                .extracting(PortalApi.Address::hint)
                .containsExactly(crew.address().charAt(0) + "…@m….test", "h…@h….test");
        assertThat(ask(person, "email-link", "AAAAAAAAAAAA").body()).contains("address-unknown");

        var chosen = person.attempt.addresses().get(1).id();
        ask(person, "email-link", chosen).as(PortalApi.Attempt.class);
        World.waitUntil(
                SOON,
                "the link came there",
                () -> world.mailbox.to(home).get(0).text().contains(person.attempt.reference()));
        // That the directory has other addresses now was told at those that are new.
        assertThat(world.mailbox.to(home))
                .anyMatch(m -> m.subject().equals("Skerry Line: another e-mail address")
                        && m.text().contains("h…@h….test")
                        && !m.text().contains(home));
        var elsewhere = new ApiPerson(world).prove(crew.shore(), crew.address());
        assertThat(elsewhere.attempt.addresses())
                .as("an id is good in its attempt alone")
                .extracting(PortalApi.Address::id)
                .doesNotContain(chosen);
    }

    @Test
    void a_mailbox_that_the_same_password_opens_counts_only_where_the_policy_says_so() throws Exception {
        var crew = world.crew();
        var office = "at-" + crew.shore() + "@" + OFFICE;
        addresses(crew, office);
        world.entente("directory", "change", "shore", "--mailbox-domain", OFFICE)
                .expect(0);
        // Told at the old one and at the new one.
        for (var address : List.of(crew.address(), office)) {
            World.waitUntil(
                    SOON,
                    address + " is told",
                    () -> world.mailbox.to(address).stream()
                            .anyMatch(m -> m.subject().equals("Skerry Line: another e-mail address")));
        }
        pilot("prove:\n  reset: { methods: 1, any-of: [email-code] }\n", crew);
        assertThat(explained(crew))
                .contains("not possible")
                .contains("The person's only mailbox opens with the password of their own account")
                .contains("email-code - goes only to a mailbox that one of the person's own passwords opens");
        assertThat(world.entente("person", "methods", crew.shore()).out())
                .contains("opens with the person's own password");

        var person = new ApiPerson(world);
        started(person, crew);
        person.ask().as(PortalApi.Attempt.class);
        World.waitUntil(
                SOON,
                "it was looked up whose it is",
                () -> world.query("SELECT decoy FROM attempt ORDER BY created_at DESC LIMIT 1")
                        .equals("mailbox-locked"));
        assertThat(withoutMoves(office)).isEmpty();

        pilot("prove:\n  reset: { methods: 1, any-of: [email-code] }\n  locked-mailbox: true\n", crew);
        assertThat(explained(crew)).contains(Action.RESET.label() + ": possible");
        var allowed = new ApiPerson(world).prove(crew.shore(), office);
        allowed.choose("Office-Quay-7-Pines").waitForOutcome(SOON);
        assertThat(allowed.attempt.state()).isEqualTo("completed");
    }

    @Test
    void domains_are_checked_and_news_goes_to_a_mailbox_that_is_not_locked() throws Exception {
        assertThat(world.entente("directory", "change", "shore", "--mailbox-domain", "somebody@office.test")
                        .expect(1)
                        .err())
                .contains("such as skerry.test, without an @");
        var crew = world.crew();
        var home = "home-" + crew.shore() + "@harbour.test";
        addresses(crew, "at-" + crew.shore() + "@" + OFFICE, home);
        world.entente("directory", "change", "shore", "--mailbox-domain", OFFICE)
                .expect(0);
        pilot("", crew);
        var person = new ApiPerson(world).prove(crew.shore(), home);
        person.choose("Harbour-Quay-7-Pines").waitForOutcome(SOON);
        assertThat(person.attempt.state()).isEqualTo("completed");
        World.waitUntil(SOON, "news came", () -> withoutMoves(home).size() == 2);
        assertThat(withoutMoves("at-" + crew.shore() + "@" + OFFICE)).isEmpty();
    }

    /** What came to a mailbox, but for that it is new. */
    private List<Mailbox.Mail> withoutMoves(String address) {
        return world.mailbox.to(address).stream()
                .filter(m -> !m.subject().equals("Skerry Line: another e-mail address"))
                .toList();
    }
}
