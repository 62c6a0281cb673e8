package dev.entente.bench;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/** A policy for everybody who is measured with, published through the command line. */
final class BenchPolicy {
    private static final Pattern LOSING = Pattern.compile("entente: (\\d+) p");

    private BenchPolicy() {}

    /**
     * Publishes it.
     *
     * @param to directories, with commas
     * @param tell what people are told of, with commas
     */
    static void publish(Path work, String to, String tell) throws IOException, InterruptedException {
        publish(work, to, tell, "{ methods: 1, any-of: [email-code] }");
    }

    /** @param proof what a reset asks for, as policy files say it */
    static void publish(Path work, String to, String tell, String proof) throws IOException, InterruptedException {
        publish(work, to, tell, proof, List.of());
    }

    /** @param groups whose members it is for as well */
    static void publish(Path work, String to, String tell, String proof, List<String> groups)
            throws IOException, InterruptedException {
        var folder = work.resolve("configuration");
        for (var part : List.of("scopes", "policies", "passwords")) {
            Files.createDirectories(folder.resolve(part));
        }
        Files.writeString(
                folder.resolve("scopes/all.yaml"),
                "scope: all\nany:\n  - group: CN=Deck Crew,OU=Groups,DC=skerry,DC=test\n"
                        + "  - group: CN=Engine Crew,OU=Groups,DC=skerry,DC=test\n"
                        + "  - group: CN=Agency Crew,OU=Groups,DC=skerry,DC=test\n"
                        + "  - group: CN=Bridge Officers,OU=Groups,DC=skerry,DC=test\n"
                        + groups.stream().map(dn -> "  - group: " + dn + "\n").collect(Collectors.joining()));
        Files.writeString(
                folder.resolve("policies/all.yaml"),
                "policy: all\nwho: scope all\nallow: [reset]\nprove:\n  reset: " + proof + "\n"
                        + "deliver: { to: [" + to + "], clear-lockout: true }\nlimit: { resets: 1000 per 24h }\n"
                        + "tell: { person: [" + tell + "] }\npassword: plain\n");
        Files.writeString(folder.resolve("passwords/plain.yaml"), "password: plain\nmin-length: 10\n");
        var note = "to-" + to.replaceAll("[^a-z]+", "-");
        entente("draft", "start", "--name", note);
        entente("draft", "load", folder.toString());
        var said = run("draft", "publish", "--note", note);
        var losing = LOSING.matcher(said);
        if (losing.find()) {
            entente("draft", "publish", "--note", note, "--loses-way", losing.group(1));
        } else if (!said.isEmpty()) {
            throw new IllegalStateException(said);
        }
    }

    private static void entente(String... command) throws IOException, InterruptedException {
        var said = run(command);
        if (!said.isEmpty()) {
            throw new IllegalStateException(said);
        }
    }

    /** @return what it said on standard error, empty if it did what it should */
    private static String run(String... command) throws IOException, InterruptedException {
        var all = new ArrayList<>(List.of("entente"));
        all.addAll(List.of(command));
        var process = new ProcessBuilder(all)
                .redirectOutput(ProcessBuilder.Redirect.DISCARD)
                .start();
        var said = new String(process.getErrorStream().readAllBytes(), StandardCharsets.UTF_8);
        return process.waitFor() == 0 ? "" : said;
    }
}
