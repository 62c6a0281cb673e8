package dev.entente.cli;

import dev.entente.core.audit.ProofFile;
import dev.entente.wire.RecordApi;
import java.io.BufferedWriter;
import java.io.IOException;
import java.io.OutputStream;
import java.io.RandomAccessFile;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.UUID;
import java.util.stream.Collectors;
import java.util.zip.ZipFile;
import javax.xml.stream.XMLInputFactory;
import javax.xml.stream.XMLStreamConstants;
import javax.xml.stream.XMLStreamException;
import tools.jackson.core.JacksonException;

/**
 * What a search finds in a file: a table, or a JSON document a line. Beside it stand its checksum and, where it is asked for, proofs that
 * the events are on record. Needs no memory that grows with it.
 */
final class TableFile {
    /** Events that are proven by one call. */
    private static final int PROVEN_AT_ONCE = 200;
    /** The longest row of which it is looked for where it ends, in bytes. */
    private static final int LONGEST_ROW = 1 << 20;

    private final Entente entente;

    TableFile(Entente entente) {
        this.entente = entente;
    }

    private interface Positions {
        void take(Long position) throws IOException;
    }

    private enum Format {
        CSV("\r\n"),
        JSONL("\n"),
        // An archive: there is no half of it.
        XLSX(null);

        private final String lineEnd;

        Format(String lineEnd) {
            this.lineEnd = lineEnd;
        }

        private String label() {
            return name().toLowerCase(Locale.ROOT);
        }

        private static Format of(Path file) {
            return Arrays.stream(values())
                    .filter(one -> file.toString().toLowerCase(Locale.ROOT).endsWith("." + one.label()))
                    .findFirst()
                    .orElseThrow(() -> new IllegalArgumentException(
                            "the name has to end with .csv, .jsonl or .xlsx, which says what is written: " + file));
        }

        /** Takes the position of each event of a table, in the order of its rows; null for one that wasn't sealed. */
        private void positions(Path table, Positions each) throws IOException {
            if (this == XLSX) {
                ofSheet(table, each);
                return;
            }
            try (var lines = Files.newBufferedReader(table)) {
                if (this == CSV) {
                    // The titles.
                    lines.readLine();
                }
                for (var line = lines.readLine(); line != null; line = lines.readLine()) {
                    if (this == CSV) {
                        var position = line.substring(0, line.indexOf(','));
                        each.take(position.isEmpty() ? null : Long.valueOf(position));
                    } else {
                        var position = Api.JSON.readTree(line).path("seq");
                        each.take(position.isNumber() ? position.asLong() : null);
                    }
                }
            }
        }

        /** Of the first column of a workbook's only sheet (ECMA-376 part 1, section 18.3.1), without its titles. */
        private static void ofSheet(Path table, Positions each) throws IOException {
            var readers = XMLInputFactory.newDefaultFactory();
            readers.setProperty(XMLInputFactory.SUPPORT_DTD, false);
            try (var workbook = new ZipFile(table.toFile());
                    var in = workbook.getInputStream(workbook.getEntry("xl/worksheets/sheet1.xml"))) {
                var sheet = readers.createXMLStreamReader(in);
                var row = 0;
                var first = false;
                Long position = null;
                while (sheet.hasNext()) {
                    var what = sheet.next();
                    if (what == XMLStreamConstants.START_ELEMENT) {
                        switch (sheet.getLocalName()) {
                            case "row" -> {
                                row++;
                                position = null;
                            }
                            case "c" ->
                                first = sheet.getAttributeValue(null, "r").equals("A" + row);
                            case "v" -> position = first && row > 1 ? Long.valueOf(sheet.getElementText()) : position;
                            default -> {}
                        }
                    } else if (what == XMLStreamConstants.END_ELEMENT
                            && sheet.getLocalName().equals("row")
                            && row > 1) {
                        each.take(position);
                    }
                }
            } catch (XMLStreamException e) {
                throw new IOException(e);
            }
        }

        /** The event that a row is about. */
        private UUID id(String row) {
            return UUID.fromString(
                    this == CSV
                            ? row.substring(Math.max(0, row.length() - 36))
                            : Api.JSON.readTree(row).path("id").asString());
        }
    }

