package dev.entente.core.policy;

import java.util.Collection;
import java.util.List;
import java.util.Locale;

/** Which of several texts somebody reads best. */
public final class Languages {
    private static final int LONGEST_WISH = 200;
    private static final String USUAL = "en";

    private Languages() {}

    /**
     * The language to use, by look-up (RFC 4647 section 3.4).
     *
     * @param there languages that there are texts in (BCP 47), at least one
     * @param wanted what somebody wants, as browsers (RFC 9110 section 12.5.4) and directories (RFC 2798 section 2.7) say it;
     *     null or unreadable for nothing known
     * @return what suits best, else English, else the first in the order of the alphabet
     */
    public static String choose(Collection<String> there, String wanted) {
        var found = Locale.lookupTag(ranges(wanted), there);
        if (found != null) {
            // Look-up answers in lower case.
            return there.stream().filter(found::equalsIgnoreCase).findFirst().orElse(found);
        }
        return there.contains(USUAL)
                ? USUAL
                : there.stream().sorted().findFirst().orElseThrow();
    }

    /** What somebody wants, if it can be read and is worth keeping; null otherwise. */
    public static String wish(String wanted) {
        return ranges(wanted).isEmpty() ? null : wanted;
    }

    private static List<Locale.LanguageRange> ranges(String wanted) {
        if (wanted == null || wanted.isBlank() || wanted.length() > LONGEST_WISH) {
            return List.of();
        }
        try {
            return Locale.LanguageRange.parse(wanted);
        } catch (IllegalArgumentException e) {
            return List.of();
        }
    }
}
