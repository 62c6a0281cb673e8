package dev.entente.service.platform;

import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/**
 * A call of administrators that changes something and is no danger: it decides neither who gets in or gets codes nor what is in force or on
 * record. Every other call that changes something asks for a second factor again ({@code Guards}).
 */
@Retention(RetentionPolicy.RUNTIME)
@Target(ElementType.METHOD)
public @interface Unconfirmed {}
