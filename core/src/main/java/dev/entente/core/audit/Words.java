package dev.entente.core.audit;

import com.ibm.icu.text.BreakIterator;
import com.ibm.icu.text.Normalizer2;
import com.ibm.icu.util.ULocale;
import java.util.LinkedHashSet;
import java.util.Set;

/**
 * The words of a text, as they are looked for: split where any language splits them (Unicode Standard Annex 29, with dictionaries for those
 * that write no spaces) and at the signs in names and addresses, and alike whatever their case and width (NFKC_Casefold).
 */
public final class Words {
    private static final Normalizer2 FOLD = Normalizer2.getNFKCCasefoldInstance();
    private static final int LONGEST = 40;

    private Words() {}

    /**
     * In the order of the text, each once. A single letter is no word; a single ideograph is one.
     *
     * @param most at most so many
     */
    public static Set<String> of(String text, int most) {
        var folded = FOLD.normalize(text).replaceAll("[._:@/\\\\=-]", " ");
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

    private static String cut(String word) {
        return word.substring(0, Character.isHighSurrogate(word.charAt(LONGEST - 1)) ? LONGEST - 1 : LONGEST);
    }
}
