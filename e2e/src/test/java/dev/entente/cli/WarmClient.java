package dev.entente.cli;

import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;

/**
 * The command line inside this process: the same program without the second that a busy machine takes to start it. What the
 * script around it does is tested by those who call the script.
 */
public final class WarmClient {
    private WarmClient() {}

    /** What a command printed and how it ended. */
    public record Ended(int code, String out, String err) {}

    /** Runs one command, one at a time: the streams are those of the process. */
    public static synchronized Ended run(Path home, String input, String... arguments) {
        var in = System.in;
        var out = System.out;
        var err = System.err;
        var printed = new ByteArrayOutputStream();
        var complained = new ByteArrayOutputStream();
        System.setIn(new ByteArrayInputStream((input + "\n").getBytes(StandardCharsets.UTF_8)));
        System.setOut(new PrintStream(printed, true, StandardCharsets.UTF_8));
        System.setErr(new PrintStream(complained, true, StandardCharsets.UTF_8));
        try {
            var code = Entente.run(new Home(home), arguments);
            System.out.flush();
            return new Ended(
                    code, printed.toString(StandardCharsets.UTF_8), complained.toString(StandardCharsets.UTF_8));
        } finally {
            System.setIn(in);
            System.setOut(out);
            System.setErr(err);
        }
    }
}
