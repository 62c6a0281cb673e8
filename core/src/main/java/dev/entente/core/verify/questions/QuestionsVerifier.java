package dev.entente.core.verify.questions;

import dev.entente.core.guess.GuessingSpace;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Page;
import dev.entente.core.verify.Verifier;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.function.Supplier;

/** Asks some of the questions that a person set up: the same ones until they were answered, then others. */
public final class QuestionsVerifier implements Verifier {
    /** How many answers one that is easily guessed has, so to speak: what colleagues know helps a lot. */
    private static final int FEW = 100;

    /** Nobody is asked who has not proved something else of the same person's first: no method is easier to guess than this. */
    private static final double BEFORE = 1e8;

    /** Where questions are kept. */
    public interface Store {
        /** The questions of a person that are asked now, in their order, by their place; empty for nobody. */
        Map<Integer, Map<String, String>> asked(UUID person, int many);

        /**
         * Whether these are all the answers, as typed, by the places of the questions.
         *
         * @param person empty for nobody, and then it takes the same work
         */
        boolean matches(Optional<UUID> person, Map<Integer, String> answers);

        /** From now on others are asked. */
        void answered(UUID person);
    }

    /** Beside the texts of a question whose answer is a number: how many digits it has at least. */
    public static final String DIGITS = "digits";

    private final Store store;
    private final Supplier<QuestionSet> set;

    public QuestionsVerifier(Store store, Supplier<QuestionSet> set) {
        this.store = store;
        this.set = set;
    }

    @Override
    public Method method() {
        return Method.of(QuestionsMethod.LABEL);
    }

    /**
     * Its parts are {@code count}, {@code shown}, and each question's text as {@code N.LANGUAGE}, N from 1; {@code digits.N} where a
     * number is wanted.
     */
    @Override
    public Shown show(UUID challenge, Page page, Optional<UUID> proven) {
        var now = set.get();
        var parts = new LinkedHashMap<String, String>();
        var asked = proven.map(person -> store.asked(person, now.ask())).orElse(Map.of());
        parts.put("count", String.valueOf(asked.size()));
        parts.put("shown", String.valueOf(now.shown()));
        var places = new ArrayList<String>();
        asked.forEach((place, texts) -> {
            places.add(String.valueOf(place));
            texts.forEach((language, text) -> parts.put(
                    language.equals(DIGITS) ? DIGITS + "." + places.size() : places.size() + "." + language, text));
        });
        return new Shown(String.join(",", places).getBytes(StandardCharsets.US_ASCII), parts);
    }

    private static List<Integer> places(Asked asked) {
        var kept = asked.kept() == null ? "" : new String(asked.kept(), StandardCharsets.US_ASCII);
        return kept.isEmpty()
                ? List.of()
                : List.of(kept.split(",")).stream().map(Integer::valueOf).toList();
    }

    /** The answer's parts are the answers, as {@code 1}, {@code 2} and so on. */
    @Override
    public Judgement judge(Asked asked, Optional<UUID> person, Answer answer) {
        var answers = new LinkedHashMap<Integer, String>();
        var places = places(asked);
        for (var i = 0; i < places.size(); i++) {
            answers.put(places.get(i), answer.parts().getOrDefault(String.valueOf(i + 1), ""));
        }
        var right = store.matches(person, answers) && !answers.isEmpty();
        if (right) {
            store.answered(person.orElseThrow());
        }
        return Judgement.of(right);
    }

    @Override
    public String wrong(int triesLeft) {
        return triesLeft == 0
                ? "Not all of these answers were right, and they can't be tried again now. Choose another method, or start again."
                : "Not all of these answers were right. Check them and try again.";
    }

    @Override
    public GuessingSpace space(Asked asked, Answer answer) {
        var many = asked.kept() == null
                ? set.get().ask()
                : Math.max(1, places(asked).size());
        return new GuessingSpace(BEFORE * Math.pow(FEW, many), 1, true);
    }
}
