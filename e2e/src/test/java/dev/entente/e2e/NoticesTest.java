package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.bench.Mailbox;
import dev.entente.wire.MailApi;
import dev.entente.wire.NotificationApi;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.function.BooleanSupplier;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** What people and administrators are told, by their own choice, and what becomes of a message whatever the mail server does. */
class NoticesTest extends PublishingTest {
    private static final String INGEBORG = "ingeborg@skerry.test";
    private static final String LONG = "Notice-Quay-%d-Lantern";

    private MailApi.MailChannel mailBefore;

    @AfterEach
    void asItWas() {
        world.entente("notification", "choose", "--address", "").expect(0);
        if (mailBefore != null) {
            mail(mailBefore.port(), mailBefore.newsPerMinute(), "");
            World.waitUntil(SOON, "mail works", () -> !Boolean.FALSE.equals(mail().works()));
        }
        world.later(Duration.ZERO);
    }

    private MailApi.MailChannel mail() {
        return ApiPerson.JSON.readValue(api.get("/channels/mail").body(), MailApi.MailChannel.class);
    }

    /** Changes how mail is sent; it is as before again when the test is over. */
    private void mail(int port, int pace, String selector) {
        var now = mail();
        if (mailBefore == null) {
            mailBefore = now;
        }
        var set = api.put(
                "/channels/mail",
                new MailApi.MailSettings(
                        now.host(),
                        port,
                        now.security(),
                        now.login(),
                        null,
                        now.sender(),
                        now.administrators(),
                        pace,
                        selector));
        assertThat(set.statusCode()).as(set.body()).isEqualTo(200);
    }

    private ApiPerson recovered(Crew crew) {
        var person = new ApiPerson(world).prove(crew.shore(), crew.address());
        person.choose(LONG.formatted(System.nanoTime())).waitForOutcome(SOON);
        assertThat(person.attempt.state()).isEqualTo("completed");
        return person;
    }

    private List<NotificationApi.Notification> listed(String query) {
        var found = new ArrayList<NotificationApi.Notification>();
        ApiPerson.JSON
                .readTree(api.get("/notifications?" + query).body())
                .path("items")
                .forEach(one -> found.add(ApiPerson.JSON.treeToValue(one, NotificationApi.Notification.class)));
        return found;
    }

    private static String digits(String reference) {
        return reference.replaceAll("[^0-9]", "");
    }

    /** The news about an attempt, once it has ended in this state. */
    private NotificationApi.Notification news(ApiPerson person, String kind, String state) {
        var query = "kind=" + kind + "&reference=" + digits(person.attempt.reference());
        World.waitUntil(
                SOON,
                kind + " is " + state,
                () -> listed(query).stream().anyMatch(n -> n.state().equals(state)));
        return listed(query).get(0);
    }

    private List<Mailbox.Mail> reset(String address) {
        return world.mailbox.to(address).stream()
                .filter(m -> m.subject().equals("Skerry Line: your password was reset"))
                .toList();
    }

    /** What an administrator was told of somebody's alarm, among whatever else came meanwhile. */
    private Stream<Mailbox.Mail> ofAlarm() {
        return world.mailbox.to(INGEBORG).stream()
                .filter(m -> m.subject().equals("Skerry Line: Someone may be attacked")
                        && m.text().contains("this wasn't me")
                        && m.text().contains("/console/audit/attempts/"));
    }

    private void waitFor(String what, BooleanSupplier condition) {
        World.waitUntil(SOON, what, condition);
    }

