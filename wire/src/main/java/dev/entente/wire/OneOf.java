package dev.entente.wire;

import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/**
 * Which texts a field or a parameter can hold, for the description of the API: those of an enumeration, in lower case with dashes, or
 * those named.
 */
@Retention(RetentionPolicy.RUNTIME)
@Target({ElementType.FIELD, ElementType.PARAMETER, ElementType.RECORD_COMPONENT})
public @interface OneOf {
    /** An enumeration whose names they are. */
    Class<? extends Enum<?>>[] value() default {};

    /** Where no enumeration has them. */
    String[] named() default {};
}
