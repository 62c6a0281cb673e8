package dev.entente.service.verify.questions;

import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Verifier;
import dev.entente.core.verify.questions.QuestionSet;
import dev.entente.core.verify.questions.QuestionSet.Chosen;
import dev.entente.core.verify.questions.QuestionsMethod;
import dev.entente.core.verify.questions.QuestionsVerifier;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.people.People;
import dev.entente.service.people.Person;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Sql;
import dev.entente.service.policy.Configurations;
import dev.entente.service.verify.AnswerHashes;
import dev.entente.service.verify.Enroller;
import dev.entente.service.verify.EnrolmentTable;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Comparator;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.context.annotation.Bean;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/** What people chose and answered; of answers only hashes are kept. */
@Component
class SecurityQuestions implements Enroller, QuestionsVerifier.Store {
    private static final Duration PROVISIONAL = Duration.ofDays(30);

    private final Session database;
    private final EnrolmentTable enrolments;
    private final Configurations configurations;
    private final KeyRing keys;
    private final JsonMapper json;
    private final EventLog events;
    private final InstantSource clock;
    private final AnswerHashes hashes;
    private final People people;

    SecurityQuestions(
            Session database,
            EnrolmentTable enrolments,
            Configurations configurations,
            KeyRing keys,
            JsonMapper json,
            EventLog events,
            InstantSource clock,
            AnswerHashes hashes,
            People people) {
        this.people = people;
        this.database = database;
        this.enrolments = enrolments;
        this.configurations = configurations;
        this.keys = keys;
        this.json = json;
        this.events = events;
        this.clock = clock;
        this.hashes = hashes;
    }

    @Bean
    static Verifier questions(SecurityQuestions store) {
        return new QuestionsVerifier(store, store::set);
    }

    // Not private: the bean may be a proxy, whose own fields are empty.
    QuestionSet set() {
        return configurations.current().questions();
    }

    @Override
    public Method method() {
        return Method.of(QuestionsMethod.LABEL);
    }

    @Override
    public int most() {
        return 1;
    }

    @Override
    public String usualName() {
        return "Security questions";
    }

    /** Its parts are those of {@link QuestionSet#offered}. */
    @Override
    public Offered offer(UUID id, UUID person, String login) {
        return new Offered(false, set().offered(), List.of());
    }

    /** Its parts are, for each N from 1, {@code N.question} or {@code N.own}, and {@code N.answer}. */
    @Override
    public void confirm(UUID id, UUID person, Answer answer) {
        var set = set();
        var chosen = Chosen.of(answer.parts());
        AnswerHashes.refuse(set.fault(chosen, own(person)));
        // They replace those of before.
        enrolments.replace(person, id, method()).forEach(this::forget);
        keep(id, chosen, null);
    }

    /** What is wrong with answers that an administrator brings in, to follow "refused"; empty if they can be taken. */
    Optional<String> wrong(UUID person, List<Chosen> given) {
        return set().faultOfGiven(given, own(person))
                .map(fault -> (fault.at() < 0 ? "" : given.get(fault.at()).name() + ": ") + fault.says());
    }

    /** Whether a person chose questions by themselves. */
    boolean chose(UUID person) {
        return enrolments.of(person, method()).stream().anyMatch(id -> !provisional(id));
    }

    /** Keeps answers that an administrator brought in: good for one time, and for so long. */
    void bring(UUID id, List<Chosen> given) {
        keep(id, given, clock.instant().plus(PROVISIONAL));
    }

    /** Those that an administrator brought in for somebody count no more. */
    void endProvisional(UUID person) {
        if (enrolments.of(person, method()).stream().anyMatch(this::provisional)) {
            end(person);
        }
    }

    /** The one that counts now. */
    private Optional<UUID> counting(UUID person) {
        return enrolments.of(person, method()).stream()
                .filter(id -> Sql.values(
                                database,
                                "SELECT provisional_until IS NULL OR provisional_until > :now FROM question_round"
                                        + " WHERE enrolment = :id",
                                Boolean.class)
                        .setParameter("now", clock.instant())
                        .setParameter("id", id)
                        .getResultStream()
                        .anyMatch(Boolean::booleanValue))
                .findFirst();
    }

    private boolean provisional(UUID id) {
        return Sql.values(
                        database,
                        "SELECT provisional_until IS NOT NULL FROM question_round WHERE enrolment = :id",
                        Boolean.class)
                .setParameter("id", id)
                .getResultStream()
                .anyMatch(Boolean::booleanValue);
    }

    private void end(UUID person) {
        enrolments.replace(person, new UUID(0, 0), method()).forEach(this::forget);
        events.write(NewEvent.operation("answers.ended").with("person", person.toString()));
    }

