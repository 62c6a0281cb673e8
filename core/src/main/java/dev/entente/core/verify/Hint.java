package dev.entente.core.verify;

/** What somebody who knows an address or a number recognises it by, and nobody else: {@code a…@s….test}. */
public final class Hint {
    private Hint() {}

    /**
     * The hint of an address.
     *
     * @param address an e-mail address, or a number as E.164, with {@code ;ext=} where it has an extension (RFC 3966)
     */
    public static String of(String address) {
        if (address.startsWith("+")) {
            var number = address.replaceAll(";.*", "");
            return number.substring(0, 3) + "…" + number.substring(number.length() - 3);
        }
        var at = address.lastIndexOf('@');
        var dot = address.lastIndexOf('.');
        return at < 1 || dot < at
                ? "…"
                : first(address) + "…@" + first(address.substring(at + 1)) + "…" + address.substring(dot);
    }

    private static String first(String text) {
        return text.substring(0, text.offsetByCodePoints(0, 1));
    }
}
