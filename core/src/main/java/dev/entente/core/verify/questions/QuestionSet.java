package dev.entente.core.verify.questions;

import java.text.Normalizer;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collection;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/**
 * Which questions there are, and what answers have to be.
 *
 * @param register how many a person answers when they set it up, 1 to 10
 * @param ask how many of those are asked at once
 * @param own how many of those may be questions of the person's own
 * @param shortest how many characters an answer has at least, as it is compared
 * @param caseMatters whether capital letters make another answer
 * @param shown whether an answer can be read while it is typed, unless the person hides it
 * @param blocked what is no answer, as it is compared
 * @param questions by name
 * @param spoken the set of its own from which the help desk asks; null in that one
 */
public record QuestionSet(
        int register,
        int ask,
        int own,
        int shortest,
        boolean caseMatters,
        boolean shown,
        Set<String> blocked,
        Map<String, Question> questions,
        QuestionSet spoken) {
    /** The longest answer that is looked at, in characters. */
    public static final int LONGEST_ANSWER = 100;

    /** The longest question of a person's own, in characters. */
    public static final int LONGEST_QUESTION = 200;

    private static final int MOST_GIVEN = 10;
    private static final int SHORTEST_QUESTION = 10;
    private static final int SHORTEST_WORD = 3;
    private static final List<String> RUNS = List.of(
            "abcdefghijklmnopqrstuvwxyz",
            "01234567890",
            "qwertyuiop",
            "qwertzuiop",
            "azertyuiop",
            "asdfghjkl",
            "zxcvbnm",
            "yxcvbnm",
            "wxcvbn");

    /**
     * One question.
     *
     * @param digits how many digits its answer has at least, for a number such as a PIN; 0 for words
     * @param texts by language (BCP 47), at least one
     */
    public record Question(int digits, Map<String, String> texts) {
        public Question {
            texts = Map.copyOf(texts);
        }
    }

    /**
     * A question that somebody chose, with their answer.
     *
     * @param name of a question of the set; null for one of their own
     * @param own the text of their own one; null for one of the set
     */
    public record Chosen(String name, String own, String answer) {
        /** Reads {@code N.question} or {@code N.own}, and {@code N.answer}, for each N from 1. */
        public static List<Chosen> of(Map<String, String> parts) {
            var chosen = new ArrayList<Chosen>();
            for (var i = 1; parts.containsKey(i + ".answer"); i++) {
                var own = parts.get(i + ".own");
                chosen.add(new Chosen(
                        own == null ? parts.get(i + ".question") : null,
                        own == null ? null : own.strip(),
                        parts.get(i + ".answer")));
            }
            return chosen;
        }

        /** Shows nothing of the answer. */
        @Override
        public String toString() {
            return "Chosen[" + (name == null ? "own" : name) + "]";
        }
    }

    /**
     * What is wrong with something that was chosen.
     *
     * @param at which one, from 0; -1 for all of them together
     * @param code for programs, lower case and dashes
     * @param says a sentence for the person
     */
    public record Fault(int at, String code, String says) {
        /** The sentence, after which one it is about. */
        public String words() {
            return (at < 0 ? "" : "Question " + (at + 1) + ": ") + says;
        }
    }

    public QuestionSet {
        blocked = Set.copyOf(blocked);
        questions = java.util.Collections.unmodifiableMap(new LinkedHashMap<>(questions));
    }

    /** What holds where the configuration says nothing. */
    public static QuestionSet usual() {
        var questions = new LinkedHashMap<String, Question>();
        questions.put("first-teacher", text("What was the name of your first teacher?"));
        questions.put("first-street", text("What was the name of the first street you lived in?"));
        questions.put("childhood-place", text("Which place did you most like to play in as a child?"));
        questions.put("first-job", text("What did you do in your first job?"));
        questions.put("first-concert", text("Whose concert was the first you went to?"));
        questions.put("best-meal", text("Which dish did your family cook on special days?"));
        questions.put("old-book", text("Which book did you read more than once when you were young?"));
        questions.put("dream-trip", text("Where did you want to travel when you were a child?"));
        return new QuestionSet(3, 2, 0, 3, false, false, Set.of(), questions, usualSpoken());
    }

    private static QuestionSet usualSpoken() {
        var questions = new LinkedHashMap<String, Question>();
        questions.put("childhood-friend", text("What was your best friend called when you were a child?"));
        questions.put("grandparents-town", text("In which town did your grandparents live?"));
        questions.put("first-holiday", text("Where did you go on the first holiday that you remember?"));
        questions.put("school-subject", text("Which subject did you like best at school?"));
        return spoken(2, questions);
    }

    /** Questions that the help desk asks, of which everybody registers so many. */
    public static QuestionSet spoken(int register, Map<String, Question> questions) {
        return new QuestionSet(register, register, 0, 2, false, true, Set.of(), questions, null);
    }

    private static Question text(String en) {
        return new Question(0, Map.of("en", en));
    }

    /**
     * What a page needs to let somebody choose: {@code register}, {@code own}, {@code shown}, {@code shortest}, and the questions'
     * texts as {@code question.NAME.LANGUAGE}, with {@code digits.NAME} where a number is wanted.
     */
    public Map<String, String> offered() {
        var parts = new LinkedHashMap<String, String>();
        parts.put("register", String.valueOf(register));
        parts.put("own", String.valueOf(own));
        parts.put("shown", String.valueOf(shown));
        parts.put("shortest", String.valueOf(shortest));
        questions.forEach((name, question) -> {
            question.texts().forEach((language, text) -> parts.put("question." + name + "." + language, text));
            if (question.digits() > 0) {
                parts.put("digits." + name, String.valueOf(question.digits()));
            }
        });
        return parts;
    }

    /** What others know of a person, from which no answer may be taken: names, sign-in names, addresses. */
    public static Set<String> words(Collection<String> known) {
        return known.stream()
                .filter(Objects::nonNull)
                .flatMap(text -> Stream.concat(
                        Stream.of(plain(text, false).replace(" ", "")),
                        Arrays.stream(plain(text, false).split(" "))))
                .filter(word -> word.length() >= SHORTEST_WORD)
                .collect(Collectors.toSet());
    }

    /** An answer as it is compared. */
    public String plain(String answer) {
        return plain(answer, caseMatters);
    }

    /**
     * An answer as it is compared: compatible characters alike (Unicode NFKC), without signs and runs of spaces, a number without any
     * spaces, and in lower case unless that matters.
     */
    public static String plain(String answer, boolean caseMatters) {
        if (answer == null || answer.length() > LONGEST_ANSWER) {
            return "";
        }
        var plain = Normalizer.normalize(answer, Normalizer.Form.NFKC)
                .replaceAll("[\\p{P}\\p{S}]", " ")
                .replaceAll("\\s+", " ")
                .strip();
        if (plain.matches("[0-9 ]+")) {
            plain = plain.replace(" ", "");
        }
        return caseMatters ? plain : plain.toLowerCase(Locale.ROOT);
    }

    /**
     * The first fault in the chosen questions and answers; empty if there is none.
     *
     * @param own {@link #words} of the person
     */
    public Optional<Fault> fault(List<Chosen> chosen, Set<String> own) {
        if (chosen.size() != register) {
            return fault(-1, "too-few-questions", "Choose " + register + " questions, and answer each.");
        }
        if (chosen.stream().filter(c -> c.own() != null).count() > this.own) {
            return fault(
                    -1,
                    "too-many-own-questions",
                    this.own == 0
                            ? "Choose your questions from the list."
                            : "At most " + this.own + " may be questions of your own.");
        }
        return faultOfEach(chosen, own);
    }

    /** What is wrong with answers that an administrator brings in for somebody; empty if they can be taken. */
    public Optional<Fault> faultOfGiven(List<Chosen> given, Set<String> own) {
        return given.size() < ask || given.size() > MOST_GIVEN
                ? fault(-1, "answers-number", "give " + ask + " to " + MOST_GIVEN + " answers")
                : faultOfEach(given, own);
    }

    private Optional<Fault> faultOfEach(List<Chosen> chosen, Set<String> own) {
        var asked = new HashSet<String>();
        var answers = new HashSet<String>();
        for (var i = 0; i < chosen.size(); i++) {
            var one = chosen.get(i);
            var fault = fault(i, one, own);
            if (fault.isPresent()) {
                return fault;
            }
            if (!asked.add(one.name() == null ? "own " + plain(one.own()) : one.name())) {
                return fault(i, "question-twice", "This question is already chosen. Choose another one.");
            }
            if (!answers.add(plain(one.answer()))) {
                return fault(i, "answer-twice", "This is already the answer to another question. Give another one.");
            }
        }
        return Optional.empty();
    }

    private Optional<Fault> fault(int at, Chosen one, Set<String> own) {
        var question = one.name() == null ? null : questions.get(one.name());
        if (question == null && one.own() == null) {
            return fault(at, "unknown-question", "Choose a question.");
        }
        if (question == null
                && (one.own().strip().length() < SHORTEST_QUESTION || one.own().length() > LONGEST_QUESTION)) {
            return fault(
                    at,
                    "own-question-length",
                    "A question of your own has " + SHORTEST_QUESTION + " to " + LONGEST_QUESTION + " characters.");
        }
        if (one.answer() != null && one.answer().length() > LONGEST_ANSWER) {
            return fault(at, "answer-too-long", "An answer has at most " + LONGEST_ANSWER + " characters.");
        }
        var answer = plain(one.answer());
        if (question != null && question.digits() > 0) {
            return answer.matches("[0-9]{" + question.digits() + ",}")
                    ? answer.chars().distinct().count() < 3 || runs(answer)
                            ? fault(at, "answer-blocked", "Choose a number that is harder to guess.")
                            : Optional.empty()
                    : fault(
                            at,
                            "answer-too-short",
                            "Type a number of at least " + question.digits() + " digits, and nothing else.");
        }
        if (answer.codePointCount(0, answer.length()) < shortest) {
            return fault(at, "answer-too-short", "An answer has at least " + shortest + " letters or digits.");
        }
        var lower = answer.toLowerCase(Locale.ROOT);
        if (blocked.contains(lower) || repeats(lower) || runs(lower)) {
            return fault(at, "answer-blocked", "This answer is too easy to guess. Give another one.");
        }
        if (own.contains(lower.replace(" ", "")) || own.containsAll(Arrays.asList(lower.split(" ")))) {
            return fault(
                    at,
                    "answer-personal",
                    "This answer is part of your name, sign-in name or address, which others know. Give another one.");
        }
        var texts = question == null
                ? List.of(one.own())
                : List.copyOf(question.texts().values());
        var words = Arrays.stream(answer.toLowerCase(Locale.ROOT).split(" ")).toList();
        var ofQuestion = texts.stream()
                .flatMap(t -> Arrays.stream(plain(t).toLowerCase(Locale.ROOT).split(" ")))
                .filter(w -> w.length() >= SHORTEST_WORD)
                .collect(Collectors.toSet());
        return words.stream().anyMatch(ofQuestion::contains)
                ? fault(at, "answer-in-question", "The answer uses a word of the question. Give another one.")
                : Optional.empty();
    }

    /** Whether it is one character, or up to three of them, again and again. */
    private static boolean repeats(String answer) {
        return answer.matches("(.)\\1+|(..)\\2+|(...)\\3+");
    }

    /** Whether each character follows the one before, in the alphabet, among digits or on a keyboard, forwards or backwards. */
    private static boolean runs(String answer) {
        return answer.length() >= SHORTEST_WORD
                && RUNS.stream()
                        .anyMatch(run -> run.contains(answer)
                                || new StringBuilder(run).reverse().indexOf(answer) >= 0);
    }

    private static Optional<Fault> fault(int at, String code, String says) {
        return Optional.of(new Fault(at, code, says));
    }
}
