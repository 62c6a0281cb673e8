package dev.entente.e2e;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.atomic.AtomicBoolean;

/**
 * How stewards are started that live for seconds: with an archive of the classes that one of them had loaded when it had read a
 * directory once. Half the work of a start is loading them.
 */
final class StewardClasses {
    private static final Path ARCHIVE =
            Installation.ROOT.resolve(".test/steward.jsa").toAbsolutePath();
    private static final AtomicBoolean ASKED = new AtomicBoolean();
    private static volatile boolean kept;

    private StewardClasses() {}

    /** What the virtual machine of a steward is told. */
    static String options() {
        return "-XX:TieredStopAtLevel=1" + (kept ? " -XX:SharedArchiveFile=" + ARCHIVE : "");
    }

    /** Keeps those of the steward in this process, on the side; once is enough for all. */
    static void keep(long steward) {
        if (!ASKED.getAndSet(true)) {
            CompletableFuture.runAsync(() -> {
                try {
                    var next = ARCHIVE.resolveSibling("steward.jsa.next");
                    Files.deleteIfExists(next);
                    var ran = Installation.run(
                            Map.of(), "jcmd", String.valueOf(steward), "VM.cds", "static_dump", next.toString());
                    if (Files.exists(next)) {
                        Files.move(next, ARCHIVE, StandardCopyOption.REPLACE_EXISTING);
                        kept = true;
                    } else {
                        System.out.println("stewards start without an archive of their classes: " + ran);
                    }
                } catch (IOException | RuntimeException | AssertionError e) {
                    System.out.println("stewards start without an archive of their classes: " + e);
                }
            });
        }
    }
}