    @Test
    void every_message_is_found_and_news_is_sent_again_but_no_code() {
        var crew = world.crew();
        var person = recovered(crew);
        var news = news(person, "password-reset", "sent");
        assertThat(news.recipient()).isEqualTo(crew.address().charAt(0) + "…@m….test");
        assertThat(news.text()).isNull();

        var list = world.entente("notification", "list", "--reference", person.attempt.reference())
                .expect(0)
                .out();
        assertThat(list)
                .contains("password-reset", "code", crew.address().charAt(0) + "…@m….test", "sent")
                .doesNotContain(crew.address());
        var shown = world.entente("notification", "show", news.id().toString())
                .expect(0)
                .out();
        assertThat(shown).contains("Your password for Shore, Fleet was reset just now.", "/not-me#…");

        var again = world.entente("notification", "resend", news.id().toString())
                .expect(0)
                .out();
        waitFor("it came again", () -> reset(crew.address()).size() == 2);
        var both = reset(crew.address());
        assertThat(both.get(0).text()).isEqualTo(both.get(1).text());
        assertThat(both.get(0).id()).isNotEqualTo(both.get(1).id());
        var repeated = again.replaceAll("(?s).*show ([0-9a-f-]{36}).*", "$1");
        assertThat(world.entente("notification", "show", repeated).out()).contains("It repeats " + news.id());
        world.onRecord("ingeborg had a message sent again: password-reset.");

        var code = listed("kind=code&reference=" + digits(person.attempt.reference()))
                .get(0);
        assertThat(api.get("/notifications/" + code.id()).body())
                .doesNotContain("12345")
                .contains("\"text\":null");
        assertThat(world.entente("notification", "resend", code.id().toString())
                        .expect(1)
                        .err())
                .contains("isn't sent again");
        assertThat(world.entente("notification", "show", UUID.randomUUID().toString())
                        .expect(1)
                        .err())
                .contains("notification");
        assertThat(api.get("/notifications?reference=1234").body()).contains("not-a-reference");
        assertThat(api.get("/notifications?state=lost").statusCode()).isEqualTo(422);
    }

    @Test
    void pages_of_messages_follow_without_a_gap_or_a_double() {
        var person = recovered(world.crew());
        news(person, "password-reset", "sent");
        var query = "reference=" + digits(person.attempt.reference());
        var all = listed(query);
        assertThat(all).hasSizeGreaterThanOrEqualTo(2);
        var paged = new ArrayList<UUID>();
        String after = null;
        do {
            var page = ApiPerson.JSON.readTree(
                    api.get("/notifications?limit=1&" + query + (after == null ? "" : "&after=" + after))
                            .body());
            paged.add(UUID.fromString(page.path("items").get(0).path("id").asString()));
            after = page.path("after").asString(null);
        } while (after != null);
        assertThat(paged)
                .isEqualTo(all.stream().map(NotificationApi.Notification::id).toList());
    }

    @Test
    void what_is_kept_of_news_is_forgotten_after_a_week() {
        var person = recovered(world.crew());
        var news = news(person, "password-reset", "sent");
        assertThat(news.repeatable()).isTrue();
        world.later(Duration.ofDays(8));
        // Whether the sweep has come by or not.
        assertThat(world.entente("notification", "resend", news.id().toString())
                        .expect(1)
                        .err())
                .contains("isn't kept any more");
        assertThat(listed("reference=" + digits(person.attempt.reference())))
                .noneMatch(NotificationApi.Notification::repeatable);
    }

    @Test
    void mail_is_a_page_for_readers_that_show_one_and_says_the_same() {
        var crew = world.crew();
        recovered(crew);
        waitFor("it came", () -> reset(crew.address()).size() == 1);
        var news = reset(crew.address()).get(0);
        assertThat(news.text()).contains("Your password for Shore, Fleet was reset just now.");
        assertThat(news.html())
                .contains("Your password for Shore, Fleet was reset just now.", "href=\"" + world.url + "/not-me#")
                .doesNotContain("<script", "src=");
        var link = Mailbox.link(news).orElseThrow();
        assertThat(news.html()).contains(link);
        assertThat(news.quiet()).isNull();
    }