    /** What nobody used in its time counts no more. */
    @Scheduled(fixedDelay = 600_000)
    @Transactional
    void endOld() {
        Sql.values(database, "SELECT enrolment FROM question_round WHERE provisional_until < :now", UUID.class)
                .setParameter("now", clock.instant())
                .getResultList()
                .forEach(id -> enrolments.owner(id, method()).ifPresent(this::end));
    }

    private void keep(UUID id, List<Chosen> chosen, Instant provisionalUntil) {
        var set = set();
        for (var place = 0; place < chosen.size(); place++) {
            var one = chosen.get(place);
            var texts = one.name() == null
                    ? Map.of("own", one.own())
                    : texts(set.questions().get(one.name()));
            Sql.change(database, """
                            INSERT INTO security_answer (enrolment, place, texts, answer_hash, case_matters)
                            VALUES (:id, :place, :texts, :hash, :cases)""")
                    .setParameter("id", id)
                    .setParameter("place", place)
                    .setParameter("texts", keys.encrypt(context(id, place), json.writeValueAsString(texts)))
                    .setParameter("hash", hashes.hash(id, place, set.plain(one.answer())))
                    .setParameter("cases", set.caseMatters())
                    .executeUpdate();
        }
        Sql.change(
                        database,
                        "INSERT INTO question_round (enrolment, provisional_until)"
                                + " VALUES (:id, cast(:until AS timestamptz))")
                .setParameter("id", id)
                .setParameter("until", provisionalUntil)
                .executeUpdate();
    }

    private static Map<String, String> texts(QuestionSet.Question question) {
        var texts = new LinkedHashMap<>(question.texts());
        if (question.digits() > 0) {
            texts.put(QuestionsVerifier.DIGITS, String.valueOf(question.digits()));
        }
        return texts;
    }

    /** What others know of the person is no answer. */
    private Set<String> own(UUID person) {
        return QuestionSet.words(people.find(person).map(Person::known).orElse(List.of()));
    }

    private static String context(UUID id, int place) {
        return "security question " + id + " " + place;
    }

    @Override
    public void forget(UUID id) {
        for (var table : List.of("security_answer", "question_round")) {
            Sql.change(database, "DELETE FROM " + table + " WHERE enrolment = :id")
                    .setParameter("id", id)
                    .executeUpdate();
        }
    }

    private record Kept(int place, byte[] texts) {}

    @Override
    public Map<Integer, Map<String, String>> asked(UUID person, int many) {
        var asked = new LinkedHashMap<Integer, Map<String, String>>();
        counting(person).ifPresent(id -> {
            var round = Sql.values(database, "SELECT round FROM question_round WHERE enrolment = :id", Integer.class)
                    .setParameter("id", id)
                    .getSingleResult();
            Sql.rows(
                            database,
                            "SELECT place, texts FROM security_answer WHERE enrolment = :id ORDER BY place",
                            Kept.class)
                    .setParameter("id", id)
                    .getResultStream()
                    .sorted(Comparator.comparing(kept -> order(id, round, kept.place())))
                    .limit(many)
                    .sorted(Comparator.comparingInt(Kept::place))
                    .forEach(kept -> asked.put(
                            kept.place(),
                            json.readValue(
                                    keys.decrypt(context(id, kept.place()), kept.texts()), new TypeReference<>() {})));
        });
        return asked;
    }

    /** By chance, but the same until the round is over. */
    private String order(UUID enrolment, int round, int place) {
        return HexFormat.of().formatHex(keys.blind("order of questions", enrolment + " " + round + " " + place));
    }

    private record Hashed(UUID enrolment, String answerHash, boolean caseMatters) {}

    @Override
    public boolean matches(Optional<UUID> person, Map<Integer, String> answers) {
        var enrolment = person.flatMap(this::counting);
        var right = !answers.isEmpty();
        for (var answer : answers.entrySet()) {
            var kept = enrolment.flatMap(id -> Sql.rows(database, """
                            SELECT enrolment, answer_hash, case_matters FROM security_answer
                            WHERE enrolment = :id AND place = :place""", Hashed.class)
                    .setParameter("id", id)
                    .setParameter("place", answer.getKey())
                    .getResultStream()
                    .findFirst());
            // Each is looked at, whatever came of those before.
            right &= hashes.matches(
                    kept.map(Hashed::enrolment).orElse(new UUID(0, 0)),
                    answer.getKey(),
                    QuestionSet.plain(
                            answer.getValue(), kept.map(Hashed::caseMatters).orElse(false)),
                    kept.map(Hashed::answerHash).orElse(null));
        }
        return right;
    }

    @Override
    public void answered(UUID person) {
        if (enrolments.of(person, method()).stream().anyMatch(this::provisional)) {
            // Somebody else knows them: once is enough for the person to choose their own.
            end(person);
            return;
        }
        for (var id : enrolments.of(person, method())) {
            Sql.change(database, "UPDATE question_round SET round = round + 1 WHERE enrolment = :id")
                    .setParameter("id", id)
                    .executeUpdate();
            enrolments.used(id);
        }
    }
}
