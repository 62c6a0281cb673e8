package dev.entente.core.verify.staff;

import java.text.Normalizer;
import java.util.Locale;

/** Answers that somebody hears over a telephone and types: compared without what cannot be heard. */
public final class Heard {
    private Heard() {}

    /**
     * An answer as it is compared: without case, accents, signs and spaces, each letter once where it stands twice, and letters
     * that are written in several ways in one of them.
     */
    public static String plain(String answer) {
        if (answer == null) {
            return "";
        }
        var letters = answer.toLowerCase(Locale.ROOT)
                .replace("ø", "o")
                .replace("æ", "ae")
                .replace("å", "a")
                .replace("ß", "ss")
                .replace("ð", "d")
                .replace("þ", "th");
        return Normalizer.normalize(letters, Normalizer.Form.NFKD)
                .replaceAll("\\p{M}", "")
                .replaceAll("[^\\p{L}\\p{N}]", "")
                .replace("ph", "f")
                .replace("ck", "k")
                .replace("c", "k")
                .replace("w", "v")
                .replace("y", "i")
                .replaceAll("(.)\\1+", "$1");
    }
}