    @Test
    void mail_that_is_signed_is_proven_by_another_program_and_not_once_it_was_touched() throws IOException {
        mail(mail().port(), 300, "entente1");
        assertThat(api.put(
                                "/channels/mail",
                                new MailApi.MailSettings(
                                        "127.0.0.1", 25, "none", null, null, "a@b.test", null, null, "no selector"))
                        .body())
                .contains("mail-selector");
        var shown = world.entente("mail", "show").out();
        assertThat(shown).contains("entente1._domainkey.skerry.test TXT v=DKIM1; k=rsa; p=");
        var record = mail().dkimRecord().replaceAll(".* TXT ", "");
        var crew = world.crew();
        recovered(crew);
        waitFor("it came", () -> reset(crew.address()).size() == 1);
        var raw = world.mailbox.raw(reset(crew.address()).get(0));
        assertThat(new String(raw, StandardCharsets.UTF_8)).contains("DKIM-Signature:");
        assertThat(dkim(raw, record)).isEqualTo("True");
        assertThat(dkim(
                        new String(raw, StandardCharsets.UTF_8)
                                .replace("was reset just now", "was reset long ago")
                                .getBytes(StandardCharsets.UTF_8),
                        record))
                .isEqualTo("False");
        assertThat(dkim(
                        new String(raw, StandardCharsets.UTF_8)
                                .replace("your password was reset", "nothing happened")
                                .getBytes(StandardCharsets.UTF_8),
                        record))
                .isEqualTo("False");
    }

    /** Whether Debian's dkimpy finds the signature good, with what the domain would say. */
    private String dkim(byte[] raw, String record) throws IOException {
        var file = Files.write(folder.resolve("signed.eml"), raw);
        try {
            return Installation.run(
                            Map.of(),
                            "/usr/bin/python3",
                            "-c",
                            "import dkim, sys; print(dkim.verify(open(sys.argv[1], 'rb').read(),"
                                    + " dnsfunc=lambda name, timeout=5: sys.argv[2].encode()"
                                    + " if name.startswith(b'entente1._domainkey.skerry.test') else None))",
                            file.toString(),
                            record)
                    .expect(0)
                    .out()
                    .strip();
        } finally {
            Files.delete(file);
        }
    }

    @Test
    void an_alarm_ends_what_is_under_way_and_closes_self_service_until_somebody_has_looked() throws IOException {
        var crew = world.crew();
        pilot("tell: { person: [reset, failure], alarm: close }\n", crew);
        assertThat(world.entente("policy", "show", "pilot").out())
                .contains("self-service is closed for them until an administrator has looked");
        recovered(crew);
        waitFor("it came", () -> reset(crew.address()).size() == 1);
        var token = Mailbox.link(reset(crew.address()).get(0)).orElseThrow().replaceAll(".*#", "");

        var thief = new ApiPerson(world).prove(crew.shore(), crew.address());
        var raised = new ApiPerson(world)
                .call("POST", "/alarms", new PortalApi.Alarm(token, true))
                .as(PortalApi.AlarmRaised.class);
        assertThat(raised.closed()).isTrue();
        // The attempt that it is about was over; the one that was proved meanwhile is ended.
        assertThat(raised.ended()).isFalse();
        assertThat(thief.call("GET", "/attempt/sealing", null).status()).isGreaterThanOrEqualTo(400);
        assertThat(world.entente("attempt", "show", thief.attempt.reference()).out())
                .contains("blocked", "because the person said that it wasn’t them");

        assertThat(explained(crew)).contains("Self-service is closed for this person", "entente person open");
        var before = world.mailbox.to(crew.address()).size();
        var decoy = new ApiPerson(world);
        decoy.attempt = decoy.start(crew.shore()).as(PortalApi.Attempt.class);
        // Whoever asks sees nothing of it.
        decoy.attempt = decoy.ask().as(PortalApi.Attempt.class);
        assertThat(decoy.attempt.state()).isEqualTo("proving");
        assertThat(decoy.answer("12345678").status()).isEqualTo(422);
        assertThat(world.mailbox.to(crew.address())).hasSize(before);
        world.onStatus("Self-service is closed for 1 person who said that something wasn't them.", true);

        assertThat(world.entente("person", "open", crew.shore(), "--reason", " ")
                        .expect(1)
                        .err())
                .contains("Give a reason");
        world.entente("person", "open", crew.shore(), "--reason", "called them back")
                .expect(0);
        assertThat(world.entente("person", "open", crew.shore(), "--reason", "again")
                        .expect(1)
                        .err())
                .contains("isn't closed");
        assertThat(explained(crew)).contains("possible").doesNotContain("closed");
        world.onStatus("Self-service is closed", false);

        // Whoever keeps the old link raises an alarm by it and locks nobody out again.
        var second = new ApiPerson(world)
                .call("POST", "/alarms", new PortalApi.Alarm(token, true))
                .as(PortalApi.AlarmRaised.class);
        assertThat(second.closed()).isFalse();
        recovered(crew);
        world.onRecord(
                "Self-service is closed for " + name(crew),
                "ingeborg opened self-service for " + name(crew) + " again: called them back.");
    }

