package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.PolicyApi;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Locale;
import java.util.concurrent.Callable;
import java.util.regex.Pattern;
import picocli.CommandLine.ArgGroup;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** The stop switch. */
final class StopCommands {
    private static final Pattern SPAN = Pattern.compile("(\\d{1,5})([mhd])");

    private StopCommands() {}

    @Command(
            name = "stop",
            description = {
                "Stop something immediately, for everyone, without a draft.",
                "WHAT is everything, action:reset, method:email-code, directory:NAME, policy:NAME or network:203.0.113.0/24."
            })
    static final class Stop implements Callable<Integer> {
        @ParentCommand
        private Entente entente;

        @Parameters(paramLabel = "WHAT")
        private String what;

        @Option(names = "--reason", required = true, description = "one line, kept on record")
        private String reason;

        @ArgGroup
        private End end;

        static final class End {
            @Option(
                    names = "--for",
                    paramLabel = "SPAN",
                    description = "resume automatically after this long: 30m, 2h or 1d")
            private String span;

            @Option(
                    names = "--until",
                    paramLabel = "TIME",
                    description = "resume automatically at this time, such as 2026-12-24T08:00 on this machine's clock")
            private Instant time;

            Instant at(Instant now) {
                return span != null ? now.plus(duration(span)) : time;
            }
        }

        @Override
        public Integer call() {
            var until = end == null ? null : end.at(Instant.now());
            var stops = entente.api().post("/stops", new PolicyApi.NewStop(what, reason, until), PolicyApi.Stops.class);
            print(entente, stops.stops());
            return Entente.DONE;
        }
    }

    @Command(name = "resume", description = "Resume something that was stopped.")
    static final class Resume implements Callable<Integer> {
        @ParentCommand
        private Entente entente;

        @Parameters(paramLabel = "WHAT", description = "as entente stops shows it")
        private String what;

        @Override
        public Integer call() {
            entente.api().delete("/stops?what=" + Api.encoded(what), null);
            System.err.println("Resumed " + what + ".");
            return Entente.DONE;
        }
    }

    @Command(name = "stops", description = "What is stopped now and what was. Exits with 1 while anything is.")
    static final class Stops implements Callable<Integer> {
        @ParentCommand
        private Entente entente;

        @Override
        public Integer call() {
            var stops = entente.api().get("/stops", PolicyApi.Stops.class).stops();
            print(entente, stops);
            return stops.stream().anyMatch(stop -> stop.ended() == null) ? Entente.REFUSED : Entente.DONE;
        }
    }

    private static Duration duration(String span) {
        var match = SPAN.matcher(span.toLowerCase(Locale.ROOT));
        if (!match.matches()) {
            throw new IllegalArgumentException(
                    "--for takes a number with m, h or d, such as 30m, 2h or 1d, not \"" + span + "\"");
        }
        var count = Long.parseLong(match.group(1));
        return switch (match.group(2)) {
            case "m" -> Duration.ofMinutes(count);
            case "h" -> Duration.ofHours(count);
            default -> Duration.ofDays(count);
        };
    }

    private static void print(Entente entente, List<PolicyApi.Stop> stops) {
        entente.printer()
                .list(
                        stops,
                        "Nothing is stopped.",
                        List.of(
                                new Column<>("WHAT", PolicyApi.Stop::what),
                                new Column<>("STATE", stop -> stop.ended() == null ? "STOPPED" : "resumed"),
                                new Column<>("SINCE", stop -> Printer.time(stop.since())),
                                new Column<>(
                                        "UNTIL",
                                        stop -> Printer.time(stop.ended() == null ? stop.until() : stop.ended())),
                                new Column<>("BY", PolicyApi.Stop::by),
                                new Column<>("REASON", PolicyApi.Stop::reason)));
    }
}
