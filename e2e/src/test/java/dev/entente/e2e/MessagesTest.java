package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.wire.MailApi;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.net.http.HttpResponse;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What is sent to people and to administrators, in whose words, and on what occasions. */
class MessagesTest extends PublishingTest {
    private static final String WATCH = "watch@skerry.test";

    @Test
    void texts_of_the_configuration_reach_people_in_their_language() throws IOException {
        var crew = world.crew();
        write("messages/code.yaml", """
                message: code
                subject: { en: "Your code, {name}", nb: "Koden din, {name}" }
                text:
                  en: |
                    For {attribute.department}:
                      {code}
                    {reference}
                  nb: |
                    Til {attribute.department}, {attribute.no-such-attribute}gyldig i {valid-for}:
                      {code}
                    {reference}
                """);
        write("terms/house-rules.yaml", "terms: house-rules\ntexts: { en: Be kind., nb: Vær snill. }\n");
        pilot("terms: house-rules\n", crew);

        var norwegian = new ApiPerson(world).reads("nb-NO,nb;q=0.9,en;q=0.5").prove(crew.shore(), crew.address());
        var mail = world.mailbox.to(crew.address()).get(0);
        assertThat(mail.subject()).isEqualTo("Koden din, " + name(crew));
        assertThat(mail.text()).contains("Til Deck, gyldig i 10 min:").doesNotContain("{");
        assertThat(norwegian.attempt.terms().language()).isEqualTo("nb");
        assertThat(norwegian.attempt.terms().text()).isEqualTo("Vær snill.");

        var unknown = new ApiPerson(world).reads("tlh, *;q=0.1 ;;; nonsense").prove(crew.shore(), crew.address());
        assertThat(world.mailbox.to(crew.address()).get(0).text()).contains("For Deck:");
        assertThat(unknown.attempt.terms().language()).isEqualTo("en");

        assertThat(world.entente("revision", "changes", String.valueOf(revision()))
                        .expect(0)
                        .out())
                .contains("Message code in nb is new.", "Message code in en has another text.");
        assertThat(world.entente("message", "list").expect(0).out())
                .containsPattern("code +en, nb +messages/code.yaml")
                .containsPattern("password-reset +en +built in");
        assertThat(world.entente("message", "show", "code").expect(0).out())
                .contains("-- nb --", "Koden din, Astrid Example", "required: code");
        assertThat(world.entente("message", "show", "cod").expect(1).err()).contains("there is no message \"cod\"");
    }

    @Test
    void a_message_without_its_code_is_never_published() throws IOException {
        write("messages/code.yaml", "message: code\nsubject: { en: Hello }\ntext: { en: Hello again }\n");
        world.entente("draft", "start", "--name", "no code").expect(0);
        var refused = world.entente("draft", "load", folder.toString()).expect(1);
        assertThat(refused.out() + refused.err()).contains("{code} is missing");
        assertThat(world.entente("draft", "publish").expect(1).err()).contains("{code} is missing");
    }

    @Test
    void somebody_who_did_not_get_through_is_told_where_the_policy_says_so() throws IOException {
        var crew = world.crew();
        pilot("tell: { person: [reset, failure] }\n", crew);
        var person = new ApiPerson(world);
        person.start(crew.shore()).as(PortalApi.Attempt.class);
        for (var round = 0; round < 3; round++) {
            person.attempt = person.ask().as(PortalApi.Attempt.class);
            for (var wrong = 0; wrong < 5; wrong++) {
                assertThat(person.answer("0000000" + wrong).status()).isEqualTo(422);
            }
        }
        Installation.waitUntil(
                SOON,
                "the person is told",
                () -> world.mailbox.to(crew.address()).stream()
                        .anyMatch(m -> m.subject().equals("Skerry Line: someone tried to use your name")
                                && m.text().contains("/not-me#")
                                && m.text().contains(person.attempt.reference())));
        assertThat(world.entente("attempt", "show", person.attempt.reference()).out())
                .contains("blocked");
    }

    @Test
    void administrators_are_told_when_a_privileged_account_has_a_new_password(@TempDir Path folder) throws IOException {
        var crew = world.crew();
        var settings = ApiPerson.JSON.readValue(api.get("/channels/mail").body(), MailApi.MailChannel.class);
        var deck = "cn=Deck,ou=groups,dc=fleet,dc=skerry,dc=test";
        try {
            assertThat(mail(settings, List.of("no address")).body()).contains("addresses such as");
            assertThat(mail(settings, List.of(WATCH)).statusCode()).isEqualTo(200);
            world.entente("directory", "change", "fleet", "--protect-group", deck)
                    .expect(0);
            mail(settings, List.of());
            pilot("tell: { administrators: [privileged-reset] }\n", crew);
            assertThat(world.entente("status").out()).contains("no address for them is set");
            mail(settings, List.of(WATCH));
            assertThat(world.entente("status").out()).doesNotContain("no address for them is set");
            var person = new ApiPerson(world).prove(crew.shore(), crew.address());
            person.choose("Privileged-Quay-11").waitForOutcome(SOON);
            Installation.waitUntil(
                    SOON,
                    "the administrators are told",
                    () -> world.mailbox.to(WATCH).stream()
                            .anyMatch(m -> m.subject().contains("a privileged account has a new password")
                                    && m.text().contains(name(crew))));
            var report = folder.resolve("report.pdf").toString();
            world.entente("attempt", "report", person.attempt.reference(), "--to", report)
                    .expect(0);
            assertThat(Installation.run(Map.of(), "pdftotext", "-layout", report, "-")
                            .expect(0)
                            .out())
                    .as("who was told, administrators among them")
                    .containsPattern("(?s)Who was told.*" + WATCH.charAt(0) + "…@\\S+ +mail +privileged-reset +sent");
        } finally {
            world.entente("directory", "change", "fleet", "--protect-group", "").expect(0);
            mail(settings, List.of());
        }
    }

    private HttpResponse<String> mail(MailApi.MailChannel as, List<String> administrators) {
        return api.put(
                "/channels/mail",
                new MailApi.MailSettings(
                        as.host(),
                        as.port(),
                        as.security(),
                        as.login(),
                        null,
                        as.sender(),
                        administrators,
                        null,
                        null));
    }
}
