package dev.entente.e2e;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;

/** Another steward of a directory, with a folder and keys of its own; gone again when closed. */
final class SecondSteward implements AutoCloseable {
    final String name;
    private final World world;
    private final String directory;
    private final Path file;

    /** @param servers addresses in order of preference; the first steward's where empty */
    SecondSteward(World world, String directory, String name, List<String> servers) throws IOException {
        this.world = world;
        this.directory = directory;
        this.name = name;
        this.file = Path.of(world.stewardFile(directory)).resolveSibling(name + ".yaml");
        var text = Files.readString(Path.of(world.stewardFile(directory)))
                .replaceAll("(?m)^state: .*", "state: state-" + name)
                .replaceAll("(?m)^service: .*", "service: " + world.url);
        if (!servers.isEmpty()) {
            var lines = new ArrayList<String>();
            servers.forEach(s -> lines.add("  - " + s));
            text = text.replaceAll("(?m)^  - ldaps://.*$", String.join("\n", lines));
        }
        Files.writeString(file, text);
        join();
        run();
        World.waitUntil(
                Duration.ofSeconds(20),
                name + " is connected",
                () -> world.entente("--output", "csv", "steward", "list")
                        .out()
                        .contains(name + "," + directory + ",listed,yes"));
    }

    void run() {
        world.start(name, World.ROOT.resolve("bin/entente").toString(), "steward", "run", "--file", file.toString());
    }

    private void join() {
        var code = world.entente("steward", "admit", "--directory", directory, name)
                .expect(0)
                .out()
                .strip();
        world.joinAndSign(directory, file.toString(), code, directory + "-1", name);
    }

    Path file() {
        return file;
    }

    @Override
    public void close() {
        if (world.processes.get(name).isAlive()) {
            world.kill(name);
        }
        world.entente("steward", "retire", "--directory", directory, name);
    }
}
