package dev.entente.cli;

import dev.entente.wire.Page;
import java.util.ArrayList;
import java.util.List;
import picocli.CommandLine.ITypeConverter;
import picocli.CommandLine.TypeConversionException;

/** How many rows of a list are wanted, as {@code --limit}: pages are asked for until they are there. */
record Limit(int rows) {
    /** The service's own bound of a page. */
    private static final int PAGE = 200;

    static final class Typed implements ITypeConverter<Limit> {
        @Override
        public Limit convert(String text) {
            if (!text.matches("[1-9]\\d{0,6}")) {
                throw new TypeConversionException("must be a whole number from 1 to 9999999, not \"" + text + "\"");
            }
            return new Limit(Integer.parseInt(text));
        }
    }

    /**
     * The first rows of a list; says on standard error when there are more.
     *
     * @param path with its filters in a query, which may be empty but has its question mark
     */
    <T> List<T> of(Api api, String path, Class<T> type) {
        var rows = new ArrayList<T>();
        String after = null;
        do {
            Page<T> page = api.get(
                    path + "&limit=" + Math.min(PAGE, this.rows - rows.size())
                            + (after == null ? "" : "&after=" + Api.encoded(after)),
                    Api.page(type));
            rows.addAll(page.items());
            after = page.after();
        } while (after != null && rows.size() < this.rows);
        if (after != null) {
            System.err.println("There are more. Use --limit, or narrow it down.");
        }
        return rows;
    }
}
