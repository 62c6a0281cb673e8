package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.AdminApi;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.stream.Collectors;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** People. */
@Command(name = "person", description = "Find people.")
final class PeopleCommands {
    @ParentCommand
    private Entente entente;

    static String encoded(String text) {
        return URLEncoder.encode(text, StandardCharsets.UTF_8).replace("+", "%20");
    }

    @Command(name = "list", description = "People whose name or login name holds a text.")
    int list(
            @Parameters(paramLabel = "TEXT", arity = "0..1", defaultValue = "") String text,
            @Option(names = "--limit", defaultValue = "50", description = "at most this many") int limit) {
        var people = new ArrayList<AdminApi.PersonRow>();
        var type = Api.JSON.getTypeFactory().constructParametricType(AdminApi.Page.class, AdminApi.PersonRow.class);
        String after = null;
        do {
            AdminApi.Page<AdminApi.PersonRow> page = entente.api()
                    .get(
                            "/people?limit=" + Math.min(200, limit - people.size()) + "&search=" + encoded(text)
                                    + (after == null ? "" : "&after=" + after),
                            type);
            people.addAll(page.items());
            after = page.after();
        } while (after != null && people.size() < limit);
        entente.printer()
                .list(
                        people,
                        text.isEmpty() ? "Nobody yet. Read people: entente directory sync NAME" : "Nobody fits.",
                        List.of(
                                new Column<>("NAME", AdminApi.PersonRow::name),
                                new Column<>("DEPARTMENT", AdminApi.PersonRow::department),
                                new Column<>(
                                        "ACCOUNTS",
                                        p -> p.accounts().stream()
                                                .map(a -> a.directory() + ":" + a.login()
                                                        + (a.disabled() ? " (disabled)" : "")
                                                        + (a.locked() ? " (locked)" : ""))
                                                .collect(Collectors.joining(", ")))));
        if (after != null) {
            System.err.println("There are more; use --limit, or type more of the name.");
        }
        return Entente.DONE;
    }

    @Command(name = "show", description = "One person.")
    int show(@Parameters(paramLabel = "PERSON", description = "login name, id, or part of the name") String text) {
        var person = entente.api().get("/person?named=" + encoded(text), AdminApi.Person.class);
        entente.printer().one(person, () -> {
            System.out.println(person.name() + (person.department() == null ? "" : ", " + person.department()));
            person.accounts()
                    .forEach(a -> System.out.println("  " + a.directory() + "  " + a.login() + "  " + a.dn()
                            + (a.disabled() ? "  disabled" : "") + (a.locked() ? "  locked" : "")
                            + (a.mustChange() ? "  must change" : "")
                            + (a.endsAt() == null ? "" : "  ends " + Printer.time(a.endsAt()))
                            + (a.hasMail() ? "" : "  no mail")
                            + (a.quarantined() ? "  IN DOUBT: entente person cases" : "")
                            + (a.changedElsewhereAt() == null
                                    ? ""
                                    : "  OUT OF STEP: set elsewhere " + Printer.time(a.changedElsewhereAt()))
                            + "\n    password set "
                            + (a.passwordSetAt() == null ? "?" : Printer.time(a.passwordSetAt()))
                            + (a.passwordEndsAt() == null ? "" : ", good until " + Printer.time(a.passwordEndsAt()))
                            + (a.lastSignIn() == null ? "" : ", last sign-in " + Printer.time(a.lastSignIn()))));
            System.out.println("  groups  " + String.join(", ", person.groups()));
        });
        return Entente.DONE;
    }

    @Command(name = "methods", description = "How a person can be recognised.")
    int methods(@Parameters(paramLabel = "PERSON", description = "login name, id, or part of the name") String text) {
        var person = entente.api().get("/person?named=" + encoded(text), AdminApi.Person.class);
        List<AdminApi.Enrolment> methods = entente.api()
                .get(
                        "/people/" + person.id() + "/enrolments",
                        Api.JSON.getTypeFactory().constructCollectionType(List.class, AdminApi.Enrolment.class));
        entente.printer()
                .list(
                        methods,
                        person.name() + " has no method yet.",
                        List.of(
                                new Column<>("METHOD", AdminApi.Enrolment::method),
                                new Column<>("LABEL", AdminApi.Enrolment::label),
                                new Column<>("SINCE", m -> Printer.time(m.since())),
                                new Column<>("LAST USED", m -> Printer.time(m.lastUsed())),
                                new Column<>("LEFT", AdminApi.Enrolment::left),
                                new Column<>("ID", AdminApi.Enrolment::id)));
        return Entente.DONE;
    }

