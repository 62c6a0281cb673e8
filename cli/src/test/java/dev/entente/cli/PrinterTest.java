package dev.entente.cli;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.entente.cli.Printer.Column;
import java.io.ByteArrayOutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.util.List;
import org.junit.jupiter.api.Test;

class PrinterTest {
    private record Row(String name, Integer count) {}

    private static final List<Row> ROWS = List.of(new Row("Ελένη", 3), new Row("O'Hara, \"Liam\"\u001b[31m", null));
    private static final List<Column<Row>> COLUMNS =
            List.of(new Column<>("NAME", Row::name), new Column<>("COUNT", Row::count));

    private static String printed(Printer.Form form) {
        var bytes = new ByteArrayOutputStream();
        new Printer(form, new PrintStream(bytes, true, StandardCharsets.UTF_8)).list(ROWS, "none", COLUMNS);
        return bytes.toString(StandardCharsets.UTF_8);
    }

    @Test
    void a_table_is_aligned_and_lets_no_control_character_through() {
        assertThat(printed(Printer.Form.TABLE).lines())
                .containsExactly("NAME                 COUNT", "Ελένη                3", "O'Hara, \"Liam\" [31m");
    }

    @Test
    void csv_is_quoted_as_the_standard_asks() {
        assertThat(printed(Printer.Form.CSV).lines())
                .startsWith("NAME,COUNT", "Ελένη,3")
                .anyMatch(line -> line.startsWith("\"O'Hara, \"\"Liam\"\""));
    }

    @Test
    void json_and_yaml_hold_the_data_itself() {
        assertThat(printed(Printer.Form.JSON)).contains("\"name\" : \"Ελένη\"", "\"count\" : null");
        assertThat(printed(Printer.Form.YAML)).contains("name: Ελένη", "count: 3");
    }

    @Test
    void csv_of_a_single_thing_is_refused() {
        var printer = new Printer(Printer.Form.CSV, System.out);
        assertThatThrownBy(() -> printer.one("x", () -> {})).hasMessageContaining("only lists can be printed as csv");
    }
}
