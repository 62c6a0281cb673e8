package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.AttemptApi;
import dev.entente.wire.PeopleApi;
import dev.entente.wire.PolicyApi;
import java.time.Instant;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** People. */
@Command(name = "person", addMethodSubcommands = false, description = "Find people.")
final class PeopleCommands {
    @ParentCommand
    private Entente entente;

    @Command(
            name = "list",
            description = "People whose name or login name contains a text; everyone if it is left out.")
    int list(
            @Parameters(paramLabel = "TEXT", arity = "0..1", defaultValue = "") String text,
            @Option(names = "--limit", defaultValue = "50", description = "at most this many (${DEFAULT-VALUE})")
                    Limit limit) {
        var people = limit.of(entente.api(), "/people?search=" + Api.encoded(text), PeopleApi.PersonRow.class);
        entente.printer()
                .list(
                        people,
                        text.isEmpty()
                                ? "No people yet. Read them: entente directory sync NAME"
                                : "No one matches \"" + text + "\".",
                        List.of(
                                new Column<>("NAME", PeopleApi.PersonRow::name),
                                new Column<>("DEPARTMENT", PeopleApi.PersonRow::department),
                                new Column<>(
                                        "ACCOUNTS",
                                        p -> p.accounts().stream()
                                                .map(a -> a.directory() + ":" + a.login()
                                                        + (a.disabled() ? " (disabled)" : "")
                                                        + (a.locked() ? " (locked)" : ""))
                                                .collect(Collectors.joining(", ")))));
        return Entente.DONE;
    }

    @Command(name = "show", description = "One person.")
    int show(@Parameters(paramLabel = "PERSON", description = "login name, id or part of the name") String text) {
        var person = entente.api().get("/person?named=" + Api.encoded(text), PeopleApi.Person.class);
        entente.printer().one(person, () -> {
            System.out.println(person.name() + (person.department() == null ? "" : ", " + person.department()));
            person.accounts()
                    .forEach(a -> System.out.println("  " + a.directory() + "  " + a.login() + "  " + a.dn()
                            + (a.disabled() ? "  disabled" : "") + (a.locked() ? "  locked" : "")
                            + (a.mustChange() ? "  must change password" : "")
                            + (a.endsAt() == null ? "" : "  ends " + Printer.time(a.endsAt()))
                            + (a.hasMail() ? "" : "  no mail address")
                            + (a.quarantined() ? "  OWNER UNCLEAR: entente person cases" : "")
                            + (a.changedElsewhereAt() == null
                                    ? ""
                                    : "  OUT OF STEP: changed elsewhere " + Printer.time(a.changedElsewhereAt()))
                            + "\n    password set "
                            + (a.passwordSetAt() == null ? "?" : Printer.time(a.passwordSetAt()))
                            + (a.passwordEndsAt() == null ? "" : ", good until " + Printer.time(a.passwordEndsAt()))
                            + (a.lastSignIn() == null ? "" : ", last sign-in " + Printer.time(a.lastSignIn()))));
            System.out.println("  groups  " + String.join(", ", person.groups()));
        });
        return Entente.DONE;
    }

    @Command(name = "methods", description = "The methods a person has enrolled.")
    int methods(@Parameters(paramLabel = "PERSON", description = "login name, id or part of the name") String text) {
        var person = entente.api().get("/person?named=" + Api.encoded(text), PeopleApi.Person.class);
        List<PeopleApi.Enrolment> methods =
                entente.api().get(Api.at("/people/{}/enrolments", person.id()), Api.list(PeopleApi.Enrolment.class));
        entente.printer()
                .list(
                        methods,
                        person.name() + " hasn't enrolled a method yet.",
                        List.of(
                                new Column<>("METHOD", PeopleApi.Enrolment::method),
                                new Column<>("LABEL", PeopleApi.Enrolment::label),
                                new Column<>("SINCE", m -> Printer.time(m.since())),
                                new Column<>("LAST USED", m -> Printer.time(m.lastUsed())),
                                new Column<>("LEFT", PeopleApi.Enrolment::left),
                                new Column<>("ID", PeopleApi.Enrolment::id)));
        return Entente.DONE;
    }

    @Command(name = "remove-method", description = "Remove a method, for example after a phone was lost.")
    int removeMethod(
            @Parameters(paramLabel = "PERSON", description = "login name, id or part of the name") String text,
            @Parameters(paramLabel = "ID", description = "from entente person methods") String id) {
        var person = entente.api().get("/person?named=" + Api.encoded(text), PeopleApi.Person.class);
        entente.api().delete(Api.at("/people/{}/enrolments/{}", person.id(), id), null);
        System.err.println("Removed. " + person.name() + " can't use it any more.");
        return Entente.DONE;
    }

    @Command(
            name = "lift-limits",
            description = "Reset a person's limits, for example after strangers used them up. This goes on record.")
    int liftLimits(
            @Parameters(paramLabel = "PERSON", description = "login name, id or part of the name") String text,
            @Option(names = "--reason", required = true, description = "one line, kept on record") String reason) {
        var person = entente.api().get("/person?named=" + Api.encoded(text), PeopleApi.Person.class);
        entente.api().post(Api.at("/people/{}/limits/lifting", person.id()), new AttemptApi.LimitLifting(reason));
        System.err.println("The limits of " + person.name() + " are reset.");
        return Entente.DONE;
    }