    /**
     * Writes what was found, going on where it was cut off the last time.
     *
     * @param query what is looked for
     * @param prove whether proofs are written beside it
     */
    int write(Path file, String query, boolean prove) throws IOException {
        var format = Format.of(file);
        var expected = entente.api().get("/events/count?" + query, RecordApi.EventCount.class);
        // By what is looked for, so that no other search is gone on with.
        var part = file.resolveSibling(file.getFileName() + "."
                + Checksums.of(query.getBytes(StandardCharsets.UTF_8)).substring(0, 12) + ".part");
        var after = Files.exists(part) ? whole(part, format) : null;
        if (after != null) {
            System.err.println("Going on where it was cut off …");
        }
        var there = after == null ? 0 : lines(part);
        try (var out = Files.newOutputStream(part, StandardOpenOption.CREATE, StandardOpenOption.APPEND)) {
            entente.api()
                    .download(
                            "/events/export?format=" + format.label() + query
                                    + (after == null ? "" : "&after=" + after),
                            new Counting(out, expected, there));
        } catch (Api.Refused e) {
            if (after == null || !e.is("page-unknown")) {
                throw e;
            }
            // What was the last row is no more on record: it was cut off with its month.
            Files.delete(part);
            return write(file, query, prove);
        } catch (Api.Unreachable e) {
            throw format.lineEnd == null
                    ? e
                    : new Api.Unreachable(e.getMessage() + " What has come is kept: the same command goes on.", e);
        }
        Files.move(part, file, StandardCopyOption.REPLACE_EXISTING);
        var sum = Checksums.beside(file);
        System.err.println(
                (System.console() == null ? "" : "\r") + "Written to " + file + ". Its checksum is in " + sum + ".");
        if (prove) {
            prove(file.resolveSibling(file.getFileName() + ".proofs"), file, format);
        }
        return Entente.DONE;
    }

    /** Says how much of it has come. */
    private static final class Counting extends OutputStream {
        private final OutputStream out;
        private final RecordApi.EventCount expected;
        private long rows;
        private long told;

        /** @param there rows that had come before */
        private Counting(OutputStream out, RecordApi.EventCount expected, long there) {
            this.out = out;
            this.expected = expected;
            this.rows = there;
        }

        @Override
        public void write(int one) throws IOException {
            write(new byte[] {(byte) one}, 0, 1);
        }

        @Override
        public void write(byte[] bytes, int from, int length) throws IOException {
            out.write(bytes, from, length);
            for (var at = from; at < from + length; at++) {
                rows += bytes[at] == '\n' ? 1 : 0;
            }
            if (System.console() != null && rows - told > 1000) {
                told = rows;
                System.err.print("\r" + rows + " of " + (expected.exact() ? "" : "about ") + expected.events());
            }
        }
    }

    /**
     * Cuts off a row that was not written whole.
     *
     * @return the event of the last that was; null if there is none, and nothing is left of the file then
     */
    private static UUID whole(Path part, Format format) throws IOException {
        try (var file = new RandomAccessFile(part.toFile(), "rw")) {
            var from = format.lineEnd == null ? file.length() : Math.max(0, file.length() - 2 * LONGEST_ROW);
            var end = new byte[(int) (file.length() - from)];
            file.seek(from);
            file.readFully(end);
            // One byte is one character: ends of lines are found as they are.
            var text = new String(end, StandardCharsets.ISO_8859_1);
            var last = format.lineEnd == null ? -1 : text.lastIndexOf(format.lineEnd);
            try {
                var start = text.lastIndexOf(format.lineEnd == null ? "" : format.lineEnd, last - 1);
                var id = last < 0 ? null : format.id(row(end, start < 0 ? 0 : start + format.lineEnd.length(), last));
                file.setLength(id == null ? 0 : from + last + format.lineEnd.length());
                return id;
            } catch (IllegalArgumentException | JacksonException e) {
                // The titles alone.
                file.setLength(0);
                return null;
            }
        }
    }

    private static long lines(Path part) throws IOException {
        try (var lines = Files.lines(part)) {
            return lines.count();
        }
    }

    private static String row(byte[] bytes, int from, int to) {
        return new String(bytes, from, to - from, StandardCharsets.UTF_8);
    }

    /** Proves the events of a table that is there: what the record has gained since, or a second search would find, isn't in it. */
    private void prove(Path file, Path table, Format format) throws IOException {
        var proven = new long[1];
        var waiting = new long[1];
        try (var out = Files.newBufferedWriter(file)) {
            var next = new ArrayList<Long>();
            format.positions(table, position -> {
                if (position == null) {
                    waiting[0]++;
                    return;
                }
                next.add(position);
                if (next.size() == PROVEN_AT_ONCE) {
                    proven[0] += prove(next, out);
                    if (System.console() != null) {
                        System.err.print("\r" + proven[0] + " proven");
                    }
                }
            });
            proven[0] += prove(next, out);
        }
        var sum = Checksums.beside(file);
        System.err.println((System.console() == null ? "" : "\r") + proven[0]
                + (proven[0] == 1 ? " proof is in " : " proofs are in ") + file
                + (waiting[0] == 0
                        ? "."
                        : waiting[0] == 1
                                ? "; 1 event wasn't sealed yet."
                                : "; " + waiting[0] + " events weren't sealed yet.")
                + " Its checksum is in " + sum + ". Anybody can check them: entente event check " + file);
    }

    /** @return how many there were; none is left */
    private int prove(List<Long> positions, BufferedWriter out) throws IOException {
        var many = positions.size();
        if (many > 0) {
            var asked = positions.stream().map(String::valueOf).collect(Collectors.joining(","));
            write(out, entente.api().get("/record/proofs/events?positions=" + asked, ProofFile[].class));
            positions.clear();
        }
        return many;
    }

    private static void write(BufferedWriter out, ProofFile... proofs) throws IOException {
        for (var proof : proofs) {
            out.append(Api.JSON.writeValueAsString(proof)).append('\n');
        }
    }
}
