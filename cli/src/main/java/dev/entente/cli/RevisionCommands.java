package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.DraftApi;
import java.io.IOException;
import java.nio.file.Path;
import java.util.List;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** Published states of the configuration. */
@Command(name = "revision", addMethodSubcommands = false, description = "Look at the published configuration.")
final class RevisionCommands {
    @ParentCommand
    private Entente entente;

    @Command(name = "list", description = "All revisions, newest first.")
    int list() {
        List<DraftApi.Revision> revisions = entente.api().get("/revisions", Api.list(DraftApi.Revision.class));
        entente.printer()
                .list(
                        revisions,
                        "Nothing is published yet. Start with entente draft start",
                        List.of(
                                new Column<>("REVISION", DraftApi.Revision::number),
                                new Column<>("PUBLISHED", r -> Printer.time(r.publishedAt())),
                                new Column<>("BY", DraftApi.Revision::author),
                                new Column<>("APPROVED BY", DraftApi.Revision::approvedBy),
                                new Column<>("NOTE", DraftApi.Revision::note)));
        return Entente.DONE;
    }

    private DraftApi.Revision get(int number) {
        return entente.api().get(Api.at("/revisions/{}", number), DraftApi.Revision.class);
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

    @Command(name = "changes", description = "What a revision changed from the one before.")
    int changes(@Parameters(paramLabel = "NUMBER") int number) {
        DraftCommands.print(
                entente, entente.api().get(Api.at("/revisions/{}/changes", number), DraftApi.Comparison.class));
        return Entente.DONE;
    }

    @Command(name = "compare", description = "What restoring a revision would change.")
    int compare(@Parameters(paramLabel = "NUMBER") int number) {
        DraftCommands.print(
                entente, entente.api().get(Api.at("/revisions/{}/comparison", number), DraftApi.Comparison.class));
        return Entente.DONE;
    }

    @Command(name = "restore", description = "Publish an earlier revision again, as the next one.")
    int restore(
            @Parameters(paramLabel = "NUMBER") int number,
            @Option(names = "--note", defaultValue = "", description = "why, for the history") String note,
            @Option(
                            names = "--loses-way",
                            paramLabel = "COUNT",
                            description = "how many people may lose their way in, as the service counted")
                    Integer losesWay) {
        var revision = entente.api()
                .post(
                        Api.at("/revisions/{}/restoration", number),
                        new DraftApi.Publication(note, null, losesWay, null, null),
                        DraftApi.Revision.class);
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
