package dev.entente.service.verify.staff;

import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.questions.QuestionSet;
import dev.entente.core.verify.questions.QuestionSet.Chosen;
import dev.entente.core.verify.staff.Heard;
import dev.entente.core.verify.staff.StaffConfirmationMethod;
import dev.entente.service.people.People;
import dev.entente.service.people.Person;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Sql;
import dev.entente.service.policy.Configurations;
import dev.entente.service.verify.AnswerHashes;
import dev.entente.service.verify.Enroller;
import dev.entente.service.verify.EnrolmentTable;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/** What people want to be asked by the help desk. Nobody is shown an answer: staff type what they hear. */
@Component
public class SpokenQuestions implements Enroller {
    private final Session database;
    private final EnrolmentTable enrolments;
    private final Configurations configurations;
    private final KeyRing keys;
    private final AnswerHashes hashes;
    private final JsonMapper json;
    private final People people;

    SpokenQuestions(
            Session database,
            EnrolmentTable enrolments,
            Configurations configurations,
            KeyRing keys,
            AnswerHashes hashes,
            JsonMapper json,
            People people) {
        this.people = people;
        this.database = database;
        this.enrolments = enrolments;
        this.configurations = configurations;
        this.keys = keys;
        this.hashes = hashes;
        this.json = json;
    }

    private QuestionSet set() {
        return configurations.current().questions().spoken();
    }

    @Override
    public Method method() {
        return Method.of(StaffConfirmationMethod.LABEL);
    }

    @Override
    public int most() {
        return 1;
    }

    @Override
    public String usualName() {
        return "Questions for the help desk";
    }

    /** Its parts are those of security questions. */
    @Override
    public Offered offer(UUID id, UUID person, String login) {
        return new Offered(false, set().offered(), List.of());
    }

    /** Its parts are, for each N from 1, {@code N.question} and {@code N.answer}. */
    @Override
    public void confirm(UUID id, UUID person, Answer answer) {
        var set = set();
        var chosen = Chosen.of(answer.parts());
        AnswerHashes.refuse(set.fault(
                chosen, QuestionSet.words(people.find(person).map(Person::known).orElse(List.of()))));
        enrolments.replace(person, id, method()).forEach(this::forget);
        for (var place = 0; place < chosen.size(); place++) {
            var one = chosen.get(place);
            Sql.change(database, """
                            INSERT INTO spoken_answer (enrolment, place, texts, answer_hash)
                            VALUES (:id, :place, :texts, :hash)""")
                    .setParameter("id", id)
                    .setParameter("place", place)
                    .setParameter(
                            "texts",
                            keys.encrypt(
                                    context(id, place),
                                    json.writeValueAsString(
                                            set.questions().get(one.name()).texts())))
                    .setParameter("hash", hashes.hash(id, place, Heard.plain(one.answer())))
                    .executeUpdate();
        }
    }

    private static String context(UUID id, int place) {
        return "spoken question " + id + " " + place;
    }

    @Override
    public void forget(UUID id) {
        Sql.change(database, "DELETE FROM spoken_answer WHERE enrolment = :id")
                .setParameter("id", id)
                .executeUpdate();
    }

    private record Kept(UUID enrolment, int place, byte[] texts, String answerHash) {}

    private List<Kept> kept(UUID person) {
        var ids = enrolments.of(person, method());
        return ids.isEmpty()
                ? List.of()
                : Sql.rows(
                                database,
                                "SELECT enrolment, place, texts, answer_hash FROM spoken_answer WHERE enrolment = :id"
                                        + " ORDER BY place",
                                Kept.class)
                        .setParameter("id", ids.get(0))
                        .getResultList();
    }

    /** What a person wants to be asked, each question's texts by language; empty if they set nothing up. */
    @Transactional(propagation = Propagation.MANDATORY)
    public List<Map<String, String>> asked(UUID person) {
        var asked = new ArrayList<Map<String, String>>();
        kept(person)
                .forEach(one -> asked.add(json.readValue(
                        keys.decrypt(context(one.enrolment(), one.place()), one.texts()),
                        new TypeReference<LinkedHashMap<String, String>>() {})));
        return asked;
    }

    /** Whether what staff heard is right, all of it; true for nobody's. */
    @Transactional(propagation = Propagation.MANDATORY)
    public boolean right(UUID person, List<String> heard) {
        var right = true;
        for (var one : kept(person)) {
            right &= hashes.matches(
                    one.enrolment(),
                    one.place(),
                    Heard.plain(heard != null && one.place() < heard.size() ? heard.get(one.place()) : ""),
                    one.answerHash());
        }
        return right;
    }
}
