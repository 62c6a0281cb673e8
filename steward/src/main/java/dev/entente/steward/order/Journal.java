package dev.entente.steward.order;

import dev.entente.core.audit.CanonicalJson;
import dev.entente.core.audit.MerkleFrontier;
import dev.entente.steward.link.StewardState;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.channels.FileChannel;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.UUID;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/**
 * The steward's own log: one JSON object a line, each with the hash of the line before, on disk before anything follows from
 * it. It remembers which seals were used and which receipts the service has not taken yet, over restarts.
 */
public final class Journal implements AutoCloseable {
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final TypeReference<LinkedHashMap<String, Object>> LINE = new TypeReference<>() {};

    private final FileChannel channel;
    private final InstantSource clock;
    private final Map<String, Use> uses = new HashMap<>();
    private final Map<UUID, String> unsent = new LinkedHashMap<>();
    private final Map<UUID, Ended> ended = new HashMap<>();
    private final Deque<Long> writes = new ArrayDeque<>();
    private String head = "";
    private long lines;

    private record Use(UUID order, int epoch) {}

    /** How an order ended here before. */
    record Ended(String outcome, String versionBefore, String versionAfter, String server) {}

    /** Opens the journal and reads it through, checking the chain. */
    public Journal(Path stateFolder, InstantSource clock) throws IOException {
        this.clock = clock;
        StewardState.makeFolder(stateFolder);
        var file = stateFolder.resolve("journal.jsonl");
        this.channel =
                FileChannel.open(file, StandardOpenOption.CREATE, StandardOpenOption.WRITE, StandardOpenOption.READ);
        var sound = 0L;
        for (var line : lines(file)) {
            var fields = parse(line);
            if (fields.isEmpty()) {
                break;
            }
            if (!head.equals(fields.get().get("prev"))) {
                throw new IOException(
                        "the journal was changed: line " + (lines + 1) + " does not follow the one before");
            }
            take(fields.get());
            head = hash(line);
            lines++;
            sound += line.getBytes(StandardCharsets.UTF_8).length + 1L;
        }
        // A last line that was cut off while the machine went down never took effect.
        channel.truncate(sound);
        channel.position(sound);
    }

    private static List<String> lines(Path file) throws IOException {
        return Files.exists(file) ? Files.readAllLines(file) : List.of();
    }

    private static Optional<Map<String, Object>> parse(String line) {
        try {
            return Optional.of(JSON.readValue(line, LINE));
        } catch (RuntimeException e) {
            return Optional.empty();
        }
    }

    private void take(Map<String, Object> fields) {
        switch (String.valueOf(fields.get("kind"))) {
            case "taken" ->
                uses.put(
                        fields.get("seal") + " " + fields.get("account"),
                        new Use(
                                UUID.fromString((String) fields.get("order")),
                                ((Number) fields.get("epoch")).intValue()));
            case "writing" -> writes.add(((Number) fields.get("at")).longValue());
            case "ended" -> {
                var order = UUID.fromString((String) fields.get("order"));
                unsent.put(order, (String) fields.get("receipt"));
                ended.put(
                        order,
                        new Ended(
                                (String) fields.get("outcome"),
                                (String) fields.get("versionBefore"),
                                (String) fields.get("versionAfter"),
                                (String) fields.get("server")));
            }
            case "told" -> unsent.remove(UUID.fromString((String) fields.get("order")));
            default -> {
                // Lines that are only there to be read by people.
            }
        }
    }

    /**
     * Notes that a seal is used for an account.
     *
     * @return false if it was used for another order before, or under this or a later epoch
     */
    synchronized boolean takeSeal(String seal, UUID account, UUID order, int epoch, Map<String, Object> also) {
        var use = uses.get(seal + " " + account);
        if (use != null && (!use.order().equals(order) || use.epoch() >= epoch)) {
            return false;
        }
        var fields = new HashMap<>(also);
        fields.put("seal", seal);
        fields.put("account", account.toString());
        fields.put("order", order.toString());
        fields.put("epoch", epoch);
        write("taken", fields);
        return true;
    }

    /** Notes a write that is about to be sent. */
    synchronized void writing(UUID order, Map<String, Object> also) {
        var fields = new HashMap<>(also);
        fields.put("order", order.toString());
        write("writing", fields);
    }

    /** How many writes were sent since a time. */
    synchronized int writesSince(Instant since) {
        while (!writes.isEmpty() && writes.peek() < clock.millis() - 86_400_000L) {
            writes.remove();
        }
        return (int) writes.stream().filter(at -> at >= since.toEpochMilli()).count();
    }

    /** Notes how an order ended, with the receipt for the service. */
    synchronized void ended(UUID order, String receipt, Map<String, Object> also) {
        var fields = new HashMap<>(also);
        fields.put("order", order.toString());
        fields.put("receipt", receipt);
        write("ended", fields);
    }

    /** How an order ended here before, if it did. */
    synchronized Optional<Ended> endedBefore(UUID order) {
        return Optional.ofNullable(ended.get(order));
    }

    /** The service took the receipt. */
    synchronized void told(UUID order) {
        write("told", Map.of("order", order.toString()));
    }

    /** Receipts that the service has not taken yet. */
    public synchronized Map<UUID, String> unsent() {
        return new LinkedHashMap<>(unsent);
    }

    /** Something for people to read later. */
    public synchronized void note(String text, Map<String, Object> also) {
        var fields = new HashMap<>(also);
        fields.put("text", text);
        write("note", fields);
    }

    /** Hash of the newest line, hexadecimal. */
    synchronized String head() {
        return head;
    }

    /** Lines that hold a login name, oldest first; all lines if it is empty. */
    public static List<Map<String, Object>> search(Path stateFolder, String login) throws IOException {
        var found = new ArrayList<Map<String, Object>>();
        var orders = new ArrayList<Object>();
        for (var line : lines(stateFolder.resolve("journal.jsonl"))) {
            parse(line).ifPresent(fields -> {
                var about = String.valueOf(fields.getOrDefault("login", ""));
                if (login.isEmpty() || about.equalsIgnoreCase(login)) {
                    orders.add(fields.getOrDefault("order", ""));
                    found.add(fields);
                } else if (fields.containsKey("order") && orders.contains(fields.get("order"))) {
                    found.add(fields);
                }
            });
        }
        return found;
    }

    private void write(String kind, Map<String, Object> fields) {
        var line = new HashMap<>(fields);
        line.values().removeIf(Objects::isNull);
        line.put("kind", kind);
        line.put("at", clock.millis());
        line.put("seq", lines + 1);
        line.put("prev", head);
        var bytes = CanonicalJson.bytes(line);
        try {
            var text = new String(bytes, StandardCharsets.UTF_8);
            channel.write(StandardCharsets.UTF_8.encode(text + "\n"));
            channel.force(true);
            head = hash(text);
            lines++;
            take(line);
        } catch (IOException e) {
            // Without a journal nothing may be done: whoever asked gives the order up.
            throw new UncheckedIOException("the journal cannot be written", e);
        }
    }

    private static String hash(String line) {
        return HexFormat.of().formatHex(MerkleFrontier.leafHash(line.getBytes(StandardCharsets.UTF_8)));
    }

    @Override
    public void close() throws IOException {
        channel.close();
    }
}
