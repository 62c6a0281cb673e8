package dev.entente.core.attempt;

import java.security.SecureRandom;
import java.util.Optional;

/**
 * The short name of an attempt that a person can read out on the phone, such as {@code R 2291 407 513}: nine random digits and
 * a check digit by the Damm algorithm (H. M. Damm, 2004), which finds every single wrong digit and every swap of
 * neighbours. The first ones had seven and a check digit, and are still read. It opens nothing: knowing one gives no access.
 *
 * @param digits ten digits, or eight
 */
public record Reference(String digits) {
    private static final int[][] DAMM = {
        {0, 3, 1, 7, 5, 9, 8, 6, 4, 2}, {7, 0, 9, 2, 1, 5, 4, 8, 6, 3},
        {4, 2, 0, 6, 8, 7, 1, 3, 5, 9}, {1, 7, 5, 0, 9, 8, 3, 4, 2, 6},
        {6, 1, 2, 3, 0, 4, 5, 9, 7, 8}, {3, 6, 7, 4, 2, 0, 9, 5, 8, 1},
        {5, 8, 6, 9, 7, 2, 0, 1, 3, 4}, {8, 9, 4, 5, 3, 6, 2, 0, 1, 7},
        {9, 4, 3, 8, 6, 1, 7, 2, 0, 5}, {2, 5, 8, 1, 4, 3, 6, 7, 9, 0}
    };

    /** Makes a new one at random; uniqueness is for the caller to see to. */
    public static Reference random(SecureRandom random) {
        var body = "%09d".formatted(random.nextInt(1_000_000_000));
        return new Reference(body + interim(body));
    }

    /** Reads what a person typed: spaces, dashes and the leading R do not matter. Empty if the check digit is wrong. */
    public static Optional<Reference> parse(String typed) {
        var digits = typed.replaceAll("[\\s\\-Rr]", "");
        return digits.matches("[0-9]{8}|[0-9]{10}") && interim(digits) == 0
                ? Optional.of(new Reference(digits))
                : Optional.empty();
    }

    @Override
    public String toString() {
        return "R " + digits.substring(0, 4) + " "
                + (digits.length() == 8 ? digits.substring(4) : digits.substring(4, 7) + " " + digits.substring(7));
    }

    private static int interim(String digits) {
        var interim = 0;
        for (var c : digits.toCharArray()) {
            interim = DAMM[interim][c - '0'];
        }
        return interim;
    }
}
