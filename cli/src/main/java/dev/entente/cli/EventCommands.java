package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.Page;
import dev.entente.wire.RecordApi;
import java.util.List;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.ParentCommand;
import tools.jackson.databind.JavaType;

/** The record. */
@Command(name = "event", description = "Look at the record.")
final class EventCommands {
    private static final JavaType PAGE = Api.page(RecordApi.Event.class);

    @ParentCommand
    private Entente entente;

    @Command(name = "list", description = "Sealed events, newest first.")
    int list(
            @Option(names = "--limit", defaultValue = "30", description = "at most this many (${DEFAULT-VALUE})")
                    Limit limit) {
        var events = limit.of(entente.api(), "/events?", RecordApi.Event.class);
        entente.printer()
                .list(
                        events,
                        "No event yet.",
                        List.of(
                                new Column<>("SEQ", RecordApi.Event::seq),
                                new Column<>("TIME", e -> Printer.time(e.at())),
                                new Column<>("KIND", RecordApi.Event::kind),
                                new Column<>("REFERENCE", RecordApi.Event::reference),
                                new Column<>("WHAT HAPPENED", RecordApi.Event::sentence)));
        return Entente.DONE;
    }

    @Command(name = "follow", description = "Print events as they are sealed, until stopped.")
    int follow(
            @Option(names = "--from", description = "position to begin at; else only new ones") Long from,
            @Option(names = "--for", paramLabel = "SECONDS", description = "stop after this long") Long seconds)
            throws InterruptedException {
        var until = seconds == null ? Long.MAX_VALUE : System.currentTimeMillis() + seconds * 1000;
        var next = from == null
                ? entente.api().get("/today", RecordApi.Today.class).recordSize()
                : from;
        while (System.currentTimeMillis() < until) {
            Page<RecordApi.Event> page = entente.api().get(Api.at("/events/from/{}", next), PAGE);
            for (var event : page.items()) {
                if (entente.printer().forPeople()) {
                    System.out.println(Printer.time(event.at()) + "  "
                            + (event.reference() == null ? "-" : event.reference()) + "  " + event.sentence());
                } else {
                    System.out.println(Api.JSON.writeValueAsString(event));
                }
            }
            next = Long.parseLong(page.after());
            if (page.items().isEmpty()) {
                Thread.sleep(500);
            }
        }
        return Entente.DONE;
    }
}
