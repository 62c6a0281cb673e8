package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.AttemptApi;
import java.time.Duration;
import java.util.List;
import java.util.stream.Collectors;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** Deliveries. */
@Command(
        name = "delivery",
        addMethodSubcommands = false,
        description = "Look at deliveries: which steward has them, how long they took, what the directory answered.")
final class DeliveryCommands {
    @ParentCommand
    private Entente entente;

    @Command(name = "list", description = "Deliveries, newest first.")
    int list(
            @Option(names = "--state", description = "waiting, leased, begun, done, refused, failed or unknown")
                    String state,
            @Option(names = "--directory", paramLabel = "NAME") String directory,
            @Option(names = "--cause", description = "a cause such as no-right, as the column CAUSE shows it")
                    String cause,
            @Option(names = "--limit", defaultValue = "20", description = "at most this many (${DEFAULT-VALUE})")
                    Limit limit) {
        var deliveries = limit.of(
                entente.api(),
                "/deliveries?" + filter("state", state) + filter("directory", directory) + filter("cause", cause),
                AttemptApi.Delivery.class);
        entente.printer()
                .list(
                        deliveries,
                        "No delivery matches.",
                        List.of(
                                new Column<>("STARTED", d -> Printer.time(d.createdAt())),
                                new Column<>("REFERENCE", AttemptApi.Delivery::reference),
                                new Column<>("ACTION", AttemptApi.Delivery::action),
                                new Column<>("DIRECTORY", AttemptApi.Delivery::directory),
                                new Column<>("LOGIN", AttemptApi.Delivery::login),
                                new Column<>("STATE", AttemptApi.Delivery::state),
                                new Column<>("STEWARD", AttemptApi.Delivery::steward),
                                new Column<>("MS", DeliveryCommands::took),
                                new Column<>("CAUSE", AttemptApi.Delivery::code),
                                new Column<>("DELIVERY", AttemptApi.Delivery::id)));
        return Entente.DONE;
    }

    private static Long took(AttemptApi.Delivery delivery) {
        return delivery.endedAt() == null
                ? null
                : Duration.between(delivery.createdAt(), delivery.endedAt()).toMillis();
    }

    private static String filter(String name, String value) {
        return value == null ? "" : "&" + name + "=" + Api.encoded(value);
    }

    @Command(name = "show", description = "One delivery: each phase, the raw result, the cause and what to do.")
    int show(@Parameters(paramLabel = "DELIVERY", description = "its id, from entente delivery list") String id) {
        var delivery = entente.api().get(Api.at("/deliveries/{}", id), AttemptApi.Delivery.class);
        entente.printer().one(delivery, () -> {
            System.out.println(delivery.action() + " of " + delivery.login() + " in " + delivery.directory() + ": "
                    + delivery.state());
            line("reference", delivery.reference());
            line("started", Printer.time(delivery.createdAt()));
            line("ended", Printer.time(delivery.endedAt()));
            line("steward", delivery.steward());
            line("taken", delivery.epoch() + (delivery.epoch() == 1 ? " time" : " times"));
            line("server", delivery.server());
            line(
                    "version",
                    delivery.versionBefore() == null
                            ? null
                            : delivery.versionBefore()
                                    + (delivery.versionAfter() == null ? "" : " → " + delivery.versionAfter()));
            line("bind", delivery.bind());
            line(
                    "phases",
                    delivery.phases().entrySet().stream()
                            .map(p -> p.getKey() + " " + p.getValue() + " ms")
                            .collect(Collectors.joining(", ")));
            line("raw", delivery.detail());
            line("cause", delivery.cause());
            line("→", delivery.whatToDo());
        });
        return Entente.DONE;
    }

    private static void line(String name, String value) {
        if (value != null && !value.isEmpty()) {
            System.out.printf("  %-10s %s%n", name, value);
        }
    }
}
