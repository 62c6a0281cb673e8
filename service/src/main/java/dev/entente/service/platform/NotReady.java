package dev.entente.service.platform;

import org.springframework.boot.diagnostics.AbstractFailureAnalyzer;
import org.springframework.boot.diagnostics.FailureAnalysis;

/** The service cannot start before somebody did something. */
public final class NotReady extends RuntimeException {
    private final String whatToDo;

    /** @param cause a sentence; @param whatToDo a sentence */
    NotReady(String cause, String whatToDo) {
        super(cause);
        this.whatToDo = whatToDo;
    }

    /** Says both sentences instead of a trace. */
    static final class Analyzer extends AbstractFailureAnalyzer<NotReady> {
        @Override
        protected FailureAnalysis analyze(Throwable root, NotReady cause) {
            return new FailureAnalysis(cause.getMessage(), cause.whatToDo, cause);
        }
    }
}
