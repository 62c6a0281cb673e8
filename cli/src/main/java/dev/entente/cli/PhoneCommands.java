package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.PhoneApi;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.math.BigDecimal;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** Text messages and calls. */
@Command(
        name = "phone",
        addMethodSubcommands = false,
        description = "Set up and test how text messages and calls are sent.")
final class PhoneCommands {
    @ParentCommand
    private Entente entente;

    private PhoneApi.PhoneChannel channel() {
        return entente.api().get("/channels/phone", PhoneApi.PhoneChannel.class);
    }

    @Command(name = "show", description = "The gateways in order, whether they work, the limits, and what was spent.")
    int show() {
        var channel = channel();
        entente.printer().one(channel, () -> {
            entente.printer()
                    .list(
                            channel.gateways(),
                            "No gateway is set up, so no text message or call is sent. Add one: entente phone add-gateway",
                            List.of(
                                    new Column<>("GATEWAY", PhoneApi.Gateway::name),
                                    new Column<>("ADDRESS", PhoneApi.Gateway::url),
                                    new Column<>("SENDS", g -> String.join(", ", g.sends())),
                                    new Column<>("PRICE", g -> g.price().toPlainString()),
                                    new Column<>(
                                            "WORKS",
                                            g -> g.works() == null
                                                    ? "not tried yet"
                                                    : g.works() ? "yes" : "NO: " + g.why())));
            System.out.println("Within an hour at most " + channel.perNumber() + " messages go to a number, "
                    + channel.perPrefix() + " to numbers that are alike but for their last four digits, and "
                    + channel.perCountry() + " to a country.");
            channel.spent()
                    .forEach(s -> System.out.printf(
                            "  %s  %-20s %-6s %6d  %s%n",
                            s.day(),
                            s.gateway(),
                            s.channel(),
                            s.messages(),
                            s.cost().toPlainString()));
        });
        return channel.gateways().stream().anyMatch(g -> Boolean.FALSE.equals(g.works()))
                ? Entente.REFUSED
                : Entente.DONE;
    }

    private void put(List<PhoneApi.NewGateway> gateways, Integer perNumber, Integer perPrefix, Integer perCountry) {
        entente.api().put("/channels/phone", new PhoneApi.PhoneSettings(gateways, perNumber, perPrefix, perCountry));
    }

    private static PhoneApi.NewGateway same(PhoneApi.Gateway gateway) {
        return new PhoneApi.NewGateway(gateway.name(), gateway.url(), null, gateway.sends(), gateway.price());
    }

    @Command(
            name = "add-gateway",
            description = "Add a gateway at the end of the order, or change the one with this name.")
    int add(
            @Parameters(paramLabel = "NAME") String name,
            @Parameters(paramLabel = "URL", description = "where it takes messages, https://…") String url,
            @Option(
                            names = "--secret-file",
                            paramLabel = "FILE",
                            description = "holds the secret that both sign with; if omitted, it's asked for")
                    Path secretFile,
            @Option(
                            names = "--sends",
                            split = ",",
                            defaultValue = "text,voice",
                            paramLabel = "KIND",
                            description = "text, voice, or both; ${DEFAULT-VALUE} if omitted")
                    List<String> sends,
            @Option(names = "--price", defaultValue = "0", description = "of one message, to count what is spent")
                    BigDecimal price) {
        var gateways = new ArrayList<PhoneApi.NewGateway>();
        var added = new PhoneApi.NewGateway(name, url, secret(secretFile), sends, price);
        var known = false;
        for (var gateway : channel().gateways()) {
            known |= gateway.name().equals(name);
            gateways.add(gateway.name().equals(name) ? added : same(gateway));
        }
        if (!known) {
            gateways.add(added);
        }
        put(gateways, null, null, null);
        System.err.println("Saved. Test it: entente phone test NUMBER --gateway " + name);
        return Entente.DONE;
    }

    private static String secret(Path file) {
        try {
            return file == null
                    ? AccessCommands.password("Secret of the gateway")
                    : Files.readString(file).strip();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    @Command(name = "remove-gateway", description = "Send nothing through a gateway any more.")
    int remove(@Parameters(paramLabel = "NAME") String name) {
        var gateways = channel().gateways();
        if (gateways.stream().noneMatch(g -> g.name().equals(name))) {
            System.err.println("entente: there is no gateway \"" + name + "\"; see entente phone show");
            return Entente.REFUSED;
        }
        put(
                gateways.stream()
                        .filter(g -> !g.name().equals(name))
                        .map(PhoneCommands::same)
                        .toList(),
                null,
                null,
                null);
        System.err.println("The gateway " + name + " is removed.");
        return Entente.DONE;
    }

    @Command(name = "limit", description = "Set how many messages are sent within an hour at most.")
    int limit(
            @Option(names = "--per-number", paramLabel = "COUNT") Integer perNumber,
            @Option(
                            names = "--per-prefix",
                            paramLabel = "COUNT",
                            description = "to numbers that are alike but for their last four digits")
                    Integer perPrefix,
            @Option(names = "--per-country", paramLabel = "COUNT") Integer perCountry) {
        put(channel().gateways().stream().map(PhoneCommands::same).toList(), perNumber, perPrefix, perCountry);
        System.err.println("Saved.");
        return Entente.DONE;
    }

    @Command(name = "test", description = "Send a test message, or have a test call made. Exits with 1 if it fails.")
    int test(
            @Parameters(paramLabel = "NUMBER", description = "with its country code, such as your own") String number,
            @Option(names = "--gateway", paramLabel = "NAME", description = "if omitted, the first") String gateway,
            @Option(names = "--voice", description = "a call instead of a text message") boolean voice) {
        var tried = entente.api()
                .post(
                        "/channels/phone/test",
                        new PhoneApi.PhoneTest(gateway, number, voice ? "voice" : "text"),
                        PhoneApi.PhoneTried.class);
        entente.printer()
                .one(
                        tried,
                        () -> System.out.println(
                                tried.taken()
                                        ? "The gateway " + tried.gateway() + " took the message."
                                        : "NOT SENT: " + tried.gateway() + ": " + tried.why()));
        return tried.taken() ? Entente.DONE : Entente.REFUSED;
    }
}
