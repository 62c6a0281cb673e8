package dev.entente.service.verify.questions;

import dev.entente.core.verify.questions.QuestionSet.Chosen;
import dev.entente.service.approval.Approvals;
import dev.entente.service.people.People;
import dev.entente.service.people.Person;
import dev.entente.service.platform.Answers;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Problem;
import dev.entente.service.verify.BroughtIn;
import dev.entente.service.verify.Enrolments;
import dev.entente.wire.AnswerApi;
import dev.entente.wire.AnswerApi.GivenAnswers;
import java.util.List;
import java.util.Optional;
import org.springframework.context.event.EventListener;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.json.JsonMapper;

/**
 * Brings in answers to security questions. Whoever does knows them, so they are provisional: good for one time, and waiting for
 * another administrator where weakenings do. Everybody is told of theirs.
 */
@RestController
@RequestMapping("/api/v1/security-answers")
class AnswerController {
    private static final String KIND = "security-answers";

    private final SecurityQuestions questions;
    private final Enrolments enrolments;
    private final People people;
    private final BroughtIn imports;
    private final JsonMapper json;

    AnswerController(
            SecurityQuestions questions, Enrolments enrolments, People people, BroughtIn imports, JsonMapper json) {
        this.questions = questions;
        this.enrolments = enrolments;
        this.people = people;
        this.imports = imports;
        this.json = json;
    }

    /** Brings them in; 202 if that waits for another administrator. What can't be used is told one by one, and the rest goes on. */
    @Answers({200, 202})
    @Fails("answers-number")
    @PostMapping
    @Transactional
    public ResponseEntity<AnswerApi.AnswersImported> bring(
            @RequestBody AnswerApi.AnswerImport wanted, @AuthenticationPrincipal String administrator) {
        if (wanted.people() == null
                || wanted.people().isEmpty()
                || wanted.people().size() > AnswerApi.MOST) {
            throw Problem.of("answers-number").with("most", AnswerApi.MOST);
        }
        var brought = imports.bring(
                KIND,
                wanted.people(),
                GivenAnswers::login,
                "they appear twice",
                this::wrong,
                AnswerController::says,
                AnswerApi.AnswerImport::new,
                administrator);
        return ResponseEntity.status(brought.made() ? HttpStatus.OK : HttpStatus.ACCEPTED)
                .body(new AnswerApi.AnswersImported(brought.each().stream()
                        .map(o -> new AnswerApi.AnswerOutcome(o.item().login(), o.state(), o.why()))
                        .toList()));
    }

    private static String says(List<GivenAnswers> people) {
        return "Provisional answers to security questions are imported, for "
                + BroughtIn.named(people.stream().map(GivenAnswers::login).toList()) + ".";
    }

    /** Why somebody's can't be used, to follow "refused". */
    private Optional<String> wrong(GivenAnswers given) {
        var owner = owner(given);
        if (owner.isEmpty()) {
            return Optional.of("no one signs in as " + given.login());
        }
        if (questions.chose(owner.get().id())) {
            return Optional.of("they have set up questions of their own already");
        }
        return questions.wrong(owner.get().id(), chosen(given));
    }

    private Optional<Person> owner(GivenAnswers given) {
        return given.login() == null ? Optional.empty() : people.byLogin(given.login());
    }

    private static List<Chosen> chosen(GivenAnswers given) {
        return given.answers() == null
                ? List.of()
                : given.answers().stream()
                        .map(a -> new Chosen(a.question(), null, a.answer()))
                        .toList();
    }

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void make(Approvals.Approved change) {
        if (!change.kind().equals(KIND)) {
            return;
        }
        for (var given :
                json.readValue(change.wanted(), AnswerApi.AnswerImport.class).people()) {
            // Things may have changed while it waited.
            var owner = owner(given);
            if (owner.isPresent() && wrong(given).isEmpty()) {
                var person = owner.get().id();
                questions.endProvisional(person);
                enrolments
                        .give(person, questions.method(), "Provisional answers", change.author())
                        .ifPresent(id -> questions.bring(id, chosen(given)));
            }
        }
        change.handled().set(true);
    }
}
