package dev.entente.cli;

import java.io.PrintStream;
import java.time.Instant;
import java.time.ZoneId;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.List;
import java.util.function.Function;
import org.apache.commons.csv.CSVFormat;
import org.snakeyaml.engine.v2.api.Dump;
import org.snakeyaml.engine.v2.api.DumpSettings;
import org.snakeyaml.engine.v2.common.FlowStyle;

/** Prints data for people as tables, and for programs as JSON, YAML or CSV. */
final class Printer {
    /** Forms of output. */
    enum Form {
        TABLE,
        JSON,
        YAML,
        CSV
    }

    private static final DateTimeFormatter TIME =
            DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm:ss").withZone(ZoneId.systemDefault());

    private final Form form;
    private final PrintStream out;

    Printer(Form form, PrintStream out) {
        this.form = form;
        this.out = out;
    }

    /** One column of a table. */
    record Column<T>(String title, Function<T, Object> value) {}

    boolean forPeople() {
        return form == Form.TABLE;
    }

    /** A list; {@code empty} is said on standard error when there is nothing. */
    <T> void list(List<T> items, String empty, List<Column<T>> columns) {
        switch (form) {
            case TABLE -> {
                if (items.isEmpty()) {
                    System.err.println(empty);
                } else {
                    table(items, columns);
                }
            }
            case CSV -> csv(items, columns);
            default -> data(items);
        }
    }

    /** One thing: as data, or as the lines that {@code people} makes. */
    void one(Object item, Runnable people) {
        switch (form) {
            case TABLE -> people.run();
            case CSV ->
                throw new IllegalArgumentException("only lists can be printed as csv; use --output json or yaml here");
            default -> data(item);
        }
    }

    private void data(Object item) {
        if (form == Form.JSON) {
            out.println(Api.JSON.writerWithDefaultPrettyPrinter().writeValueAsString(item));
        } else {
            var plain = Api.JSON.convertValue(item, Object.class);
            var settings =
                    DumpSettings.builder().setDefaultFlowStyle(FlowStyle.BLOCK).build();
            out.print(new Dump(settings).dumpToString(plain));
        }
    }

    private <T> void csv(List<T> items, List<Column<T>> columns) {
        var format = CSVFormat.RFC4180;
        out.println(format.format(columns.stream().map(Column::title).toArray()));
        for (var item : items) {
            out.println(format.format(
                    columns.stream().map(c -> text(c.value().apply(item))).toArray()));
        }
    }

    private <T> void table(List<T> items, List<Column<T>> columns) {
        var rows = new ArrayList<List<String>>();
        rows.add(columns.stream().map(Column::title).toList());
        items.forEach(item ->
                rows.add(columns.stream().map(c -> text(c.value().apply(item))).toList()));
        for (var row : rows) {
            var line = new StringBuilder();
            for (var i = 0; i < row.size(); i++) {
                var column = i;
                var width = rows.stream()
                        .mapToInt(r ->
                                r.get(column).codePointCount(0, r.get(column).length()))
                        .max()
                        .orElse(0);
                var cell = row.get(i);
                line.append(cell);
                if (i < row.size() - 1) {
                    line.append(" ".repeat(width - cell.codePointCount(0, cell.length()) + 2));
                }
            }
            out.println(line.toString().stripTrailing());
        }
    }

    private static String text(Object value) {
        return value == null ? "" : value.toString().replaceAll("[\\p{Cntrl}]", " ");
    }

    /** In the local time zone; empty for null. */
    static String time(Instant at) {
        return at == null ? "" : TIME.format(at);
    }
}