    private PortalApi.AlarmAsked follows(String token) {
        return new ApiPerson(world)
                .call("POST", "/alarms/find", new PortalApi.Alarm(token, null))
                .as(PortalApi.AlarmAsked.class);
    }

    @Test
    void what_an_alarm_brings_about_is_said_first_and_closing_is_asked_for() throws IOException {
        var crew = world.crew();
        pilot("tell: { person: [reset, failure], alarm: close }\n", crew);
        recovered(crew);
        waitFor("it came", () -> reset(crew.address()).size() == 1);
        var token = Mailbox.link(reset(crew.address()).get(0)).orElseThrow().replaceAll(".*#", "");
        assertThat(follows(token)).isEqualTo(new PortalApi.AlarmAsked(false, true));
        var raised = new ApiPerson(world)
                .call("POST", "/alarms", new PortalApi.Alarm(token, null))
                .as(PortalApi.AlarmRaised.class);
        assertThat(raised.closed()).as("nobody asked for it").isFalse();
        assertThat(explained(crew)).doesNotContain("closed");
        assertThat(follows(token))
                .as("what was raised once closes nothing later")
                .isEqualTo(new PortalApi.AlarmAsked(false, false));
    }

    @Test
    void in_a_message_about_strangers_nobody_locks_themselves_out() throws IOException {
        var crew = world.crew();
        pilot("tell: { person: [reset, failure], alarm: close }\n", crew);
        for (var i = 0; i < 4; i++) {
            var stranger = new ApiPerson(world);
            stranger.network = "198.51.100." + (10 + i);
            stranger.start(crew.shore());
            stranger.attempt = stranger.ask().as(PortalApi.Attempt.class);
            for (var guess = 0; guess < 5; guess++) {
                stranger.answer("1234567" + guess);
            }
        }
        var about = "someone keeps trying your name";
        waitFor(
                "the person is told",
                () -> world.mailbox.to(crew.address()).stream()
                        .anyMatch(mail -> mail.subject().contains(about)));
        var mail = world.mailbox.to(crew.address()).stream()
                .filter(m -> m.subject().contains(about))
                .findFirst()
                .orElseThrow();
        assertThat(mail.text().split("(?i)no one got in|nobody got in", -1))
                .as("said once:\n" + mail.text())
                .hasSize(2);
        var token = Mailbox.link(mail).orElseThrow().replaceAll(".*#", "");
        assertThat(follows(token).mayClose()).isFalse();
        assertThat(new ApiPerson(world)
                        .call("POST", "/alarms", new PortalApi.Alarm(token, true))
                        .as(PortalApi.AlarmRaised.class)
                        .closed())
                .isFalse();
        assertThat(explained(crew)).doesNotContain("Self-service is closed");
    }

    @Test
    void an_alarm_about_what_an_administrator_changed_is_raised_as_any_other() throws IOException {
        var crew = world.crew();
        var own = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        own.setUp("recovery-code", null);
        own.call("POST", "/attempt/end", null);
        var before = world.mailbox.to(crew.address()).size();
        var id = world.entente("person", "methods", crew.shore(), "--output", "csv")
                .expect(0)
                .out()
                .lines()
                .filter(line -> line.contains("recovery-code"))
                .flatMap(line -> java.util.regex.Pattern.compile("[0-9a-f-]{36}")
                        .matcher(line)
                        .results())
                .map(java.util.regex.MatchResult::group)
                .findFirst()
                .orElseThrow();
        world.entente("person", "remove-method", crew.shore(), id).expect(0);
        var told = world.mailbox.next(crew.address(), before);
        assertThat(told.text()).contains("recovery code");
        var token = Mailbox.link(told).orElseThrow().replaceAll(".*#", "");
        assertThat(follows(token)).isEqualTo(new PortalApi.AlarmAsked(false, false));
        var raised = new ApiPerson(world).call("POST", "/alarms", new PortalApi.Alarm(token, null));
        assertThat(raised.status()).as(raised.body()).isEqualTo(201);
        world.onRecord("The person raised an alarm: this wasn't me.");
    }

