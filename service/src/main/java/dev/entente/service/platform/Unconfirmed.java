package dev.entente.service.platform;

import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/**
 * A call of administrators that changes something harmless: it doesn't affect who gets in or receives codes, what is in force, or the record.
 * Every other call that changes something asks for the second factor again ({@code Guards}).
 */
@Retention(RetentionPolicy.RUNTIME)
@Target(ElementType.METHOD)
public @interface Unconfirmed {}
