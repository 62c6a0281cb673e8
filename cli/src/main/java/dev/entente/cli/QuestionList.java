package dev.entente.cli;

import dev.entente.core.policy.ConfigurationReader;
import dev.entente.core.verify.questions.QuestionSet;
import java.io.IOException;
import java.io.StringReader;
import java.io.StringWriter;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeSet;
import org.apache.commons.csv.CSVFormat;
import org.snakeyaml.engine.v2.api.Dump;
import org.snakeyaml.engine.v2.api.DumpSettings;
import org.snakeyaml.engine.v2.api.Load;
import org.snakeyaml.engine.v2.api.LoadSettings;
import org.snakeyaml.engine.v2.common.FlowStyle;

/** Security questions as a table: a row for each, with the columns name, digits, and one for each language. */
final class QuestionList {
    private static final String FILE = "questions.yaml";

    private QuestionList() {}

    /** The questions of a configuration's files as CSV (RFC 4180); the usual ones where the files name none. */
    static String csv(Map<String, String> files) throws IOException {
        var text = files.get(FILE);
        var set = text == null
                ? QuestionSet.usual()
                : ConfigurationReader.read(Map.of(FILE, text), null)
                        .configuration()
                        .orElseThrow(() -> new IllegalArgumentException(
                                FILE + " has problems; mend them first: entente draft list"))
                        .questions();
        var languages = new TreeSet<String>();
        set.questions().values().forEach(q -> languages.addAll(q.texts().keySet()));
        var header = new ArrayList<>(List.of("name", "digits"));
        header.addAll(languages);
        var out = new StringWriter();
        try (var printer = CSVFormat.DEFAULT
                .builder()
                .setHeader(header.toArray(String[]::new))
                .get()
                .print(out)) {
            for (var one : set.questions().entrySet()) {
                var row = new ArrayList<String>();
                row.add(one.getKey());
                row.add(
                        one.getValue().digits() == 0
                                ? ""
                                : String.valueOf(one.getValue().digits()));
                languages.forEach(l -> row.add(one.getValue().texts().getOrDefault(l, "")));
                printer.printRecord(row);
            }
        }
        return out.toString();
    }

    /**
     * A configuration's file with the questions of a table instead of its own; its other settings stay.
     *
     * @throws IllegalArgumentException if the table lacks a column or names a question twice; its message is a sentence
     */
    static String yaml(String csv, String before) throws IOException {
        var questions = new LinkedHashMap<String, Object>();
        try (var rows = CSVFormat.DEFAULT
                .builder()
                .setHeader()
                .setSkipHeaderRecord(true)
                .setTrim(true)
                .get()
                .parse(new StringReader(csv))) {
            var languages = rows.getHeaderNames().stream()
                    .filter(n -> !n.equals("name") && !n.equals("digits"))
                    .toList();
            if (!rows.getHeaderNames().contains("name") || languages.isEmpty()) {
                throw new IllegalArgumentException(
                        "the first line has to name the columns: name, digits if there are numbers, and each language, such as en");
            }
            for (var row : rows) {
                var texts = new LinkedHashMap<String, Object>();
                languages.stream()
                        .filter(l -> row.isSet(l) && !row.get(l).isEmpty())
                        .forEach(l -> texts.put(l, row.get(l)));
                var question = new LinkedHashMap<String, Object>();
                if (row.isMapped("digits")
                        && row.isSet("digits")
                        && !row.get("digits").isEmpty()) {
                    question.put("digits", number(row.get("digits"), row.getRecordNumber()));
                }
                question.put("texts", texts);
                if (questions.put(row.get("name"), question) != null) {
                    throw new IllegalArgumentException("the question " + row.get("name") + " appears twice");
                }
            }
        }
        var all = new LinkedHashMap<String, Object>();
        if (before != null
                && new Load(LoadSettings.builder().build()).loadFromString(before) instanceof Map<?, ?> said) {
            said.forEach((name, value) -> all.put(String.valueOf(name), value));
        }
        all.put("questions", questions);
        return new Dump(DumpSettings.builder()
                        .setDefaultFlowStyle(FlowStyle.BLOCK)
                        .build())
                .dumpToString(all);
    }

    private static int number(String text, long row) {
        if (!text.matches("[0-9]{1,2}")) {
            throw new IllegalArgumentException("row " + row + ": \"" + text + "\" isn't a number of digits");
        }
        return Integer.parseInt(text);
    }
}
