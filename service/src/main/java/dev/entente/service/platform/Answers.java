package dev.entente.service.platform;

import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/**
 * With which statuses a call answers when it succeeds (RFC 9110), where that isn't 200 alone, for the description of the API. Those without
 * a body are 204, and 202 where nothing is returned yet.
 */
@Retention(RetentionPolicy.RUNTIME)
@Target(ElementType.METHOD)
public @interface Answers {
    int[] value();

    /** Those of them that come without a body, besides 204. */
    int[] empty() default {};
}
