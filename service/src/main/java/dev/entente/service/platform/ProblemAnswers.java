package dev.entente.service.platform;

import dev.entente.core.seal.InvalidDocument;
import java.util.Locale;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.core.Ordered;
import org.springframework.core.annotation.Order;
import org.springframework.dao.DataAccessResourceFailureException;
import org.springframework.dao.QueryTimeoutException;
import org.springframework.dao.RecoverableDataAccessException;
import org.springframework.dao.TransientDataAccessException;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.http.ProblemDetail;
import org.springframework.http.ResponseEntity;
import org.springframework.http.converter.HttpMessageNotReadableException;
import org.springframework.transaction.TransactionException;
import org.springframework.web.ErrorResponse;
import org.springframework.web.bind.annotation.ExceptionHandler;
import org.springframework.web.bind.annotation.RestControllerAdvice;
import org.springframework.web.context.request.async.AsyncRequestNotUsableException;
import org.springframework.web.context.request.async.AsyncRequestTimeoutException;
import org.springframework.web.method.annotation.MethodArgumentTypeMismatchException;

/** Turns whatever goes wrong into a problem document, without letting anything of the cause out. */
@RestControllerAdvice
@Order(Ordered.HIGHEST_PRECEDENCE)
class ProblemAnswers {
    private static final Logger log = LoggerFactory.getLogger(ProblemAnswers.class);

    @ExceptionHandler
    ResponseEntity<ProblemDetail> problem(Problem problem) {
        var answer = ResponseEntity.status(problem.status());
        problem.retryAfter().ifPresent(seconds -> answer.header(HttpHeaders.RETRY_AFTER, seconds));
        return answer.body(problem.document());
    }

    @ExceptionHandler
    ResponseEntity<ProblemDetail> document(InvalidDocument invalid) {
        return problem(
                Problem.named("document-" + invalid.reason(), "document-format").with("why", invalid.getMessage()));
    }

    @ExceptionHandler
    ResponseEntity<ProblemDetail> unreadable(HttpMessageNotReadableException e) {
        if (e.getRootCause() instanceof InvalidDocument invalid) {
            return document(invalid);
        }
        return problem(Problem.of("unreadable"));
    }

    /** An id or a number in the address that is none; what was typed is not repeated. */
    @ExceptionHandler
    ResponseEntity<ProblemDetail> mistyped(MethodArgumentTypeMismatchException e) {
        return problem(Problem.of("mistyped").with("getName", e.getName()));
    }

    @ExceptionHandler({
        DataAccessResourceFailureException.class,
        TransientDataAccessException.class,
        RecoverableDataAccessException.class,
        QueryTimeoutException.class,
        TransactionException.class
    })
    ResponseEntity<ProblemDetail> databaseAway(Exception e) {
        if (causedByZeroCharacter(e)) {
            return problem(Problem.of("zero-character"));
        }
        log.warn("database not reachable: {}", e.getClass().getSimpleName());
        return problem(Problem.of("unavailable").with("retryAfter", 2));
    }

    @ExceptionHandler
    ResponseEntity<ProblemDetail> other(Exception e) {
        if (e instanceof AsyncRequestNotUsableException || e instanceof AsyncRequestTimeoutException) {
            // Whoever followed has gone, or waited as long as anybody may and asks again: there is nobody to answer.
            return null;
        }
        if (e instanceof ErrorResponse answer) {
            // What the framework refuses has no type of its own: that of its status, such as method-not-allowed.
            var status = HttpStatus.valueOf(answer.getStatusCode().value());
            answer.getBody()
                    .setType(Problem.type(status.name().toLowerCase(Locale.ROOT).replace('_', '-')));
            return ResponseEntity.status(answer.getStatusCode())
                    .headers(answer.getHeaders())
                    .body(answer.getBody());
        }
        if (causedByZeroCharacter(e) || causedByDatabase(e)) {
            return databaseAway(e);
        }
        log.error("unexpected {}", e.getClass().getName(), e);
        return problem(Problem.of("internal"));
    }

    /** PostgreSQL keeps no U+0000: in a text its bytes are none of the encoding (22021), in JSON it can't be translated (22P05). */
    private static boolean causedByZeroCharacter(Throwable e) {
        for (var cause = e; cause != null; cause = cause.getCause()) {
            if (cause instanceof java.sql.SQLException sql
                    && ("22021".equals(sql.getSQLState()) || "22P05".equals(sql.getSQLState()))) {
                return true;
            }
        }
        return false;
    }

    private static boolean causedByDatabase(Throwable e) {
        for (var cause = e; cause != null; cause = cause.getCause()) {
            if (cause instanceof java.sql.SQLException sql
                    && (sql instanceof java.sql.SQLTransientException
                            || sql.getSQLState() == null
                            || sql.getSQLState().startsWith("08")
                            || sql.getSQLState().startsWith("57"))) {
                return true;
            }
        }
        return false;
    }
}
