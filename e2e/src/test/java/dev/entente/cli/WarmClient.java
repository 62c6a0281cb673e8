package dev.entente.cli;

import dev.entente.steward.StewardCommand;
import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.function.IntSupplier;

/**
 * The command line inside this process: the same programs without the second or two that a busy machine takes to start one. What
 * the script around them does is tested by those who call the script.
 */
public final class WarmClient {
    private static final Streams STREAMS = new Streams();

    private WarmClient() {}

    /** What a command printed and how it ended. */
    public record Ended(int code, String out, String err) {}

    /** Runs one command of the client. */
    public static Ended run(Path home, String input, String... arguments) {
        return captured(input, () -> Entente.run(new Home(home), arguments));
    }

    /** Runs one command of a steward's own machine that ends by itself. */
    public static Ended steward(String input, String... arguments) {
        return captured(input, () -> StewardCommand.run(arguments));
    }

    private static Ended captured(String input, IntSupplier command) {
        var own = new Own(
                new ByteArrayInputStream((input + "\n").getBytes(StandardCharsets.UTF_8)),
                new ByteArrayOutputStream(),
                new ByteArrayOutputStream());
        STREAMS.own.set(own);
        try {
            var code = command.getAsInt();
            System.out.flush();
            return new Ended(code, own.out.toString(StandardCharsets.UTF_8), own.err.toString(StandardCharsets.UTF_8));
        } finally {
            STREAMS.own.remove();
        }
    }

    /** What one command reads and where it prints. */
    private record Own(InputStream in, ByteArrayOutputStream out, ByteArrayOutputStream err) {}

    /** The streams of the process, which lead to those of the command that runs on a thread, or on one that it started. */
    private static final class Streams {
        private final InheritableThreadLocal<Own> own = new InheritableThreadLocal<>();

        Streams() {
            var in = System.in;
            var out = System.out;
            var err = System.err;
            System.setIn(new InputStream() {
                @Override
                public int read() throws IOException {
                    return here() == null ? in.read() : here().in.read();
                }

                @Override
                public int read(byte[] bytes, int from, int length) throws IOException {
                    return here() == null
                            ? in.read(bytes, from, length)
                            : here().in.read(bytes, from, length);
                }

                @Override
                public int available() throws IOException {
                    return here() == null ? in.available() : here().in.available();
                }
            });
            System.setOut(leading(out, false));
            System.setErr(leading(err, true));
        }

        private Own here() {
            return own.get();
        }

        private PrintStream leading(PrintStream otherwise, boolean errors) {
            var to = new OutputStream() {
                private OutputStream now() {
                    return here() == null ? otherwise : errors ? here().err : here().out;
                }

                @Override
                public void write(int one) throws IOException {
                    now().write(one);
                }

                @Override
                public void write(byte[] bytes, int from, int length) throws IOException {
                    now().write(bytes, from, length);
                }

                @Override
                public void flush() throws IOException {
                    now().flush();
                }
            };
            return new PrintStream(to, true, StandardCharsets.UTF_8);
        }
    }
}
