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
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.time.Duration;
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
import java.util.function.Supplier;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/**
 * The steward's own log: one JSON object a line, each with the hash of the line before, on disk before anything follows from
 * it. It remembers which seals were used and which receipts the service has not taken yet, over restarts.
 *
 * <p>Lines that several orders write at the same time reach the disk together. A file that has grown large is set aside
 * under the number of its last line, and the chain goes on in the next; those set aside can be archived, but not within
 * a day, for what they remember still counts.
 */
public final class Journal implements AutoCloseable {
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final TypeReference<LinkedHashMap<String, Object>> LINE = new TypeReference<>() {};
    private static final String CURRENT = "journal.jsonl";
    private static final String ANCHOR = "journal.anchor";
    private static final Duration REMEMBERED = Duration.ofHours(25);
    private static final long LARGE = 32L * 1024 * 1024;

    private final Path folder;
    private final InstantSource clock;
    private final Map<String, Use> uses = new LinkedHashMap<>();
    private final Map<UUID, String> unsent = new LinkedHashMap<>();
    private final Map<UUID, Ended> ended = new LinkedHashMap<>();
    private final Map<UUID, Write> lastWrites = new LinkedHashMap<>();
    private final Deque<Long> writes = new ArrayDeque<>();
    private final Deque<Judging> judgings = new ArrayDeque<>();
    private final Object disk = new Object();
    private FileChannel channel;
    private long written;
    private String head = "";
    private volatile long lines;
    private long forced;

    private record Use(UUID order, int epoch, long at) {}

    private record Write(UUID order, long at) {}

    private record Judging(UUID account, long at) {}

    /** How an order ended here before. */
    record Ended(String outcome, String versionBefore, String versionAfter, String server, long at) {}

    /** Opens the journal and reads what still counts, checking the chain. */
    public Journal(Path stateFolder, InstantSource clock) throws IOException {
        this.folder = stateFolder;
        this.clock = clock;
        StewardState.makeFolder(stateFolder);
        var first = true;
        for (var file : setAside(stateFolder)) {
            if (Files.getLastModifiedTime(file)
                    .toInstant()
                    .isAfter(clock.instant().minus(REMEMBERED))) {
                readThrough(file, first);
                first = false;
            }
        }
        var file = stateFolder.resolve(CURRENT);
        if (first && Files.exists(stateFolder.resolve(ANCHOR))) {
            // The files before are old or archived: the chain goes on from what the newest of them ended with.
            var anchor = Files.readString(stateFolder.resolve(ANCHOR)).strip().split(" ");
            lines = Long.parseLong(anchor[0]);
            head = anchor[1];
        }
        var sound = Files.exists(file) ? readThrough(file, false) : 0;
        this.channel =
                FileChannel.open(file, StandardOpenOption.CREATE, StandardOpenOption.WRITE, StandardOpenOption.READ);
        // A last line that was cut off while the machine went down never took effect.
        channel.truncate(sound);
        channel.position(sound);
        written = sound;
        forced = lines;
        forget();
    }

    /** @return how many bytes hold whole lines */
    private long readThrough(Path file, boolean first) throws IOException {
        var sound = 0L;
        var anchored = !first;
        try (var reader = Files.newBufferedReader(file)) {
            for (var line = reader.readLine(); line != null; line = reader.readLine()) {
                var fields = parse(line);
                if (fields.isEmpty()) {
                    torn(file, sound + line.getBytes(StandardCharsets.UTF_8).length);
                    break;
                }
                var seq = ((Number) fields.get().getOrDefault("seq", 0)).longValue();
                if (!anchored && seq > 1) {
                    // The files before it are old: the chain is checked from here.
                    head = String.valueOf(fields.get().get("prev"));
                    lines = seq - 1;
                }
                anchored = true;
                if (!head.equals(fields.get().get("prev"))) {
                    throw new IOException(
                            "the journal was changed: line " + (lines + 1) + " does not follow the one before");
                }
                take(fields.get());
                head = hash(line);
                lines = lines + 1;
                sound += line.getBytes(StandardCharsets.UTF_8).length + 1L;
            }
        }
        return sound;
    }

    /** Only the very last line of the newest file may be cut off: it never took effect. */
    private void torn(Path file, long upTo) throws IOException {
        if (!file.getFileName().toString().equals(CURRENT) || upTo != Files.size(file)) {
            throw new IOException(
                    "the journal was changed: line " + (lines + 1) + " of " + file.getFileName() + " can't be read");
        }
    }

