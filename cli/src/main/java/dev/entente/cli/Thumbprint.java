package dev.entente.cli;

import java.util.Arrays;
import picocli.CommandLine.ITypeConverter;

/**
 * The thumbprint of a key (RFC 7638 with SHA-256: 43 characters of base64url) as it is typed. One of 64 begins with a dash, so that it
 * would be taken for an option: it is marked before the line is read, and the mark goes where a thumbprint is expected.
 */
final class Thumbprint implements ITypeConverter<String> {
    private static final String MARK = "=";

    @Override
    public String convert(String text) {
        return text.startsWith(MARK) ? text.substring(MARK.length()) : text;
    }

    /** The same arguments, with those marked that can be nothing but thumbprints. */
    static String[] marked(String... arguments) {
        return Arrays.stream(arguments)
                .map(argument -> argument.matches("-[A-Za-z0-9_-]{42}") ? MARK + argument : argument)
                .toArray(String[]::new);
    }
}
