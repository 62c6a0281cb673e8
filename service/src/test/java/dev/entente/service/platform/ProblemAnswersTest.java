package dev.entente.service.platform;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Seal;
import java.sql.SQLException;
import java.sql.SQLTransientConnectionException;
import java.util.List;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;
import org.springframework.dao.DataAccessResourceFailureException;
import org.springframework.http.ProblemDetail;
import org.springframework.http.ResponseEntity;
import org.springframework.transaction.CannotCreateTransactionException;
import org.springframework.web.HttpRequestMethodNotSupportedException;

/** Whatever goes wrong is answered with a problem document that says what to do and nothing of the cause. */
class ProblemAnswersTest {
    private static final String SECRET = "Harbour-Light-42";

    private final ProblemAnswers answers = new ProblemAnswers();

    private static String type(ResponseEntity<ProblemDetail> answer) {
        return answer.getBody().getType().toString();
    }

    @Test
    void a_problem_keeps_its_sentence_and_says_when_to_try_again() {
        var answer = answers.problem(Problem.of("too-many-tries").with("retryAfter", 600));
        assertThat(answer.getStatusCode().value()).isEqualTo(429);
        assertThat(type(answer)).isEqualTo("urn:entente:problem:too-many-tries");
        assertThat(answer.getBody().getDetail()).startsWith("Too many tries from here. Try again in ten minutes");
        assertThat(answer.getHeaders().getFirst("Retry-After")).isEqualTo("600");
        assertThat(answer.getBody().getProperties()).containsEntry("retryAfter", 600);
    }

    @Test
    void a_document_that_is_refused_names_its_reason() {
        InvalidDocument invalid = null;
        try {
            Seal.parse("not a seal");
        } catch (InvalidDocument e) {
            invalid = e;
        }
        var answer = answers.document(invalid);
        assertThat(answer.getStatusCode().value()).isEqualTo(422);
        assertThat(type(answer)).startsWith("urn:entente:problem:document-");
    }

    static Stream<Exception> away() {
        return Stream.of(
                new DataAccessResourceFailureException("connection to " + SECRET + " refused"),
                new CannotCreateTransactionException("no connection", new SQLException(SECRET, "08001")),
                new IllegalStateException("wrapped", new SQLTransientConnectionException(SECRET)),
                new IllegalStateException("wrapped twice", new RuntimeException(new SQLException(SECRET, "57P01"))),
                new IllegalStateException("closed", new SQLException("the pool is closed")));
    }

    @ParameterizedTest
    @MethodSource("away")
    void a_database_that_is_away_is_told_as_that(Exception e) {
        var answer = e instanceof IllegalStateException ? answers.other(e) : answers.databaseAway(e);
        assertThat(answer.getStatusCode().value()).isEqualTo(503);
        assertThat(answer.getBody().getDetail()).contains("Nothing was lost").doesNotContain(SECRET);
        assertThat(answer.getHeaders().getFirst("Retry-After")).isEqualTo("2");
    }

    @Test
    void a_text_that_no_database_keeps_is_told_as_that_wherever_it_was_met() {
        for (var state : List.of("22021", "22P05")) {
            var met = new SQLException(SECRET, state);
            for (var answer : List.of(
                    answers.other(new IllegalStateException("at a statement", met)),
                    answers.databaseAway(new CannotCreateTransactionException("at the end", met)))) {
                assertThat(answer.getStatusCode().value()).isEqualTo(422);
                assertThat(type(answer)).isEqualTo("urn:entente:problem:zero-character");
            }
        }
    }

    static Stream<Exception> unexpected() {
        return Stream.of(
                new IllegalStateException(SECRET),
                new NullPointerException(SECRET),
                new IllegalStateException("broken rule", new SQLException(SECRET, "23505")));
    }

    @ParameterizedTest
    @MethodSource("unexpected")
    void what_nobody_expected_says_nothing_of_its_cause(Exception e) {
        var answer = answers.other(e);
        assertThat(answer.getStatusCode().value()).isEqualTo(500);
        assertThat(type(answer)).isEqualTo("urn:entente:problem:internal");
        assertThat(answer.getBody().toString()).doesNotContain(SECRET);
    }

    @Test
    void what_the_web_layer_knows_better_keeps_its_status() {
        var answer = answers.other(new HttpRequestMethodNotSupportedException("PATCH"));
        assertThat(answer.getStatusCode().value()).isEqualTo(405);
    }
}