    private static List<Path> setAside(Path folder) throws IOException {
        try (var files = Files.list(folder)) {
            return files.filter(f -> f.getFileName().toString().matches("journal-\\d{12}\\.jsonl"))
                    .sorted()
                    .toList();
        }
    }

    private static Optional<Map<String, Object>> parse(String line) {
        try {
            return Optional.of(JSON.readValue(line, LINE));
        } catch (RuntimeException e) {
            return Optional.empty();
        }
    }

    private void take(Map<String, Object> fields) {
        var at = ((Number) fields.get("at")).longValue();
        switch (String.valueOf(fields.get("kind"))) {
            case "taken" ->
                uses.put(
                        fields.get("seal") + " " + fields.get("account"),
                        new Use(
                                UUID.fromString((String) fields.get("order")),
                                ((Number) fields.get("epoch")).intValue(),
                                at));
            case "writing" -> {
                writes.add(at);
                if (fields.get("account") != null) {
                    var account = UUID.fromString((String) fields.get("account"));
                    lastWrites.remove(account);
                    lastWrites.put(account, new Write(UUID.fromString((String) fields.get("order")), at));
                }
            }
            case "judging" -> judgings.add(new Judging(UUID.fromString((String) fields.get("account")), at));
            case "ended" -> {
                var order = UUID.fromString((String) fields.get("order"));
                unsent.put(order, (String) fields.get("receipt"));
                ended.remove(order);
                ended.put(
                        order,
                        new Ended(
                                (String) fields.get("outcome"),
                                (String) fields.get("versionBefore"),
                                (String) fields.get("versionAfter"),
                                (String) fields.get("server"),
                                at));
            }
            case "told" -> unsent.remove(UUID.fromString((String) fields.get("order")));
            default -> {
                // Lines that are only there to be read by people.
            }
        }
    }

    /** No seal is valid for a day, so what is older cannot come back. */
    private void forget() {
        var limit = clock.instant().minus(REMEMBERED).toEpochMilli();
        uses.values().removeIf(use -> use.at() < limit);
        ended.values().removeIf(end -> end.at() < limit);
        lastWrites.values().removeIf(write -> write.at() < limit);
        judgings.removeIf(judging -> judging.at() < limit);
        while (!writes.isEmpty() && writes.peek() < limit) {
            writes.remove();
        }
    }

    /**
     * Notes that a seal is used for an account.
     *
     * @return false if it was used for another order before, or under this or a later epoch
     */
    boolean takeSeal(String seal, UUID account, UUID order, int epoch, Map<String, Object> also) {
        long line;
        synchronized (this) {
            var use = uses.get(seal + " " + account);
            if (use != null && (!use.order().equals(order) || use.epoch() >= epoch)) {
                return false;
            }
            var fields = new HashMap<>(also);
            fields.put("seal", seal);
            fields.put("account", account.toString());
            fields.put("order", order.toString());
            fields.put("epoch", epoch);
            line = write("taken", fields);
        }
        keep(line);
        return true;
    }

    /**
     * Notes a write that is about to be sent, unless something speaks against it; nobody else notes one between that look and
     * the note.
     *
     * @param against looks at what is noted up to now
     * @return what spoke against it
     */
    <T> Optional<T> writing(UUID order, UUID account, Map<String, Object> also, Supplier<Optional<T>> against) {
        return noting("writing", order, account, also, against);
    }

    private <T> Optional<T> noting(
            String kind, UUID order, UUID account, Map<String, Object> also, Supplier<Optional<T>> against) {
        long line;
        synchronized (this) {
            var found = against.get();
            if (found.isPresent()) {
                return found;
            }
            var fields = new HashMap<>(also);
            fields.put("order", order.toString());
            fields.put("account", account.toString());
            line = write(kind, fields);
        }
        keep(line);
        return Optional.empty();
    }

    /** The same for a password that is about to be tried without a write. */
    <T> Optional<T> judging(UUID order, UUID account, Map<String, Object> also, Supplier<Optional<T>> against) {
        return noting("judging", order, account, also, against);
    }

    /** How often passwords were tried without a write since a time, at most a day ago; for one account, or for all. */
    synchronized int judgingsSince(Instant since, UUID account) {
        var limit = since.toEpochMilli();
        return (int) judgings.stream()
                .filter(j -> j.at() >= limit && (account == null || j.account().equals(account)))
                .count();
    }

