package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.core.seal.Credential;
import dev.entente.core.seal.CredentialStatement;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Roster;
import dev.entente.core.seal.SigningKey;
import dev.entente.wire.DirectoryApi;
import dev.entente.wire.PeopleApi;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** The administrator's side of stewards. */
@Command(
        name = "steward",
        addMethodSubcommands = false,
        description = "Admit stewards and sign the roster. On a steward's own machine: join, run, check, log.")
final class StewardCommands {
    @ParentCommand
    private Entente entente;

    @Command(
            name = "admit",
            description =
                    "Print a join code for a steward; it works once, for an hour. Under a name in use it replaces that steward's key.")
    int admit(
            @Option(names = "--directory", required = true, paramLabel = "NAME") String directory,
            @Parameters(paramLabel = "STEWARD", description = "a name for the steward") String steward) {
        var operator = entente.home.operatorKey(directory).publicKey().thumbprint();
        var code = entente.api()
                .post(
                        Api.at("/directories/{}/join-codes", directory),
                        new DirectoryApi.NewJoinCode(steward),
                        DirectoryApi.JoinCode.class);
        // The thumbprints let the steward pin both keys, whatever the service shows it later.
        System.out.println(code.code() + "." + code.serviceKey() + "." + operator);
        System.err.println("On the steward's machine, before " + Printer.time(code.expiresAt())
                + ": entente steward join --file FILE CODE");
        return Entente.DONE;
    }

    @Command(
            name = "sign-roster",
            description = {
                "Sign which stewards serve a directory: those that serve it, and all that have joined, or those named.",
                "Shows the identity key of each that is new and asks. Compare it with the one that entente steward join"
                        + " printed on the steward's own machine."
            })
    int signRoster(
            @Option(names = "--directory", required = true, paramLabel = "NAME") String name,
            @Option(
                            names = "--expect",
                            paramLabel = "THUMBPRINT",
                            converter = Thumbprint.class,
                            description = "the identity keys to sign in, instead of being asked; no other is signed in")
                    List<String> expected,
            @Parameters(paramLabel = "STEWARD", arity = "0..*") List<String> named) {
        var key = entente.home.operatorKey(name);
        var directory = entente.api().get(Api.at("/directories/{}", name), DirectoryApi.Directory.class);
        var serving = serving(key, directory);
        var members = new ArrayList<Roster.Member>();
        var fresh = new ArrayList<Roster.Member>();
        for (var steward : directory.stewards()) {
            if (List.of("retired", "replaced", "copied").contains(steward.state())
                    || named != null && !named.isEmpty() && !named.contains(steward.name())) {
                continue;
            }
            var member = new Roster.Member(steward.id(), steward.name(), steward.identityKey());
            members.add(member);
            if (!serving.contains(member)) {
                fresh.add(member);
            }
        }
        if (members.isEmpty()) {
            System.err.println(
                    "entente: there is no steward to sign in; let one join first with entente steward admit");
            return Entente.REFUSED;
        }
        if (!agreed(name, fresh, expected)) {
            System.err.println("Nothing was signed.");
            return Entente.REFUSED;
        }
        var missing = expected == null
                ? List.<String>of()
                : expected.stream()
                        .filter(e -> members.stream()
                                .noneMatch(m -> m.key().thumbprint().equals(e)))
                        .toList();
        if (!missing.isEmpty()) {
            System.err.println("entente: no steward of " + name + " has the key " + missing.get(0)
                    + "; compare it with the one that entente steward join printed");
            return Entente.REFUSED;
        }
        if (fresh.isEmpty() && members.size() == serving.size()) {
            System.err.println("The roster of " + name + " already lists all of them. Nothing was signed.");
            return Entente.DONE;
        }
        // What was shown and nothing else: whoever joins in this moment is not among them.
        return sign(key, directory, members);
    }

