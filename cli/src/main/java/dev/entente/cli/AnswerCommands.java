package dev.entente.cli;

import dev.entente.cli.Printer.Column;
import dev.entente.wire.AnswerApi;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import picocli.CommandLine.Command;
import picocli.CommandLine.Parameters;
import picocli.CommandLine.ParentCommand;

/** Answers to security questions. */
@Command(
        name = "answers",
        addMethodSubcommands = false,
        description = "Answers to security questions that people gave elsewhere.")
final class AnswerCommands {
    @ParentCommand
    Entente entente;

    @Command(
            name = "import",
            description = {
                "Import answers from a file: CSV with the columns login, question (its name in questions.yaml) and answer, a row for"
                        + " each.",
                "They are good for one time, within 30 days; then people choose their own. Delete the file afterwards."
            })
    int bring(@Parameters(paramLabel = "FILE") Path file) {
        List<AnswerApi.GivenAnswers> people;
        try {
            people = read(file);
        } catch (IllegalArgumentException e) {
            System.err.println("entente: " + file.getFileName() + ": " + e.getMessage());
            return Entente.REFUSED;
        }
        if (people.isEmpty()) {
            System.err.println("entente: there is no answer in " + file.getFileName());
            return Entente.REFUSED;
        }
        var outcomes = new ArrayList<AnswerApi.AnswerOutcome>();
        for (var from = 0; from < people.size(); from += AnswerApi.MOST) {
            var part = people.subList(from, Math.min(people.size(), from + AnswerApi.MOST));
            outcomes.addAll(entente.api()
                    .post(
                            "/security-answers",
                            new AnswerApi.AnswerImport(List.copyOf(part)),
                            AnswerApi.AnswersImported.class)
                    .people());
        }
        entente.printer()
                .list(
                        outcomes,
                        "No answer.",
                        List.of(
                                new Column<>("LOGIN", AnswerApi.AnswerOutcome::login),
                                new Column<>("STATE", AnswerApi.AnswerOutcome::state),
                                new Column<>("WHY", AnswerApi.AnswerOutcome::why)));
        return TokenCommands.summed(
                outcomes.stream().map(AnswerApi.AnswerOutcome::state).toList());
    }

    private static List<AnswerApi.GivenAnswers> read(Path file) {
        try (var reader = Files.newBufferedReader(file);
                var rows = TokenCommands.format().parse(reader)) {
            TokenCommands.columns(rows, "login", "question", "answer");
            var answers = new LinkedHashMap<String, List<AnswerApi.GivenAnswer>>();
            for (var row : rows) {
                answers.computeIfAbsent(row.get("login"), login -> new ArrayList<>())
                        .add(new AnswerApi.GivenAnswer(row.get("question"), row.get("answer")));
            }
            return answers.entrySet().stream()
                    .map(e -> new AnswerApi.GivenAnswers(e.getKey(), List.copyOf(e.getValue())))
                    .toList();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