    /** How many writes were sent since a time, at most a day ago. */
    synchronized int writesSince(Instant since) {
        var limit = since.toEpochMilli();
        var count = 0;
        for (var newest = writes.descendingIterator(); newest.hasNext() && newest.next() >= limit; ) {
            count++;
        }
        return count;
    }

    /** When an account was written last, for another order than this one. */
    synchronized Optional<Instant> lastWrite(UUID account, UUID order) {
        return Optional.ofNullable(lastWrites.get(account))
                .filter(write -> !write.order().equals(order))
                .map(write -> Instant.ofEpochMilli(write.at()));
    }

    /** Notes how an order ended, with the receipt for the service. */
    void ended(UUID order, String receipt, Map<String, Object> also) {
        var fields = new HashMap<>(also);
        fields.put("order", order.toString());
        fields.put("receipt", receipt);
        keep(write("ended", fields));
    }

    /** How an order ended here before, if it did. */
    synchronized Optional<Ended> endedBefore(UUID order) {
        return Optional.ofNullable(ended.get(order));
    }

    /** The service took the receipt. Not waited for: a receipt that is handed in twice does no harm. */
    void told(UUID order) {
        write("told", Map.of("order", order.toString()));
    }

    /** Receipts that the service has not taken yet. */
    public synchronized Map<UUID, String> unsent() {
        return new LinkedHashMap<>(unsent);
    }

    /** Something for people to read later. */
    public void note(String text, Map<String, Object> also) {
        var fields = new HashMap<>(also);
        fields.put("text", text);
        keep(write("note", fields));
    }

    /** Hash of the newest line, hexadecimal. */
    synchronized String head() {
        return head;
    }

    /** Lines that hold a login name, oldest first; all lines if it is empty. */
    public static List<Map<String, Object>> search(Path stateFolder, String login) throws IOException {
        var found = new ArrayList<Map<String, Object>>();
        var orders = new ArrayList<Object>();
        var files = new ArrayList<>(setAside(stateFolder));
        files.add(stateFolder.resolve(CURRENT));
        for (var file : files) {
            if (!Files.exists(file)) {
                continue;
            }
            try (var reader = Files.newBufferedReader(file)) {
                for (var line = reader.readLine(); line != null; line = reader.readLine()) {
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
            }
        }
        return found;
    }

    /** @return the number of the line, to be kept on disk before anything follows from it */
    private synchronized long write(String kind, Map<String, Object> fields) {
        var line = new HashMap<>(fields);
        line.values().removeIf(Objects::isNull);
        line.put("kind", kind);
        line.put("at", clock.millis());
        line.put("seq", lines + 1);
        line.put("prev", head);
        var text = new String(CanonicalJson.bytes(line), StandardCharsets.UTF_8);
        try {
            if (written > LARGE) {
                setAside();
            }
            written += channel.write(StandardCharsets.UTF_8.encode(text + "\n"));
            head = hash(text);
            lines = lines + 1;
            take(line);
            return lines;
        } catch (IOException e) {
            // Without a journal nothing may be done: whoever asked gives the order up.
            throw new UncheckedIOException(
                    "the journal can't be written; check space and rights in the steward's state folder", e);
        }
    }

    private void setAside() throws IOException {
        synchronized (disk) {
            channel.force(true);
            forced = lines;
            channel.close();
            StewardState.writePrivately(folder.resolve(ANCHOR), lines + " " + head + "\n");
            Files.move(
                    folder.resolve(CURRENT),
                    folder.resolve("journal-%012d.jsonl".formatted(lines)),
                    StandardCopyOption.ATOMIC_MOVE);
            channel =
                    FileChannel.open(folder.resolve(CURRENT), StandardOpenOption.CREATE_NEW, StandardOpenOption.WRITE);
            written = 0;
        }
        forget();
    }

    /** Waits until a line is on disk; whoever comes first takes the lines of all others along. */
    private void keep(long line) {
        synchronized (disk) {
            if (forced >= line) {
                return;
            }
            // Not under the lock of those who write: setting a file aside takes both locks, in the other order.
            var upTo = lines;
            try {
                channel.force(false);
                forced = upTo;
            } catch (IOException e) {
                throw new UncheckedIOException(
                        "the journal can't be written; check space and rights in the steward's state folder", e);
            }
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
