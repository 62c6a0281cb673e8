package dev.entente.e2e;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.Map;
import java.util.concurrent.atomic.AtomicBoolean;

/**
 * Java options for stewards, which live only for seconds in tests. Loading classes is half the work of a start, so the classes that
 * the first steward loaded are archived once, and later stewards start from that archive.
 */
final class StewardClasses {
    private static final Path ARCHIVE =
            Installation.ROOT.resolve(".test/steward.jsa").toAbsolutePath();
    private static final AtomicBoolean ASKED = new AtomicBoolean();
    private static volatile boolean kept;

    private StewardClasses() {}

    /** Options for the next steward. */
    static String options() {
        return "-XX:TieredStopAtLevel=1" + (kept ? " -XX:SharedArchiveFile=" + ARCHIVE : "");
    }

    /** Archives the classes of the steward in this process, which has to live until then. Only the first call does anything. */
    static void keep(long steward) throws IOException {
        if (ASKED.getAndSet(true)) {
            return;
        }
        var next = ARCHIVE.resolveSibling("steward.jsa.next");
        Files.deleteIfExists(next);
        var ran = Installation.run(Map.of(), "jcmd", String.valueOf(steward), "VM.cds", "static_dump", next.toString());
        if (Files.exists(next)) {
            Files.move(next, ARCHIVE, StandardCopyOption.REPLACE_EXISTING);
            kept = true;
        } else {
            System.out.println("stewards start without an archive of their classes: " + ran);
        }
    }
}