    /** Whether the operator means to sign these in. */
    private static boolean agreed(String directory, List<Roster.Member> fresh, List<String> expected) {
        if (fresh.isEmpty()) {
            return true;
        }
        System.err.println("Stewards to sign in for " + directory + ":");
        fresh.forEach(m -> System.err.println("  " + m.name() + "  " + m.key().thumbprint()));
        if (expected != null) {
            for (var member : fresh) {
                if (!expected.contains(member.key().thumbprint())) {
                    System.err.println("entente: " + member.name()
                            + " has a key you didn't expect. Find out who joined under that name before you go on.");
                    return false;
                }
            }
            return true;
        }
        if (System.console() == null) {
            System.err.println(
                    "entente: name the keys you expect with --expect THUMBPRINT, as entente steward join printed them");
            return false;
        }
        var answer = System.console().readLine("Are these the keys you see on the stewards' own machines? [y/N] ");
        return answer != null && answer.strip().equalsIgnoreCase("y");
    }

    /** Whom the operator key signed in before; what the service says of them counts for nothing. */
    private List<Roster.Member> serving(SigningKey key, DirectoryApi.Directory directory) {
        var signed = entente.api()
                .get(Api.at("/directories/{}/roster", directory.name()), DirectoryApi.SignedRoster.class)
                .roster();
        return signed == null
                ? List.of()
                : Roster.verify(signed, key.publicKey(), directory.id()).stewards();
    }

    private int sign(SigningKey key, DirectoryApi.Directory directory, List<Roster.Member> members) {
        var name = directory.name();
        var roster = new Roster(1, directory.id(), directory.rosterVersion() + 1, System.currentTimeMillis(), members);
        entente.api().put(Api.at("/directories/{}/roster", name), new DirectoryApi.SignedRoster(roster.sign(key)));
        System.err.println("Roster " + roster.version() + " of " + name + ":");
        members.forEach(m -> System.err.println("  " + m.name() + "  " + m.key().thumbprint()));
        return Entente.DONE;
    }

    @Command(
            name = "retire",
            description = "Sign a roster without a steward, so that it can open and write nothing any more.")
    int retire(
            @Option(names = "--directory", required = true, paramLabel = "NAME") String name,
            @Parameters(paramLabel = "STEWARD") String leaving) {
        var key = entente.home.operatorKey(name);
        var directory = entente.api().get(Api.at("/directories/{}", name), DirectoryApi.Directory.class);
        var serving = serving(key, directory);
        if (serving.stream().noneMatch(s -> s.name().equals(leaving))) {
            System.err.println(
                    "entente: there is no steward \"" + leaving + "\" for " + name + "; see entente steward list");
            return Entente.REFUSED;
        }
        var staying = serving.stream().filter(s -> !s.name().equals(leaving)).toList();
        if (staying.isEmpty()) {
            System.err.println(
                    "No steward serves " + name + " after this: nothing can be delivered until another one joins.");
        }
        return sign(key, directory, staying);
    }

    private List<PeopleApi.Account> accounts(PeopleApi.Person person, String directory) {
        var accounts = person.accounts().stream()
                .filter(a -> a.directory().equals(directory))
                .toList();
        if (accounts.isEmpty()) {
            throw new IllegalArgumentException(person.name() + " has no account in " + directory);
        }
        return accounts;
    }

    private PeopleApi.Person person(String named) {
        return entente.api().get("/person?named=" + Api.encoded(named), PeopleApi.Person.class);
    }

    /** Signs for an account by all that it is known by: stewards compare that with the entry. */
    private String state(
            SigningKey key,
            DirectoryApi.Directory directory,
            PeopleApi.Account account,
            Credential credential,
            boolean removed) {
        var signed = CredentialStatement.of(
                        directory.id(),
                        account.id(),
                        account.login(),
                        account.dn(),
                        credential,
                        removed,
                        System.currentTimeMillis())
                .sign(key);
        entente.api()
                .post(
                        Api.at("/directories/{}/credentials", directory.name()),
                        new DirectoryApi.SignedCredential(signed));
        return signed;
    }