    @Test
    void a_new_method_is_told_by_its_kind_and_its_label_is_no_sentence_and_no_link() {
        var crew = world.crew();
        var own = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        own.setUp("recovery-code", "nothing (test). Help: https://evil.test/in");
        waitFor("the person is told", () -> methodsChanged(crew).size() == 1);
        var text = methodsChanged(crew).get(0).text();
        assertThat(text)
                .contains("newly set up: recovery code “nothing test Help https evil")
                .doesNotContain("evil.test", "https://evil");
    }

    @Test
    void an_alarm_about_an_attempt_that_is_still_open_ends_it() {
        var crew = world.crew();
        var thief = new ApiPerson(world).wants("details").prove(crew.shore(), crew.address());
        thief.setUp("recovery-code", null);
        waitFor("the person is told", () -> methodsChanged(crew).size() == 1);
        var token = Mailbox.link(methodsChanged(crew).get(0)).orElseThrow().replaceAll(".*#", "");
        var raised = new ApiPerson(world)
                .call("POST", "/alarms", new PortalApi.Alarm(token, true))
                .as(PortalApi.AlarmRaised.class);
        assertThat(raised.ended()).isTrue();
        // The policy says nothing of closing.
        assertThat(raised.closed()).isFalse();
        assertThat(explained(crew)).doesNotContain("closed");
        assertThat(thief.call("POST", "/attempt/enrolments", new PortalApi.NewEnrolment("app-code", null))
                        .status())
                .isGreaterThanOrEqualTo(400);
        assertThat(world.entente("attempt", "show", thief.attempt.reference()).out())
                .contains("blocked");
        assertThat(new ApiPerson(world)
                        .call("POST", "/alarms", new PortalApi.Alarm("no-such-link", true))
                        .status())
                .isEqualTo(404);
    }

    private List<Mailbox.Mail> methodsChanged(Crew crew) {
        return world.mailbox.to(crew.address()).stream()
                .filter(m -> m.subject().equals("Skerry Line: your methods have changed"))
                .toList();
    }

    @Test
    void people_choose_not_to_be_told_of_what_the_policy_lets_them() throws IOException {
        var crew = world.crew();
        pilot("tell: { person: [reset, change], may-switch-off: [reset] }\n", crew);
        recovered(crew);
        waitFor("it came", () -> reset(crew.address()).size() == 1);
        var quiet = reset(crew.address()).get(0).quiet();
        assertThat(quiet).startsWith("<" + world.url + "/quiet#");
        assertThat(reset(crew.address()).get(0).text()).contains("Get fewer of these: " + quiet.replaceAll("[<>]", ""));
        var token = quiet.replaceAll(".*#|>", "");
        var person = new ApiPerson(world);
        assertThat(person.call("POST", "/quiet", new PortalApi.Quiet(token, true))
                        .as(PortalApi.Told.class))
                .isEqualTo(new PortalApi.Told("reset", false));
        var silent = recovered(crew);
        assertThat(silent.attempt.mailed()).isFalse();
        assertThat(listed("kind=password-reset&reference=" + digits(silent.attempt.reference())))
                .isEmpty();
        assertThat(person.call("POST", "/quiet", new PortalApi.Quiet(token, false))
                        .as(PortalApi.Told.class))
                .isEqualTo(new PortalApi.Told("reset", true));
        news(recovered(crew), "password-reset", "sent");
        world.onRecord("The person chose not to be told any more: reset.", "The person chose to be told again: reset.");
        assertThat(person.call("POST", "/quiet", new PortalApi.Quiet("nonsense", true))
                        .status())
                .isEqualTo(404);

        write(
                "policies/pilot.yaml",
                Files.readString(folder.resolve("policies/pilot.yaml"))
                        .replace("may-switch-off: [reset]", "may-switch-off: [new-method]"));
        world.entente("draft", "start", "--name", "quiet").expect(0);
        var refused = world.entente("draft", "load", folder.toString()).expect(1);
        assertThat(refused.out() + refused.err()).contains("of new methods people are always told");
    }

