package dev.entente.service.platform;

import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/** A call whose answer names people, several at once: who made it, what they asked for and how many they got goes on record. */
@Retention(RetentionPolicy.RUNTIME)
@Target(ElementType.METHOD)
public @interface Reads {
    /** What is read, a word of the event {@code list.read}. */
    String value();
}
