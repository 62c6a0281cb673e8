package dev.entente.service.verify.questions;

import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Verifier;
import dev.entente.core.verify.questions.QuestionSet;
import dev.entente.core.verify.questions.QuestionSet.Chosen;
import dev.entente.core.verify.questions.QuestionsMethod;
import dev.entente.core.verify.questions.QuestionsVerifier;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import dev.entente.service.policy.Configurations;
import dev.entente.service.verify.Enroller;
import dev.entente.service.verify.EnrolmentTable;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.Semaphore;
import org.hibernate.Session;
import org.springframework.context.annotation.Bean;
import org.springframework.http.HttpStatus;
import org.springframework.security.crypto.argon2.Argon2PasswordEncoder;
import org.springframework.stereotype.Component;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/**
 * What people chose and answered. Of an answer is kept Argon2id over its HMAC under a key from outside the database: whoever has
 * the database alone has nothing to try answers on.
 */
@Component
class SecurityQuestions implements Enroller, QuestionsVerifier.Store {
    private static final String KEY = "security answers";
    private static final int AT_ONCE = 4;

    private final Session database;
    private final EnrolmentTable enrolments;
    private final Configurations configurations;
    private final KeyRing keys;
    private final JsonMapper json;
    private final Argon2PasswordEncoder argon2 = Argon2PasswordEncoder.defaultsForSpringSecurity_v5_8();
    private final String nobody = argon2.encode("nobody answered this");
    /** Each takes memory and a core for a while. */
    private final Semaphore hashing = new Semaphore(AT_ONCE, true);

    SecurityQuestions(
            Session database, EnrolmentTable enrolments, Configurations configurations, KeyRing keys, JsonMapper json) {
        this.database = database;
        this.enrolments = enrolments;
        this.configurations = configurations;
        this.keys = keys;
        this.json = json;
    }

    @Bean
    static Verifier questions(SecurityQuestions store) {
        return new QuestionsVerifier(store, store::set);
    }

    private QuestionSet set() {
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

    /**
     * Its parts are {@code register}, {@code own}, {@code shown}, {@code shortest}, and the questions' texts as
     * {@code question.NAME.LANGUAGE}, with {@code digits.NAME} where a number is wanted.
     */
    @Override
    public Offered offer(UUID id, UUID person, String login) {
        var set = set();
        var parts = new LinkedHashMap<String, String>();
        parts.put("register", String.valueOf(set.register()));
        parts.put("own", String.valueOf(set.own()));
        parts.put("shown", String.valueOf(set.shown()));
        parts.put("shortest", String.valueOf(set.shortest()));
        set.questions().forEach((name, question) -> {
            question.texts().forEach((language, text) -> parts.put("question." + name + "." + language, text));
            if (question.digits() > 0) {
                parts.put("digits." + name, String.valueOf(question.digits()));
            }
        });
        return new Offered(false, parts, List.of());
    }

    /** Its parts are, for each N from 1, {@code N.question} or {@code N.own}, and {@code N.answer}. */
    @Override
    public void confirm(UUID id, UUID person, Answer answer) {
        var set = set();
        var chosen = new ArrayList<Chosen>();
        for (var i = 1; answer.parts().containsKey(i + ".answer"); i++) {
            var own = answer.parts().get(i + ".own");
            chosen.add(new Chosen(
                    own == null ? answer.parts().get(i + ".question") : null,
                    own == null ? null : own.strip(),
                    answer.parts().get(i + ".answer")));
        }
        set.fault(chosen).ifPresent(fault -> {
            throw Problem.of(
                    HttpStatus.UNPROCESSABLE_CONTENT,
                    fault.code(),
                    (fault.at() < 0 ? "" : "Question " + (fault.at() + 1) + ": ") + fault.says(),
                    Map.of("at", fault.at() + 1));
        });
        // They replace those of before.
        enrolments.replace(person, id, method()).forEach(this::forget);
        for (var place = 0; place < chosen.size(); place++) {
            var one = chosen.get(place);
            var texts = one.name() == null
                    ? Map.of("own", one.own())
                    : set.questions().get(one.name()).texts();
            Sql.change(database, """
                            INSERT INTO security_answer (enrolment, place, texts, answer_hash, case_matters)
                            VALUES (:id, :place, :texts, :hash, :cases)""")
                    .setParameter("id", id)
                    .setParameter("place", place)
                    .setParameter("texts", keys.encrypt(context(id, place), json.writeValueAsString(texts)))
                    .setParameter("hash", hash(peppered(id, place, set.plain(one.answer()))))
                    .setParameter("cases", set.caseMatters())
                    .executeUpdate();
        }
        Sql.change(database, "INSERT INTO question_round (enrolment) VALUES (:id)")
                .setParameter("id", id)
                .executeUpdate();
    }

    private static String context(UUID id, int place) {
        return "security question " + id + " " + place;
    }

    private String peppered(UUID enrolment, int place, String plain) {
        return HexFormat.of().formatHex(keys.blind(KEY, enrolment + " " + place + " " + plain));
    }

    private String hash(String peppered) {
        hashing.acquireUninterruptibly();
        try {
            return argon2.encode(peppered);
        } finally {
            hashing.release();
        }
    }

    private boolean matches(String peppered, String hash) {
        hashing.acquireUninterruptibly();
        try {
            return argon2.matches(peppered, hash == null ? nobody : hash) && hash != null;
        } finally {
            hashing.release();
        }
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
        enrolments.of(person, method()).stream().findFirst().ifPresent(id -> {
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
        var enrolment = person.flatMap(p -> enrolments.of(p, method()).stream().findFirst());
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
            right &= matches(
                    peppered(
                            kept.map(Hashed::enrolment).orElse(new UUID(0, 0)),
                            answer.getKey(),
                            QuestionSet.plain(
                                    answer.getValue(),
                                    kept.map(Hashed::caseMatters).orElse(false))),
                    kept.map(Hashed::answerHash).orElse(null));
        }
        return right;
    }

    @Override
    public void answered(UUID person) {
        for (var id : enrolments.of(person, method())) {
            Sql.change(database, "UPDATE question_round SET round = round + 1 WHERE enrolment = :id")
                    .setParameter("id", id)
                    .executeUpdate();
            enrolments.used(id);
        }
    }
}