    @Test
    void an_administrator_is_told_what_they_chose_at_once_or_once_a_day() throws IOException {
        assertThat(world.entente("notification", "chosen").out()).contains("You are told of nothing by mail");
        assertThat(world.entente("notification", "choose", "--address", "no address")
                        .expect(1)
                        .err())
                .contains("must be one such as");
        assertThat(world.entente("notification", "choose", "weather=daily")
                        .expect(1)
                        .err())
                .contains("There is no notice of \"weather\"");
        assertThat(world.entente("notification", "choose", "attack=never")
                        .expect(1)
                        .err())
                .contains("off, at-once or daily");
        var chosen = world.entente(
                        "notification",
                        "choose",
                        "--address",
                        INGEBORG,
                        "--hour",
                        "5",
                        "policies=daily",
                        "attack=at-once")
                .expect(0)
                .out();
        assertThat(chosen).containsPattern("policies +daily").containsPattern("attack +at-once");

        var crew = world.crew();
        recovered(crew);
        waitFor("it came", () -> reset(crew.address()).size() == 1);
        var token = Mailbox.link(reset(crew.address()).get(0)).orElseThrow().replaceAll(".*#", "");
        new ApiPerson(world)
                .call("POST", "/alarms", new PortalApi.Alarm(token, true))
                .as(PortalApi.AlarmRaised.class);
        waitFor("the alarm is told at once", () -> ofAlarm().findFirst().isPresent());
        assertThat(ofAlarm().findFirst().orElseThrow().quiet()).isEqualTo("<" + world.url + "/console/settings>");
        assertThat(listed("kind=administrator-notice").get(0).administrator()).isEqualTo("ingeborg");

        var reason = "daily list " + System.nanoTime();
        world.entente("stop", "method:push", "--reason", reason).expect(0);
        world.entente("resume", "method:push").expect(0);
        waitFor(
                "it waits for the daily list",
                () -> world.query(
                                "SELECT count(*) FROM notice_waiting w JOIN event e ON e.id = w.event WHERE e.data->>'reason' = '"
                                        + reason + "'")
                        .equals("1"));
        assertThat(world.mailbox.to(INGEBORG)).noneMatch(m -> m.text().contains(reason));
        world.later(Duration.ofDays(1));
        waitFor(
                "the daily list came",
                () -> world.mailbox.to(INGEBORG).stream()
                        .anyMatch(m -> m.subject().contains("since yesterday")
                                && m.text().contains(reason)
                                && m.html().contains("<li>")));
        assertThat(world.query("SELECT count(*) FROM notice_waiting WHERE due_at <= entente_now()"))
                .isEqualTo("0");
    }

    @Test
    void whoever_brings_about_many_events_fills_no_mailbox() {
        world.entente("notification", "choose", "--address", INGEBORG, "policies=at-once")
                .expect(0);
        // An hour of which nothing is used up yet.
        world.later(Duration.ofMinutes(100));
        world.query("DELETE FROM notice_waiting");
        // What others did just before may be told in the same hour, so that only these are counted.
        var reason = "again and again " + System.nanoTime();
        for (var i = 0; i < 12; i++) {
            world.entente("stop", "method:push", "--reason", reason).expect(0);
            world.entente("resume", "method:push").expect(0);
        }
        waitFor("each came or waits", () -> told(reason) + waiting(reason) == 12);
        assertThat(told(reason)).isBetween(1L, 10L);
        world.query("DELETE FROM notice_waiting");
    }

    private long told(String reason) {
        return world.mailbox.to(INGEBORG).stream()
                .filter(m -> m.subject().contains("Policies were published or stopped")
                        && m.text().replaceAll("\\s+", " ").contains(reason))
                .count();
    }

    private long waiting(String reason) {
        return Long.parseLong(world.query("SELECT count(*) FROM notice_waiting w JOIN event e ON e.id = w.event"
                + " WHERE e.data->>'reason' = '" + reason + "'"));
    }

