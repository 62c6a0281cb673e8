package dev.entente.service.audit;

import dev.entente.core.audit.EventCatalogue;
import dev.entente.service.platform.Problem;
import dev.entente.wire.RecordApi.Event;
import java.io.IOException;
import java.io.OutputStream;
import java.io.OutputStreamWriter;
import java.nio.charset.StandardCharsets;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.UUID;
import java.util.concurrent.Semaphore;
import java.util.function.Function;
import java.util.stream.Stream;
import org.apache.commons.csv.CSVFormat;
import org.apache.commons.csv.CSVPrinter;
import org.dhatim.fastexcel.Workbook;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.databind.json.JsonMapper;

/** Events as a table, or as JSON documents, a line each. What proves them is {@code entente event export}. */
@Component
class EventExport {
    private static final int PAGE = 200;
    /** Each reads the record for as long as its reader takes. */
    private static final int AT_ONCE = 2;
    /** A sheet has 1,048,576 rows. */
    private static final int MOST_OF_A_SHEET = 1_000_000;

    /** What events are sought by stands in columns of their own. */
    private static final List<String> TITLES = Stream.of(
                    Stream.of("position", "time", "kind", "severity", "reference"),
                    EventCatalogue.SOUGHT.stream(),
                    Stream.of("what happened", "facts", "names", "id"))
            .flatMap(Function.identity())
            .toList();

    private static final int POSITION = 0, TIME = 1, SAID = 5 + EventCatalogue.SOUGHT.size();

    /** By which spreadsheets know UTF-8. */
    private static final String BYTE_ORDER_MARK = "\ufeff";

    private final EventSearch search;
    private final EventLog events;
    private final TransactionTemplate transaction;
    private final JsonMapper json;
    private final Semaphore free = new Semaphore(AT_ONCE);

    EventExport(EventSearch search, EventLog events, TransactionTemplate transaction, JsonMapper json) {
        this.search = search;
        this.events = events;
        this.transaction = transaction;
        this.json = json;
    }

    /** What they can be written as. */
    enum Format {
        CSV("text/csv;charset=utf-8"),
        JSONL("application/jsonl"),
        XLSX("application/vnd.openxmlformats-officedocument.spreadsheetml.sheet");

        private final String type;

        Format(String type) {
            this.type = type;
        }

        String type() {
            return type;
        }

        String label() {
            return name().toLowerCase(Locale.ROOT);
        }

        static Format labelled(String label) {
            return Arrays.stream(values())
                    .filter(form -> form.label().equals(label))
                    .findFirst()
                    .orElseThrow(() -> Problem.of("format-unknown"));
        }
    }

    /** Where it goes, once it is sure that there will be something. */
    interface Destination {
        OutputStream open() throws IOException;
    }

    /**
     * Writes all of them.
     *
     * @param after the event after which to go on, where the first part is there already; null for everything
     * @throws Problem if what is looked for can't be, or others are being written; nothing is opened then
     */
    void write(EventSearch.Wanted wanted, Format format, UUID after, String administrator, Destination destination)
            throws IOException {
        var from = after == null ? null : search.after(wanted, after);
        search.page(wanted, from, 1);
        if (!free.tryAcquire()) {
            throw Problem.of("exports-busy").with("retryAfter", 30);
        }
        try {
            var many = search.count(wanted).events();
            transaction.executeWithoutResult(
                    status -> events.write(NewEvent.administration("events.exported", administrator)
                            .with("format", format.label())
                            .with("many", many)
                            .withPersonal("asked", wanted.words())));
            switch (format) {
                case CSV -> csv(wanted, from, destination.open());
                case JSONL -> lines(wanted, from, destination.open());
                case XLSX -> xlsx(wanted, from, destination.open());
            }
        } finally {
            free.release();
        }
    }

    private interface Row {
        void write(Event event) throws IOException;
    }

    private void each(EventSearch.Wanted wanted, String from, int most, Row row) throws IOException {
        var after = from;
        var many = 0;
        do {
            var page = search.page(wanted, after, PAGE);
            for (var event : page.items()) {
                if (many++ == most) {
                    return;
                }
                row.write(event);
            }
            after = page.after();
        } while (after != null);
    }

    private List<String> cells(Event event) {
        var cells = new ArrayList<>(List.of(
                event.seq() == null ? "" : event.seq().toString(),
                event.at().toString(),
                event.kind(),
                event.severity(),
                event.reference() == null ? "" : event.reference()));
        for (var field : EventCatalogue.SOUGHT) {
            var value = event.data().containsKey(field)
                    ? event.data().get(field)
                    : event.personal().get(field);
            cells.add(value == null ? "" : harmless(value.toString()));
        }
        cells.addAll(List.of(
                harmless(event.sentence()),
                json.writeValueAsString(event.data()),
                json.writeValueAsString(event.personal()),
                event.id().toString()));
        return cells;
    }

    /**
     * What a server or a person said is text: spreadsheets would take it for a formula. And it stands in one line, so that each row does,
     * by which one that was cut off is recognised.
     */
    private static String harmless(String text) {
        var line = text.replaceAll("\\R", " ");
        return line.isEmpty() || "=+-@\t".indexOf(line.charAt(0)) < 0 ? line : "'" + line;
    }

    private void csv(EventSearch.Wanted wanted, String from, OutputStream out) throws IOException {
        try (var writer = new OutputStreamWriter(out, StandardCharsets.UTF_8);
                var printer = new CSVPrinter(writer, CSVFormat.RFC4180)) {
            if (from == null) {
                writer.write(BYTE_ORDER_MARK);
                printer.printRecord(TITLES);
            }
            each(wanted, from, Integer.MAX_VALUE, event -> printer.printRecord(cells(event)));
        }
    }

    private void lines(EventSearch.Wanted wanted, String from, OutputStream out) throws IOException {
        try (var writer = new OutputStreamWriter(out, StandardCharsets.UTF_8)) {
            each(
                    wanted,
                    from,
                    Integer.MAX_VALUE,
                    event -> writer.append(json.writeValueAsString(event)).append('\n'));
        }
    }

    private void xlsx(EventSearch.Wanted wanted, String from, OutputStream out) throws IOException {
        try (var workbook = new Workbook(out, "Entente", "1.0")) {
            var sheet = workbook.newWorksheet("Events");
            sheet.freezePane(0, 1);
            for (var column = 0; column < TITLES.size(); column++) {
                sheet.value(0, column, TITLES.get(column));
                sheet.style(0, column).bold().set();
            }
            for (var column = 0; column < TITLES.size(); column++) {
                sheet.width(column, column == SAID ? 70 : column > SAID ? 40 : column == POSITION ? 10 : 20);
            }
            sheet.setAutoFilter(0, 0, TITLES.size() - 1);
            var at = new int[] {1};
            // Where they stand: a table of all texts would grow with them.
            each(wanted, from, MOST_OF_A_SHEET, event -> {
                var cells = cells(event);
                for (var column = 0; column < cells.size(); column++) {
                    if (column == POSITION && event.seq() != null) {
                        sheet.value(at[0], column, event.seq());
                    } else if (column == TIME) {
                        sheet.value(at[0], column, LocalDateTime.ofInstant(event.at(), ZoneOffset.UTC));
                        sheet.style(at[0], column).format("yyyy-mm-dd hh:mm:ss").set();
                    } else {
                        sheet.inlineString(at[0], column, cells.get(column));
                    }
                }
                // Rows that are written need no memory any more.
                if (at[0]++ % PAGE == 0) {
                    sheet.flush();
                }
            });
            sheet.finish();
        }
    }
}
