package dev.entente.core.audit;

import com.ibm.icu.text.BreakIterator;
import com.ibm.icu.text.Normalizer2;
import com.ibm.icu.util.ULocale;
import java.util.LinkedHashSet;
import java.util.Locale;
import java.util.Set;
import java.util.regex.Pattern;

/**
 * The words of a text, as they are looked for: split where any language splits them (Unicode Standard Annex 29, with dictionaries for those
 * that write no spaces) and at the signs in names and addresses, and alike whatever their case and width (NFKC_Casefold).
 */
public final class Words {
    private static final Normalizer2 FOLD = Normalizer2.getNFKCCasefoldInstance();
    private static final int LONGEST = 40;
    private static final Pattern SIGNS = Pattern.compile("[._:@/\\\\= -]");
    private static final Pattern PLAIN = Pattern.compile("[A-Za-z0-9._:@/\\\\= -]*");

    private Words() {}

    /**
     * In the order of the text, each once. A single letter is no word; a single ideograph is one.
     *
     * @param most at most so many
     */
    public static Set<String> of(String text, int most) {
        if (PLAIN.matcher(text).matches()) {
            return plain(text.toLowerCase(Locale.ROOT), most);
        }
        var folded = SIGNS.matcher(FOLD.normalize(text)).replaceAll(" ");
        var breaks = BreakIterator.getWordInstance(ULocale.ROOT);
        breaks.setText(folded);
        var words = new LinkedHashSet<String>();
        var from = breaks.first();
        for (var to = breaks.next(); to != BreakIterator.DONE && words.size() < most; to = breaks.next()) {
            var status = breaks.getRuleStatus();
            var word = folded.substring(from, to);
            if (status >= BreakIterator.WORD_KANA || status >= BreakIterator.WORD_NUMBER && word.length() > 1) {
                words.add(word.length() > LONGEST ? cut(word) : word);
            }
            from = to;
        }
        return words;
    }

    /** What holds only letters, digits, blanks and signs that never belong to a word needs no rules of any language. */
    private static Set<String> plain(String text, int most) {
        var words = new LinkedHashSet<String>();
        for (var word : SIGNS.split(text)) {
            if (word.length() > 1 && words.size() < most) {
                words.add(word.length() > LONGEST ? cut(word) : word);
            }
        }
        return words;
    }

    private static String cut(String word) {
        return word.substring(0, Character.isHighSurrogate(word.charAt(LONGEST - 1)) ? LONGEST - 1 : LONGEST);
    }
}
