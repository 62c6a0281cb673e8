package dev.entente.core.verify;

/**
 * The page that began an attempt, as what is signed in it names it.
 *
 * @param key thumbprint of the attempt's key (RFC 7638), which never leaves the page
 * @param reference of the attempt, digits only
 * @param action what it is for, as policies name it
 */
public record Page(String key, String reference, String action) {
    /** Of an answer that is only imagined. */
    public static final Page NONE = new Page("", "", "");

    public Page {
        reference = reference.replaceAll("[^0-9]", "");
    }
}