    @Command(
            name = "open",
            description = {
                "Open self-service for somebody again who said that something wasn't them.",
                "Talk to them first. This goes on record."
            })
    int open(
            @Parameters(paramLabel = "PERSON", description = "login name, id or part of the name") String text,
            @Option(names = "--reason", required = true, description = "one line, kept on record") String reason) {
        var person = entente.api().get("/person?named=" + Api.encoded(text), PeopleApi.Person.class);
        entente.api().post(Api.at("/people/{}/self-service/opening", person.id()), new AttemptApi.Opening(reason));
        System.err.println("Self-service is open for " + person.name() + " again.");
        return Entente.DONE;
    }

    @Command(name = "cases", description = "Accounts whose owner is unclear. Exits with 1 if there are any.")
    int cases() {
        List<PeopleApi.CorrelationCase> cases =
                entente.api().get("/correlation-cases", Api.list(PeopleApi.CorrelationCase.class));
        entente.printer()
                .list(
                        cases,
                        "It's clear who owns every account.",
                        List.of(
                                new Column<>("CASE", PeopleApi.CorrelationCase::id),
                                new Column<>("DIRECTORY", PeopleApi.CorrelationCase::directory),
                                new Column<>("SINCE", c -> Printer.time(c.openedAt())),
                                new Column<>("WHAT IS UNCLEAR", PeopleApi.CorrelationCase::says)));
        return cases.isEmpty() ? Entente.DONE : Entente.REFUSED;
    }

    @Command(
            name = "settle",
            description = "Settle a case: join the account to the person its attribute names, or keep it apart.")
    int settle(
            @Parameters(paramLabel = "CASE") String id,
            @Parameters(paramLabel = "DECISION", description = "join or keep-apart") String decision) {
        entente.api().post(Api.at("/correlation-cases/{}/settlement", id), new PeopleApi.Settlement(decision));
        System.err.println(decision.equals("join") ? "The account is joined." : "The account is kept apart.");
        return Entente.DONE;
    }

    @Command(name = "explain", description = "Why a person can or can't do something now. Exits with 1 if they can't.")
    static final class Explain implements Callable<Integer> {
        @ParentCommand
        private Entente entente;

        @Parameters(paramLabel = "PERSON", description = "login name, id or part of the name")
        private String person;

        @Option(
                names = "--action",
                defaultValue = "reset",
                description = "${DEFAULT-VALUE} unless given; or unlock, change, details")
        private String action;

        @Option(
                names = "--network",
                paramLabel = "ADDRESS",
                description = "where the person is; if omitted, every place that makes a difference is shown")
        private String network;

        @Option(names = "--at", paramLabel = "TIME", description = "when, such as 2026-11-28T09:00; now if omitted")
        private Instant at;

        @Option(names = "--known-device", description = "in a browser this person has used here before")
        private boolean knownDevice;

        @Option(names = "--text", description = "as plain text to pass on")
        private boolean text;

        @Override
        public Integer call() {
            var explained = entente.api()
                    .get(
                            "/explain?person=" + Api.encoded(person) + "&action=" + Api.encoded(action)
                                    + (network == null ? "" : "&network=" + Api.encoded(network))
                                    + (at == null ? "" : "&at=" + Api.encoded(at.toString()))
                                    + (knownDevice ? "&knownDevice=true" : ""),
                            PolicyApi.Explanation.class);
            entente.printer().one(explained, () -> {
                if (text) {
                    System.out.print(explained.text());
                    return;
                }
                var possible = explained.situations().stream()
                        .filter(PolicyApi.Situation::possible)
                        .count();
                System.out.println(explained.name() + (explained.possible() ? " can " : " can't ")
                        + (explained.action().equals("details") ? "change their details" : explained.action())
                        + " now"
                        + (explained.possible()
                                        && possible < explained.situations().size()
                                ? ", but not from everywhere"
                                : "")
                        + " (revision " + explained.revision() + ").");
                explained
                        .situations()
                        .forEach(s -> System.out.println("  " + (s.possible() ? "possible    " : "impossible  ")
                                + s.words()
                                + (s.possible() ? ": with " + s.proof() : ": " + String.join(" ", s.obstacles()))));
                explained.notes().forEach(n -> System.out.println("  note        " + n));
                explained
                        .obstacles()
                        .forEach(o ->
                                System.out.println("  in the way  " + o.cause() + "\n              → " + o.whatToDo()));
                explained
                        .considered()
                        .forEach(c -> System.out.println(
                                (c.covers() ? "  decides     " : "  passed by   ") + c.policy() + ": " + c.because()));
                if (explained.required() != null) {
                    System.out.println("  verify with " + explained.required().words());
                    explained.required().because().forEach(b -> System.out.println("    stricter  " + b));
                }
                explained.methods().forEach(m -> System.out.println("  method      " + m.method() + ": " + m.words()));
                explained.waysIn().forEach(w -> System.out.println("  way in      " + w));
                explained
                        .facts()
                        .forEach(f -> System.out.printf("  %-24s %-32s %s%n", f.name(), f.value(), f.source()));
            });
            return explained.possible() ? Entente.DONE : Entente.REFUSED;
        }
    }
}
