package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.NotificationApi;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** Messages that were sent or wait, and what you are told of yourself. */
@Command(
        name = "notification",
        addMethodSubcommands = false,
        description = "Find what was sent to people and administrators, send news again, and choose what you are told.")
final class NotificationCommands {
    @ParentCommand
    private Entente entente;

    @Command(name = "list", description = "Messages, newest first.")
    int list(
            @Option(names = "--state", description = "queued, sending, sent, failed, uncertain, expired or bounced")
                    String state,
            @Option(names = "--message", paramLabel = "NAME", description = "from entente message list") String kind,
            @Option(names = "--channel", description = "mail, text or voice") String channel,
            @Option(names = "--person", paramLabel = "PERSON", description = "login name, id or part of the name")
                    String person,
            @Option(names = "--reference", paramLabel = "REFERENCE", description = "of the attempt it is about")
                    String reference,
            @Option(names = "--since", paramLabel = "TIME", description = "2026-11-29T08:00, or a date") String since,
            @Option(names = "--until", paramLabel = "TIME", description = "the moment after the last, or the last day")
                    String until,
            @Option(names = "--limit", defaultValue = "50", description = "at most so many; ${DEFAULT-VALUE}")
                    Limit limit) {
        var filters = new ArrayList<String>();
        add(filters, "state", state);
        add(filters, "kind", kind);
        add(filters, "channel", channel);
        add(filters, "person", person == null ? null : entente.api().whose(person));
        add(filters, "reference", reference);
        add(filters, "since", Times.moment(since, false));
        add(filters, "until", Times.moment(until, true));
        var found = limit.of(
                entente.api(), "/notifications?" + String.join("&", filters), NotificationApi.Notification.class);
        entente.printer()
                .list(
                        found,
                        "No message like that.",
                        List.of(
                                new Column<>("ID", NotificationApi.Notification::id),
                                new Column<>("QUEUED", n -> Printer.time(n.createdAt())),
                                new Column<>("MESSAGE", NotificationApi.Notification::kind),
                                new Column<>("BY", NotificationApi.Notification::channel),
                                new Column<>(
                                        "TO",
                                        n -> (n.administrator() == null ? "" : n.administrator() + " ")
                                                + (n.recipient() == null ? "(no one)" : n.recipient())),
                                new Column<>("ABOUT", n -> n.reference() == null ? "" : n.reference()),
                                new Column<>("STATE", NotificationCommands::state)));
        return Entente.DONE;
    }

    private static void add(List<String> filters, String name, String value) {
        if (value != null) {
            filters.add(name + "=" + Api.encoded(value));
        }
    }

    private static String state(NotificationApi.Notification one) {
        return one.state()
                + (one.arrival() == null ? "" : ", " + one.arrival())
                + (one.why() == null ? "" : ": " + one.why());
    }

    @Command(name = "show", description = "One message, what became of it, and what it says while that is kept.")
    int show(@Parameters(paramLabel = "ID", description = "from entente notification list") String id) {
        print(entente.api().get(Api.at("/notifications/{}", id), NotificationApi.Notification.class));
        return Entente.DONE;
    }

    private void print(NotificationApi.Notification one) {
        entente.printer().one(one, () -> {
            System.out.println(one.kind() + " by " + one.channel() + " to "
                    + (one.recipient() == null ? "no one" : one.recipient())
                    + (one.administrator() == null ? "" : ", the administrator " + one.administrator())
                    + (one.reference() == null ? "" : ", about " + one.reference()));
            System.out.println("Queued " + Printer.time(one.createdAt()) + ", " + state(one)
                    + (one.endedAt() == null ? "" : " " + Printer.time(one.endedAt()))
                    + (one.nextTry() == null ? "" : "; next try " + Printer.time(one.nextTry()))
                    + (one.tries() > 1 ? ", after " + one.tries() + " tries" : "") + ".");
            if (one.againOf() != null) {
                System.out.println("It repeats " + one.againOf() + ".");
            }
            System.out.println(
                    one.text() == null
                            ? "What it says isn't kept."
                            : "\n"
                                    + (one.text().subject() == null
                                            ? ""
                                            : one.text().subject() + "\n\n")
                                    + one.text().text().stripTrailing());
        });
    }

    @Command(
            name = "resend",
            description =
                    "Send news again, such as after a mailbox was full. Codes aren't sent again; ask for another one.")
    int resend(@Parameters(paramLabel = "ID", description = "from entente notification list") String id) {
        var again = entente.api()
                .post(Api.at("/notifications/{}/repetitions", id), null, NotificationApi.Notification.class);
        entente.printer().one(again, () -> System.out.println("Queued again: entente notification show " + again.id()));
        return Entente.DONE;
    }

    @Command(name = "chosen", description = "What you are told of, where, and when.")
    int chosen() {
        print(entente.api().get("/me/notices", NotificationApi.Notices.class));
        return Entente.DONE;
    }

    private void print(NotificationApi.Notices notices) {
        entente.printer().one(notices, () -> {
            System.out.println(
                    notices.address() == null
                            ? "You are told of nothing by mail. Say where: entente notification choose --address ADDRESS"
                            : "You are told at " + notices.address() + "; the daily list goes at " + notices.hour()
                                    + ":00 UTC.");
            var widest = notices.concerns().stream()
                    .mapToInt(c -> c.name().length())
                    .max()
                    .orElse(0);
            notices.concerns()
                    .forEach(c -> System.out.printf(
                            "  %-" + widest + "s  %-8s  %s%n",
                            c.name(),
                            notices.paces().get(c.name()),
                            c.words()));
        });
    }

    @Command(
            name = "choose",
            description = {
                "Choose what you are told of, where, and when. What you don't name stays as it is.",
                "For example: entente notification choose --address me@example.org stewards=daily policies=off"
            })
    int choose(
            @Parameters(
                            paramLabel = "CONCERN=PACE",
                            arity = "0..*",
                            description = "a name from entente notification chosen, and off, at-once or daily")
                    Map<String, String> paces,
            @Option(names = "--address", paramLabel = "ADDRESS", description = "\"\" for nowhere") String address,
            @Option(names = "--hour", paramLabel = "N", description = "of the daily list, UTC, 0 to 23") Integer hour) {
        var now = entente.api().get("/me/notices", NotificationApi.Notices.class);
        var all = new TreeMap<>(now.paces());
        if (paces != null) {
            all.putAll(paces);
        }
        var chosen = entente.api()
                .put(
                        "/me/notices",
                        new NotificationApi.NoticesWanted(
                                address == null ? now.address() : address, all, hour == null ? now.hour() : hour),
                        NotificationApi.Notices.class);
        print(chosen);
        return Entente.DONE;
    }
}