    @Command(
            name = "sign-credential",
            description =
                    "Sign with the directory's operator key that a person's passkey or phone is theirs, so that stewards recognise them by themselves.")
    int signCredential(
            @Option(names = "--directory", required = true, paramLabel = "NAME") String name,
            @Parameters(paramLabel = "PERSON") String who,
            @Parameters(paramLabel = "METHOD-ID", description = "from entente person methods") UUID enrolment,
            @Option(
                            names = "--expect",
                            paramLabel = "THUMBPRINT",
                            converter = Thumbprint.class,
                            description = "what the person's own page shows; asked for on a terminal if omitted")
                    String expected) {
        var key = entente.home.operatorKey(name);
        var directory = entente.api().get(Api.at("/directories/{}", name), DirectoryApi.Directory.class);
        var person = person(who);
        var accounts = accounts(person, name);
        var credential = entente.api()
                .get(Api.at("/people/{}/enrolments/{}/credential", person.id(), enrolment), Credential.class);
        System.err.println(credential.method() + " of " + person.name() + "  " + credential.thumbprint());
        accounts.forEach(account -> System.err.println(
                "  for " + account.login() + " in " + name + "  " + account.dn() + "  (" + account.id() + ")"));
        if (!same(credential, expected)) {
            System.err.println("Nothing was signed.");
            return Entente.REFUSED;
        }
        accounts.forEach(account -> state(key, directory, account, credential, false));
        System.err.println(
                "From the next order on the stewards of " + name + " recognise " + person.name() + " by it.");
        return Entente.DONE;
    }

    /** A credential that was stated for an account. */
    private record Stated(PeopleApi.Account account, CredentialStatement statement) {
        String login() {
            return account.login();
        }
    }

    /** What the operator or a steward on the roster stated about a person's accounts; what anybody else did is left out. */
    private List<Stated> stated(SigningKey key, DirectoryApi.Directory directory, PeopleApi.Person person) {
        var signers = new ArrayList<EcKey>();
        signers.add(key.publicKey());
        serving(key, directory).forEach(member -> signers.add(member.key()));
        var stated = new ArrayList<Stated>();
        for (var account : accounts(person, directory.name())) {
            List<DirectoryApi.SignedCredential> all = entente.api()
                    .get(
                            Api.at("/directories/{}/credentials/{}", directory.name(), account.id()),
                            Api.list(DirectoryApi.SignedCredential.class));
            for (var one : all) {
                try {
                    var statement = CredentialStatement.verify(one.statement(), signers, directory.id());
                    if (statement.account().equals(account.id())) {
                        stated.add(new Stated(account, statement));
                    }
                } catch (InvalidDocument e) {
                    System.err.println("A statement was left out: " + e.getMessage() + ".");
                }
            }
        }
        return stated;
    }

    @Command(
            name = "credentials",
            description = "By which passkeys and phones stewards recognise a person by themselves.")
    int credentials(
            @Option(names = "--directory", required = true, paramLabel = "NAME") String name,
            @Parameters(paramLabel = "PERSON") String who) {
        var key = entente.home.operatorKey(name);
        var directory = entente.api().get(Api.at("/directories/{}", name), DirectoryApi.Directory.class);
        var person = person(who);
        entente.printer()
                .list(
                        stated(key, directory, person),
                        "The stewards of " + name + " recognise " + person.name() + " by nothing yet.",
                        List.of(
                                new Column<>("ACCOUNT", Stated::login),
                                new Column<>(
                                        "METHOD",
                                        s -> s.statement().credential().method()),
                                new Column<>("STATE", s -> s.statement().removed() ? "withdrawn" : "recognised"),
                                new Column<>(
                                        "SINCE",
                                        s -> Printer.time(Instant.ofEpochMilli(
                                                s.statement().iat()))),
                                new Column<>(
                                        "THUMBPRINT",
                                        s -> s.statement().credential().thumbprint())));
        return Entente.DONE;
    }

