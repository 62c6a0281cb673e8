package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.PolicyApi;
import java.util.List;
import java.util.Map;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;
import picocli.CommandLine.ScopeType;

/** What is sent to people. */
@Command(name = "message", description = "Read what is sent to people; change it by files in messages/.")
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

    @Command(name = "show", description = "One message, with example values, and the placeholders it can contain.")
    int show(@Parameters(paramLabel = "NAME") String name) {
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
