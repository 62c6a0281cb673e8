package dev.entente.core.verify.questions;

import dev.entente.core.verify.Factor;
import dev.entente.core.verify.Holding;
import dev.entente.core.verify.Method;
import java.time.Duration;

/** Some of the questions that the person answered once. What is asked depends on the person, so it never comes first. */
public final class QuestionsMethod extends Method {
    public static final String LABEL = "questions";

    public QuestionsMethod() {
        super(new Facts(
                LABEL,
                60,
                Factor.KNOWLEDGE,
                null,
                Duration.ofMinutes(15),
                3,
                false,
                Source.PERSON,
                null,
                Holding.COMMON_KNOWLEDGE));
    }

    @Override
    public boolean mayComeFirst() {
        return false;
    }

    @Override
    public String words() {
        return "security questions";
    }
}