    @Command(
            name = "withdraw-credential",
            description =
                    "Sign that stewards don't recognise a person by a passkey any more, ever, such as after it was lost.")
    int withdrawCredential(
            @Option(names = "--directory", required = true, paramLabel = "NAME") String name,
            @Parameters(paramLabel = "PERSON") String who,
            @Parameters(
                            paramLabel = "THUMBPRINT",
                            converter = Thumbprint.class,
                            description = "from entente steward credentials")
                    String thumbprint,
            @Option(
                            names = "--to",
                            paramLabel = "FILE",
                            description =
                                    "write what was signed to a file as well, to hand it to each steward: entente steward forget")
                    Path to)
            throws IOException {
        var key = entente.home.operatorKey(name);
        var directory = entente.api().get(Api.at("/directories/{}", name), DirectoryApi.Directory.class);
        var person = person(who);
        var meant = stated(key, directory, person).stream()
                .filter(s -> s.statement().credential().thumbprint().equals(thumbprint))
                .toList();
        if (meant.isEmpty()) {
            System.err.println("entente: the stewards of " + name + " recognise " + person.name()
                    + " by nothing with this thumbprint; see entente steward credentials");
            return Entente.REFUSED;
        }
        var signed = new ArrayList<String>();
        for (var one : meant) {
            signed.add(state(key, directory, one.account(), one.statement().credential(), true));
        }
        System.err.println("From the next order on no steward of " + name + " recognises it.");
        if (to != null) {
            Files.write(to, signed);
            System.err.println(
                    "To make sure of it without the service, on each steward's machine: entente steward forget"
                            + " --file steward.yaml " + to);
        }
        return Entente.DONE;
    }

    /** What the service says of a credential counts for nothing until somebody compared it. */
    private static boolean same(Credential credential, String expected) {
        if (expected != null) {
            if (!expected.equals(credential.thumbprint())) {
                System.err.println(
                        "entente: this is another one than you expect. Ask the person what their page shows.");
            }
            return expected.equals(credential.thumbprint());
        }
        if (System.console() == null) {
            System.err.println("entente: say what the person's own page shows: --expect THUMBPRINT");
            return false;
        }
        var answer = System.console().readLine("Does the person's own page show the same? [y/N] ");
        return answer != null && answer.strip().equalsIgnoreCase("y");
    }

    @Command(name = "list", description = "All stewards.")
    int list() {
        List<DirectoryApi.Directory> directories =
                entente.api().get("/directories", Api.list(DirectoryApi.Directory.class));
        record Row(String directory, DirectoryApi.Steward steward) {}
        var rows = directories.stream()
                .flatMap(d -> d.stewards().stream().map(s -> new Row(d.name(), s)))
                .toList();
        entente.printer()
                .list(
                        rows,
                        "No steward yet. Let one join: entente steward admit --help",
                        List.of(
                                new Column<>("STEWARD", r -> r.steward().name()),
                                new Column<>("DIRECTORY", Row::directory),
                                new Column<>("STATE", r -> r.steward().state()),
                                new Column<>("CONNECTED", r -> r.steward().connected() ? "yes" : "no"),
                                new Column<>(
                                        "LAST SEEN",
                                        r -> r.steward().lastSeen() == null
                                                ? "never"
                                                : Printer.time(r.steward().lastSeen())),
                                new Column<>("VERSION", r -> r.steward().version()),
                                new Column<>("SERVER", r -> r.steward().server()),
                                new Column<>("MS", r -> r.steward().latencyMillis()),
                                new Column<>("HELD", r -> r.steward().held()),
                                new Column<>(
                                        "CERTIFICATE", r -> days(r.steward().certificateEnds())),
                                new Column<>(
                                        "IDENTITY KEY",
                                        r -> r.steward().identityKey().thumbprint())));
        return Entente.DONE;
    }

    private static String days(Instant ends) {
        return ends == null ? "" : Duration.between(Instant.now(), ends).toDays() + " days";
    }
}
