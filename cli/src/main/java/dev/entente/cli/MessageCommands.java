package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.MailApi;
import dev.entente.wire.PeopleApi;
import dev.entente.wire.PolicyApi;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;
import picocli.CommandLine.ScopeType;

/** What is sent to people. */
@Command(
        name = "message",
        addMethodSubcommands = false,
        description = "Read what is sent to people; change it by files in messages/.")
final class MessageCommands {
    @ParentCommand
    private Entente entente;

    @Option(
            names = "--draft",
            paramLabel = "ID",
            scope = ScopeType.INHERIT,
            description = "as in this draft; as published if omitted")
    private String draft;

    private List<PolicyApi.MessageText> messages() {
        return entente.api()
                .get(
                        draft == null ? "/messages" : Api.at("/drafts/{}/messages", draft),
                        Api.list(PolicyApi.MessageText.class));
    }

    @Command(name = "list", description = "All messages, their languages, and where each text comes from.")
    int list() {
        entente.printer()
                .list(
                        messages(),
                        "There are no messages.",
                        List.of(
                                new Column<>("MESSAGE", PolicyApi.MessageText::name),
                                new Column<>(
                                        "LANGUAGES",
                                        m -> String.join(
                                                ", ",
                                                m.texts().keySet().stream()
                                                        .sorted()
                                                        .toList())),
                                new Column<>("SOURCE", PolicyApi.MessageText::source)));
        return Entente.DONE;
    }

    @Command(name = "test", description = "Send one message to an address. Codes and links in it are of no use.")
    int test(
            @Parameters(paramLabel = "NAME") String name,
            @Option(names = "--to", required = true, paramLabel = "ADDRESS") String to,
            @Option(names = "--person", paramLabel = "PERSON", description = "as this person would read it")
                    String person,
            @Option(names = "--language", paramLabel = "TAG", description = "instead of the person's")
                    String language) {
        var tried = entente.api()
                .post(
                        Api.at("/messages/{}/test", name),
                        new PolicyApi.MessageTest(
                                to, whose(person), language, draft == null ? null : UUID.fromString(draft)),
                        MailApi.MailTried.class);
        entente.printer()
                .one(
                        tried,
                        () -> System.out.println(
                                tried.sent() ? "The server took the message." : "NOT SENT: " + tried.why()));
        return tried.sent() ? Entente.DONE : Entente.REFUSED;
    }

    private UUID whose(String person) {
        return person == null
                ? null
                : entente.api()
                        .get("/person?named=" + Api.encoded(person), PeopleApi.Person.class)
                        .id();
    }

    @Command(
            name = "show",
            description =
                    "One message, with example values or as a person would read it, and the placeholders it can contain.")
    int show(
            @Parameters(paramLabel = "NAME") String name,
            @Option(names = "--person", paramLabel = "PERSON", description = "as this person would read it")
                    String person) {
        if (person != null) {
            var preview = entente.api()
                    .get(
                            Api.at("/messages/{}/preview", name) + "?person=" + whose(person)
                                    + (draft == null ? "" : "&draft=" + draft),
                            PolicyApi.MessagePreview.class);
            entente.printer()
                    .one(
                            preview,
                            () -> System.out.println("-- " + preview.language() + " --\n" + preview.subject() + "\n\n"
                                    + preview.text()));
            return Entente.DONE;
        }
        var message = messages().stream().filter(m -> m.name().equals(name)).findFirst();
        if (message.isEmpty()) {
            System.err.println("entente: there is no message \"" + name + "\"; see entente message list");
            return Entente.REFUSED;
        }
        entente.printer().one(message.get(), () -> {
            message.get().examples().entrySet().stream()
                    .sorted(Map.Entry.comparingByKey())
                    .forEach(e -> System.out.println("-- " + e.getKey() + " --\n" + e.getValue()));
            System.out.println("Placeholders: "
                    + String.join(", ", message.get().placeholders())
                    + ", attribute.NAME"
                    + (message.get().needed().isEmpty()
                            ? ""
                            : "; required: " + String.join(", ", message.get().needed()))
                    + ".");
        });
        return Entente.DONE;
    }
}
