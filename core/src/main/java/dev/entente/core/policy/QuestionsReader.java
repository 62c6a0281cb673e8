package dev.entente.core.policy;

import dev.entente.core.policy.YamlDocument.Members;
import dev.entente.core.verify.questions.QuestionSet;
import dev.entente.core.verify.questions.QuestionSet.Question;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** Reads {@code questions.yaml}: security questions and what answers have to be. */
final class QuestionsReader {
    private static final int MOST_QUESTIONS = 200;
    private static final int MOST_BLOCKED = 1000;

    private final YamlDocument document;

    QuestionsReader(YamlDocument document) {
        this.document = document;
    }

    Optional<QuestionSet> read(String text) {
        var usual = QuestionSet.usual();
        return document.root(
                        text,
                        List.of(
                                "register",
                                "ask",
                                "own",
                                "shortest-answer",
                                "case-matters",
                                "shown",
                                "blocked-answers",
                                "questions",
                                "spoken"),
                        Set.of())
                .map(root -> {
                    var register = document.integer(root, "register", 1, 10).orElse(usual.register());
                    var ask = document.integer(root, "ask", 1, 10).orElse(Math.min(usual.ask(), register));
                    var own = document.integer(root, "own", 0, 10).orElse(usual.own());
                    var questions = root.has("questions") ? questions(root, "/questions") : usual.questions();
                    if (ask > register) {
                        wrong(root, "ask", "ask is above register, so more would be asked than anybody answered");
                    }
                    if (own > register) {
                        wrong(root, "own", "own is above register; at most all of them can be people's own");
                    }
                    if (questions.size() + own < register) {
                        wrong(
                                root,
                                root.has("questions") ? "questions" : "register",
                                "there are too few questions to register " + register);
                    }
                    var blocked = new HashSet<String>();
                    document.texts(root, "blocked-answers")
                            .orElse(List.of())
                            .forEach(word -> blocked.add(QuestionSet.plain(word, false)));
                    if (blocked.size() > MOST_BLOCKED) {
                        wrong(root, "blocked-answers", "at most 1,000 answers are possible");
                    }
                    return new QuestionSet(
                            register,
                            ask,
                            own,
                            document.integer(root, "shortest-answer", 1, 40).orElse(usual.shortest()),
                            document.flag(root, "case-matters").orElse(usual.caseMatters()),
                            document.flag(root, "shown").orElse(usual.shown()),
                            blocked,
                            questions,
                            spoken(root).orElse(usual.spoken()));
                });
    }

    /** What the help desk asks. */
    private Optional<QuestionSet> spoken(Members root) {
        return document.part(root, "spoken", List.of("register", "questions"), Set.of())
                .map(in -> {
                    var usual = QuestionSet.usual().spoken();
                    var register = document.integer(in, "register", 1, 5).orElse(usual.register());
                    var questions = in.has("questions") ? questions(in, "/spoken/questions") : usual.questions();
                    if (questions.size() < register) {
                        wrong(
                                in,
                                in.has("questions") ? "questions" : "register",
                                "there are too few questions to register " + register);
                    }
                    return QuestionSet.spoken(register, questions);
                });
    }

    private void wrong(Members in, String name, String message) {
        document.problem(in.values().getOrDefault(name, in.node()), in.pointer() + "/" + name, message);
    }

    private Map<String, Question> questions(Members root, String pointer) {
        var questions = new LinkedHashMap<String, Question>();
        document.mapping(root.values().get("questions"), pointer)
                .ifPresent(all -> all.values().forEach((name, node) -> {
                    var at = pointer + "/" + name;
                    if (!name.matches("[a-z0-9][a-z0-9-]{0,62}")) {
                        document.problem(node, at, "a name has at most 63 lower-case letters, digits and dashes");
                        return;
                    }
                    document.members(node, at, List.of("digits", "texts"), Set.of())
                            .ifPresent(in -> {
                                var texts = ConfigurationReader.languages(document, in, "texts");
                                if (texts.isEmpty()) {
                                    document.problem(
                                            node,
                                            at,
                                            "\"texts\" is missing: give one for each language, such as en: …");
                                } else if (texts.values().stream()
                                        .anyMatch(t -> t.length() > QuestionSet.LONGEST_QUESTION)) {
                                    document.problem(
                                            node,
                                            at,
                                            "a question has at most " + QuestionSet.LONGEST_QUESTION + " characters");
                                }
                                questions.put(
                                        name,
                                        new Question(
                                                document.integer(in, "digits", 4, 12)
                                                        .orElse(0),
                                                texts));
                            });
                }));
        if (questions.size() > MOST_QUESTIONS) {
            wrong(root, "questions", "at most " + MOST_QUESTIONS + " questions are possible");
        }
        return questions;
    }
}
