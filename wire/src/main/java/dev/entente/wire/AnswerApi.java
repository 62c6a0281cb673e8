package dev.entente.wire;

import dev.entente.core.seal.OrNull;
import java.util.List;

/** Bodies of {@code /api/v1/security-answers}: answers to security questions that an administrator brings in for people. */
public final class AnswerApi {
    /** People at most in one call. */
    public static final int MOST = 1000;

    private AnswerApi() {}

    /**
     * One answer.
     *
     * @param question its name in {@code questions.yaml}
     */
    public record GivenAnswer(String question, String answer) {
        /** Shows nothing of the answer. */
        @Override
        public String toString() {
            return "GivenAnswer[" + question + "]";
        }
    }

    /**
     * One person's.
     *
     * @param login by which they sign in
     */
    public record GivenAnswers(String login, List<GivenAnswer> answers) {}

    /** Answers to bring in. */
    public record AnswerImport(List<GivenAnswers> people) {}

    /**
     * What became of one person's.
     *
     * @param state {@code imported}, {@code waits} for another administrator, or {@code refused}
     * @param why they were refused; null otherwise
     */
    public record AnswerOutcome(
            String login,
            @OneOf(named = {"imported", "waits", "refused"}) String state,
            @OrNull String why) {}

    /** What became of each, in their order. */
    public record AnswersImported(List<AnswerOutcome> people) {}
}
