package dev.entente.core.audit;

import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import java.util.ArrayList;
import java.util.List;

/**
 * The keys that sign a record, one after the other. Whoever trusts one of them may trust them all, each for the checkpoints of its time:
 * a key that was replaced signs nothing of later any more.
 */
public final class RecordKeys {
    /** @param after it signs checkpoints over more events than these, and up to {@code last} */
    private record Time(EcKey key, long after, long last) {}

    private final List<Time> times;

    private RecordKeys(List<Time> times) {
        this.times = List.copyOf(times);
    }

    /** One that was never changed. */
    public static RecordKeys of(EcKey key) {
        return of(key, List.of());
    }

    /**
     * Those that led to the one of now.
     *
     * @param changes oldest first
     * @throws InvalidDocument if they do not lead there
     */
    public static RecordKeys of(EcKey now, List<KeyChange> changes) {
        var times = new ArrayList<Time>();
        var key = now;
        var last = Long.MAX_VALUE;
        for (var i = changes.size() - 1; i >= 0; i--) {
            var terms = changes.get(i).before(key);
            if (terms.size() > last || terms.size() < 0) {
                throw new InvalidDocument("record", "its keys didn't follow each other");
            }
            times.add(0, new Time(key, terms.size(), last));
            key = terms.from();
            last = terms.size();
        }
        times.add(0, new Time(key, -1, last));
        return new RecordKeys(times);
    }

    /** Which signs now. */
    public EcKey now() {
        return times.get(times.size() - 1).key();
    }

    /** Which signs, or signed, checkpoints over so many events. */
    public EcKey at(long size) {
        return times.stream()
                .filter(time -> size > time.after() && size <= time.last())
                .findFirst()
                .orElseThrow()
                .key();
    }

    /** How often it was changed. */
    public int changes() {
        return times.size() - 1;
    }

    /** Whether one of them has this thumbprint. */
    public boolean has(String thumbprint) {
        return times.stream().anyMatch(time -> time.key().thumbprint().equals(thumbprint));
    }

    /** A checkpoint, and the key that signed it. */
    public record Signed(Checkpoint checkpoint, EcKey by) {}

    /** @throws InvalidDocument if none of them signed it, or one after its time */
    public Signed verify(String signed) {
        for (var time : times) {
            Checkpoint checkpoint;
            try {
                checkpoint = Checkpoint.verify(signed, time.key());
            } catch (InvalidDocument e) {
                continue;
            }
            if (checkpoint.size() > time.after() && checkpoint.size() <= time.last()) {
                return new Signed(checkpoint, time.key());
            }
        }
        throw new InvalidDocument("record", "a checkpoint isn't signed by the key of its time");
    }
}
