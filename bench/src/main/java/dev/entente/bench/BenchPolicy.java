package dev.entente.bench;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;

/** A policy for everybody who is measured with, published through the command line. */
final class BenchPolicy {
    private BenchPolicy() {}

    /**
     * Publishes it.
     *
     * @param to directories, with commas
     * @param tell what people are told of, with commas
     */
    static void publish(Path work, String to, String tell) throws IOException, InterruptedException {
        var folder = work.resolve("configuration");
        Files.writeString(
                folder.resolve("scopes/all.yaml"),
                "scope: all\nany:\n  - group: CN=Deck Crew,OU=Groups,DC=skerry,DC=test\n"
                        + "  - group: CN=Engine Crew,OU=Groups,DC=skerry,DC=test\n"
                        + "  - group: CN=Agency Crew,OU=Groups,DC=skerry,DC=test\n"
                        + "  - group: CN=Bridge Officers,OU=Groups,DC=skerry,DC=test\n");
        Files.writeString(
                folder.resolve("policies/all.yaml"),
                "policy: all\nwho: scope all\nallow: [reset]\nprove:\n  reset: { methods: 1, any-of: [email-code] }\n"
                        + "deliver: { to: [" + to + "], clear-lockout: true }\nlimit: { resets: 1000 per 24h }\n"
                        + "tell: { person: [" + tell + "] }\npassword: plain\n");
        Files.writeString(folder.resolve("passwords/plain.yaml"), "password: plain\nmin-length: 10\n");
        var note = "to-" + to.replaceAll("[^a-z]+", "-");
        for (var command : List.of(
                List.of("draft", "start", "--name", note),
                List.of("draft", "load", folder.toString()),
                List.of("draft", "publish", "--note", note))) {
            var all = new ArrayList<>(List.of("entente"));
            all.addAll(command);
            if (new ProcessBuilder(all).inheritIO().start().waitFor() != 0) {
                throw new IllegalStateException("cannot publish: " + command);
            }
        }
    }
}
