package dev.entente.service.platform;

import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/** A call that returns a list of people. The caller, the query and the number of entries are recorded. */
@Retention(RetentionPolicy.RUNTIME)
@Target(ElementType.METHOD)
public @interface Reads {
    /** What is read, a word of the event {@code list.read}. */
    String value();
}
