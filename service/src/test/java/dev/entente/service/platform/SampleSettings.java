package dev.entente.service.platform;

import java.net.URI;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;

/** Settings of a node for tests. */
public final class SampleSettings {
    private SampleSettings() {}

    /** With a folder for secrets, a step of answers and proxies. */
    public static ServiceSettings of(Path secrets, Duration answerDeadline, List<String> trustedProxies) {
        var minute = Duration.ofMinutes(1);
        return new ServiceSettings(
                "Skerry Line",
                "call 01632 960 100",
                URI.create("https://recover.skerry.test"),
                secrets,
                "recover@skerry.test",
                List.of(),
                answerDeadline,
                minute,
                minute,
                minute,
                "",
                minute,
                minute,
                minute,
                minute,
                minute,
                minute,
                minute,
                120,
                16,
                5,
                minute,
                trustedProxies,
                0,
                "");
    }
}
