package dev.entente.service.platform;

import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/**
 * A method of a component that is called when something of its feature is due: at most a second after it came to be, and not
 * twice at a time on one node. Other nodes may call it at the same time, and it may turn out that another has done the work.
 * {@link DueLook} looks for all of them with one statement.
 */
@Target(ElementType.METHOD)
@Retention(RetentionPolicy.RUNTIME)
public @interface WhenDue {
    /** A query of SQL on the feature's own tables that finds something when there is something to do; quick when not. */
    String value();

    /** Seconds between one call's end and the next one's beginning, for what stays due although it was done. */
    int pause() default 0;
}