    @Test
    void what_needs_attention_is_on_record_when_it_appears_and_when_it_is_settled() {
        var reason = "attention " + System.nanoTime();
        world.entente("stop", "method:push", "--reason", reason).expect(0);
        world.later(Duration.ofMinutes(2));
        world.onRecord("This needs attention: Stopped: method:push, because " + reason + ".");
        world.entente("resume", "method:push").expect(0);
        world.later(Duration.ofMinutes(4));
        world.onRecord("This doesn’t need attention any more: Stopped: method:push, because " + reason + ".");
    }

    @Test
    void news_goes_at_a_pace_and_never_before_a_code() {
        var first = world.crew();
        var news = news(recovered(first), "password-reset", "sent");
        // A minute later, so that what other tests sent does not count.
        world.later(Duration.ofMinutes(2));
        mail(mail().port(), 2, "");
        for (var i = 0; i < 5; i++) {
            world.entente("notification", "resend", news.id().toString()).expect(0);
        }
        // Codes of somebody else go at once, in front of all that waits.
        var other = world.crew();
        new ApiPerson(world).prove(other.shore(), other.address());
        waitFor("two went", () -> again(news, "sent") == 2);
        assertThat(again(news, "queued")).isEqualTo(3);
        world.later(Duration.ofSeconds(200));
        waitFor("two more went", () -> again(news, "sent") == 4);
        assertThat(again(news, "queued")).isEqualTo(1);
        world.later(Duration.ofSeconds(300));
        waitFor("the last one went", () -> again(news, "sent") == 5);
    }

    private long again(NotificationApi.Notification of, String state) {
        return listed("kind=password-reset&state=" + state + "&limit=200").stream()
                .filter(n -> of.id().equals(n.againOf()))
                .count();
    }

    @Test
    void whatever_a_mail_server_does_nothing_is_lost_or_doubled_without_saying_so() throws IOException {
        var crew = world.crew();
        var news = news(recovered(crew), "password-reset", "sent");
        try (var server = new MailServerDouble()) {
            mail(server.port(), 300, "");
            for (var behaviour : MailServerDouble.Behaviour.values()) {
                server.behave(behaviour);
                var taken = server.taken();
                var ran = world.entente("notification", "resend", news.id().toString())
                        .expect(0)
                        .out();
                var id = ran.replaceAll("(?s).*show ([0-9a-f-]{36}).*", "$1");
                waitFor(behaviour + " ends", () -> !List.of("queued", "sending").contains(one(id).state()));
                var ended = one(id);
                assertThat(ended.state()).as(behaviour + ": " + ended.why()).isEqualTo(behaviour.state);
                assertThat(server.taken() - taken).as(behaviour.toString()).isEqualTo(behaviour.taken);
                if (behaviour.why != null) {
                    assertThat(ended.why())
                            .as(behaviour.toString())
                            .contains(behaviour.why)
                            .doesNotContain(crew.address());
                }
                if (behaviour.tries > 0) {
                    assertThat(ended.tries()).as(behaviour.toString()).isEqualTo(behaviour.tries);
                }
            }
        }
    }

    private NotificationApi.Notification one(String id) {
        return ApiPerson.JSON.readValue(api.get("/notifications/" + id).body(), NotificationApi.Notification.class);
    }

    @Test
    void a_message_is_previewed_for_somebody_and_sent_as_a_test() {
        var crew = world.crew();
        var preview = world.entente("message", "show", "password-reset", "--person", crew.shore())
                .expect(0)
                .out();
        assertThat(preview).contains("Hello " + name(crew), "Your password for shore, fleet was reset");
        world.entente("message", "test", "password-reset", "--to", INGEBORG, "--person", crew.shore())
                .expect(0);
        waitFor(
                "the test came",
                () -> world.mailbox.to(INGEBORG).stream().anyMatch(m -> m.text().contains("Hello " + name(crew))));
        assertThat(world.entente("message", "test", "no-such", "--to", INGEBORG)
                        .expect(1)
                        .err())
                .contains("no-such");
        assertThat(world.entente("message", "test", "code", "--to", "nowhere")
                        .expect(1)
                        .err())
                .contains("address");
    }
}