    @Command(name = "remove-method", description = "Take a method away, as when a phone was lost.")
    int removeMethod(
            @Parameters(paramLabel = "PERSON", description = "login name, id, or part of the name") String text,
            @Parameters(paramLabel = "ID", description = "as entente person methods shows it") String id) {
        var person = entente.api().get("/person?named=" + encoded(text), AdminApi.Person.class);
        entente.api().delete("/people/" + person.id() + "/enrolments/" + encoded(id), null);
        System.err.println("It counts no more for " + person.name() + ".");
        return Entente.DONE;
    }

    @Command(
            name = "lift-limits",
            description = "Count a person's tries and codes anew, as when strangers have used them up. Goes on record.")
    int liftLimits(
            @Parameters(paramLabel = "PERSON", description = "login name, id, or part of the name") String text,
            @Option(names = "--reason", required = true, description = "one line; it goes on record") String reason) {
        var person = entente.api().get("/person?named=" + encoded(text), AdminApi.Person.class);
        entente.api().post("/people/" + person.id() + "/limits/lifting", new AdminApi.LimitLifting(reason));
        System.err.println("The limits of " + person.name() + " are lifted.");
        return Entente.DONE;
    }

    @Command(name = "cases", description = "Accounts whose person is in doubt. Exit 1 if there are any.")
    int cases() {
        List<AdminApi.CorrelationCase> cases = entente.api()
                .get(
                        "/correlation-cases",
                        Api.JSON.getTypeFactory().constructCollectionType(List.class, AdminApi.CorrelationCase.class));
        entente.printer()
                .list(
                        cases,
                        "Nothing is in doubt.",
                        List.of(
                                new Column<>("CASE", AdminApi.CorrelationCase::id),
                                new Column<>("DIRECTORY", AdminApi.CorrelationCase::directory),
                                new Column<>("SINCE", c -> Printer.time(c.openedAt())),
                                new Column<>("WHAT IS IN DOUBT", AdminApi.CorrelationCase::says)));
        return cases.isEmpty() ? Entente.DONE : Entente.REFUSED;
    }

    @Command(
            name = "settle",
            description = "Settle a case: join the account to whom its attribute names, or keep it apart.")
    int settle(
            @Parameters(paramLabel = "CASE") String id,
            @Parameters(paramLabel = "DECISION", description = "join or keep-apart") String decision) {
        entente.api().post("/correlation-cases/" + encoded(id) + "/settlement", new AdminApi.Settlement(decision));
        return Entente.DONE;
    }

    @Command(name = "explain", description = "Why a person can or cannot do something now. Exit 1 if they cannot.")
    static final class Explain implements Callable<Integer> {
        @ParentCommand
        private Entente entente;

        @Parameters(paramLabel = "PERSON", description = "login name, id, or part of the name")
        private String person;

        @Option(names = "--action", defaultValue = "reset")
        private String action;

        @Option(
                names = "--network",
                paramLabel = "ADDRESS",
                description = "from where the person comes; if omitted, every place that makes a difference is told")
        private String network;

        @Option(names = "--at", paramLabel = "TIME", description = "when, such as 2026-11-28T09:00; else now")
        private Instant at;

        @Option(names = "--known-device", description = "on a browser where something was finished before")
        private boolean knownDevice;

        @Option(names = "--text", description = "as text to pass on")
        private boolean text;

        @Override
        public Integer call() {
            var explained = entente.api()
                    .get(
                            "/explain?person=" + encoded(person) + "&action=" + encoded(action)
                                    + (network == null ? "" : "&network=" + encoded(network))
                                    + (at == null ? "" : "&at=" + encoded(at.toString()))
                                    + (knownDevice ? "&knownDevice=true" : ""),
                            AdminApi.Explanation.class);
            entente.printer().one(explained, () -> {
                if (text) {
                    System.out.print(explained.text());
                    return;
                }
                var possible = explained.situations().stream()
                        .filter(AdminApi.Situation::possible)
                        .count();
                System.out.println(explained.name() + (explained.possible() ? " can " : " cannot ")
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
                                + (s.possible() ? ": proves " + s.proof() : ": " + String.join(" ", s.obstacles()))));
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
                    System.out.println("  to prove    " + explained.required().words());
                    explained.required().because().forEach(b -> System.out.println("    stricter  " + b));
                }
                explained
                        .methods()
                        .forEach(m -> System.out.println(
                                "  method      " + m.method() + ": " + (m.usable() ? "enrolled and usable" : m.why())));
                explained
                        .facts()
                        .forEach(f -> System.out.printf("  %-24s %-32s %s%n", f.name(), f.value(), f.source()));
            });
            return explained.possible() ? Entente.DONE : Entente.REFUSED;
        }
    }
}
