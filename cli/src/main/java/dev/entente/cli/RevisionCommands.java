package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.AdminApi;
import java.io.IOException;
import java.nio.file.Path;
import java.util.List;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** Published states of the configuration. */
@Command(name = "revision", description = "Look at published configuration.")
final class RevisionCommands {
    @ParentCommand
    private Entente entente;

    @Command(name = "list", description = "All revisions, newest first.")
    int list() {
        List<AdminApi.Revision> revisions = entente.api()
                .get(
                        "/revisions",
                        Api.JSON.getTypeFactory().constructCollectionType(List.class, AdminApi.Revision.class));
        entente.printer()
                .list(
                        revisions,
                        "Nothing is published yet: entente draft start",
                        List.of(
                                new Column<>("REVISION", AdminApi.Revision::number),
                                new Column<>("PUBLISHED", r -> Printer.time(r.publishedAt())),
                                new Column<>("BY", AdminApi.Revision::author),
                                new Column<>("APPROVED BY", AdminApi.Revision::approvedBy),
                                new Column<>("NOTE", AdminApi.Revision::note)));
        return Entente.DONE;
    }

    private AdminApi.Revision get(int number) {
        return entente.api().get("/revisions/" + number, AdminApi.Revision.class);
    }

    @Command(name = "show", description = "One revision with its files.")
    int show(@Parameters(paramLabel = "NUMBER") int number) {
        var revision = get(number);
        entente.printer().one(revision, () -> {
            System.out.println("Revision " + revision.number() + ", " + Printer.time(revision.publishedAt()) + ", by "
                    + revision.author() + (revision.note().isEmpty() ? "" : ": " + revision.note()));
            revision.files().forEach((path, text) -> System.out.print("--- " + path + "\n" + text));
        });
        return Entente.DONE;
    }

    @Command(name = "changes", description = "What a revision changed, beside the one before it.")
    int changes(@Parameters(paramLabel = "NUMBER") int number) {
        DraftCommands.print(entente, entente.api().get("/revisions/" + number + "/changes", AdminApi.Comparison.class));
        return Entente.DONE;
    }

    @Command(name = "compare", description = "What restoring a revision would change.")
    int compare(@Parameters(paramLabel = "NUMBER") int number) {
        DraftCommands.print(
                entente, entente.api().get("/revisions/" + number + "/comparison", AdminApi.Comparison.class));
        return Entente.DONE;
    }

    @Command(name = "restore", description = "Make what a revision held the next revision.")
    int restore(
            @Parameters(paramLabel = "NUMBER") int number,
            @Option(names = "--note", defaultValue = "", description = "why, for the history") String note,
            @Option(
                            names = "--loses-way",
                            paramLabel = "COUNT",
                            description = "how many people may lose a way in, as the service counted them")
                    Integer losesWay) {
        var revision = entente.api()
                .post(
                        "/revisions/" + number + "/restoration",
                        new AdminApi.Publication(note, null, losesWay, null, null),
                        AdminApi.Revision.class);
        entente.printer().one(revision, () -> System.out.println("Revision " + revision.number() + " is in force."));
        return Entente.DONE;
    }

    @Command(name = "export", description = "Write a revision's files to a folder.")
    int export(@Parameters(paramLabel = "NUMBER") int number, @Parameters(paramLabel = "DIR") Path folder)
            throws IOException {
        DraftCommands.write(folder, get(number).files());
        return Entente.DONE;
    }
}
