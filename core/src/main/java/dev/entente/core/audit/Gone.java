package dev.entente.core.audit;

import dev.entente.core.audit.Positions.Run;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.StrictJson;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;

/**
 * What a cut or an erasure took out of the record. It stands beside the event that tells of it, and that event seals its SHA-256 under
 * {@code gone}: whatever is missing and stands in no such list was removed.
 *
 * @param seq position of the event that tells of it
 * @param list JSON: {@code {"events":[[first,last],…],"values":{"login":[[first,last],…],…}}}, positions from 0, both of each pair included
 */
public record Gone(long seq, String list) {
    /** The kinds of events that tell of such a list. */
    static final Set<String> KINDS = Set.of("record.cut", "erasure.done", "record.gaps");

    /** The field of their data that holds the digest. */
    static final String FIELD = "gone";

    /** What the event seals: SHA-256 of the list as it is written, hexadecimal. */
    String digest() {
        return HexFormat.of().formatHex(Sha256.of(list.getBytes(StandardCharsets.UTF_8)));
    }

    private record Listed(List<List<Long>> events, Map<String, List<List<Long>>> values) {}

    /** As positions. */
    record Read(Positions events, Map<String, Positions> values) {}

    /** @throws InvalidDocument if the list is none */
    Read read() {
        var listed = StrictJson.read(list, Listed.class);
        if (listed.events() == null || listed.values() == null) {
            throw new InvalidDocument("format", "a member is missing");
        }
        return new Read(
                positions(listed.events()),
                listed.values().entrySet().stream()
                        .collect(Collectors.toMap(Map.Entry::getKey, value -> positions(value.getValue()))));
    }

    private static Positions positions(List<List<Long>> pairs) {
        var runs = new ArrayList<Run>();
        for (var pair : pairs == null ? List.<List<Long>>of() : pairs) {
            if (pair == null
                    || pair.size() != 2
                    || pair.contains(null)
                    || pair.get(0) < 0
                    || pair.get(0) > pair.get(1)) {
                throw new InvalidDocument("format", "it contains an invalid pair of positions");
            }
            runs.add(new Run(pair.get(0), pair.get(1)));
        }
        return Positions.of(runs);
    }
}
