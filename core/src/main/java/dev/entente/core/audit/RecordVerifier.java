package dev.entente.core.audit;

import dev.entente.core.audit.Positions.Run;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.OrNull;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;

/**
 * Verifies a record with nothing but the public key that signs it: leaves from what events say, the tree from leaves (RFC 9162 section
 * 2.1), every checkpoint's signature, size and root, that it extends the checkpoints kept elsewhere, and that
 * whatever is gone stands in the list of a sealed cut or erasure. Events, lists and checkpoints are given in their order; memory grows with
 * the stretches that are gone alone. What is not proven is a fault: a record of which nothing is wrong is one that was signed to its end.
 * Not safe for use by several threads; {@link #weigh} is.
 */
public final class RecordVerifier {
    /** Faults that are told one by one. */
    private static final int TOLD = 20;

    /** Which signs what comes now. */
    private EcKey key;

    private final Set<String> keys = new LinkedHashSet<>();
    /** Kept, and not signed by any key so far. */
    private final List<Kept> unknown = new ArrayList<>();

    private final TreeMap<Long, List<Known>> kept = new TreeMap<>();
    private int compared;
    private final MerkleFrontier tree = new MerkleFrontier();
    private final List<String> faults = new ArrayList<>();
    private int untold;
    /** What is wrong with the whole, told however many other faults there are. */
    private final List<String> whole = new ArrayList<>();

    /** The last size at which the tree was what a checkpoint says. */
    private long proven;

    private long signedAt;
    private long checkpoints;
    /** Once the tree has gone wrong, so has every later root. */
    private boolean astray;

    private final Positions.Builder goneEvents = new Positions.Builder();
    private final Map<String, Positions.Builder> goneValues = new TreeMap<>();
    private final List<Run> listedEvents = new ArrayList<>();
    private final Map<String, List<Run>> listedValues = new TreeMap<>();
    /** The last event, if it seals a list that was not given yet. */
    private Awaited awaited;

    private record Awaited(long seq, String digest) {}

    /**
     * A checkpoint kept outside the service.
     *
     * @param line where it stands, from 1
     * @param statement as it was signed
     */
    public record Kept(int line, String statement) {}

    private record Known(int line, Checkpoint checkpoint) {}

    /**
     * @param key whose signature the first checkpoints bear
     * @param keptElsewhere checkpoints that the record has to extend
     */
    public RecordVerifier(EcKey key, List<Kept> keptElsewhere) {
        unknown.addAll(keptElsewhere);
        signs(key, 0);
    }

    /** @param from checkpoints over fewer events are those of the key of before */
    private void signs(EcKey next, long from) {
        this.key = next;
        keys.add(next.thumbprint());
        for (var one : List.copyOf(unknown)) {
            try {
                var checkpoint = Checkpoint.verify(one.statement(), next);
                if (checkpoint.size() >= from) {
                    kept.computeIfAbsent(checkpoint.size(), size -> new ArrayList<>())
                            .add(new Known(one.line(), checkpoint));
                    unknown.remove(one);
                }
            } catch (InvalidDocument e) {
                // Perhaps by a later one.
            }
        }
    }

    /** Another key signs from here on. */
    public void keyChange(KeyChange change) {
        listGiven();
        KeyChange.Terms terms;
        try {
            terms = change.after(key);
        } catch (InvalidDocument | NullPointerException e) {
            fault("After event " + (tree.size() - 1) + " another key follows, and the one of before didn't agree.");
            return;
        }
        if (terms.size() != tree.size() || !root().equals(terms.root())) {
            astray("The key was changed after " + terms.size() + " events, and that isn't said of these.");
            return;
        }
        // What the one of before signed after its time and somebody kept is good for nothing.
        var late = kept.tailMap(terms.size(), false);
        late.values().forEach(ones -> ones.forEach(one -> fault(foreign(one.line()))));
        late.clear();
        signs(terms.to(), terms.size() + 1);
    }

    /** Whether a key with this thumbprint is among those that signed so far. */
    public boolean signedBy(String thumbprint) {
        return keys.contains(thumbprint);
    }

    /**
     * An event in the record's order.
     *
     * @param seq its position, from 0
     * @param leaf its leaf hash as it was sealed, hexadecimal
     * @param event what it says; null if that is gone and only the hash is left
     * @param personal the values that its commitments are to, as far as they are not gone
     */
    public record Sealed(long seq, String leaf, @OrNull AuditEvent event, Map<String, Salted> personal) {
        public Sealed {
            personal = personal == null ? Map.of() : personal;
        }
    }

    /**
     * A personal value.
     *
     * @param salt hexadecimal, {@link AuditEvent#SALT_LENGTH} bytes
     */
    public record Salted(String salt, String value) {
        /** What it is committed to by, under a name. */
        String commitment(String name) {
            if (salt == null || value == null) {
                throw new IllegalArgumentException("a personal value is missing");
            }
            return AuditEvent.commit(HexFormat.of().parseHex(salt), name, value);
        }
    }

    /**
     * An event with what can be said of it by itself.
     *
     * @param leaf its hash, made from what it says; null if that can't be made
     * @param why it can't
     * @param foreign names of values that aren't those that were sealed
     */
    public record Weighed(Sealed sealed, byte[] leaf, String why, List<String> foreign) {}

    /** Does the work of an event that needs none of the others: by several threads at once. */
    public static Weighed weigh(Sealed sealed) {
        try {
            if (sealed.event() == null) {
                return new Weighed(sealed, HexFormat.of().parseHex(String.valueOf(sealed.leaf())), null, List.of());
            }
            var leaf = sealed.event().leafHash();
            var foreign = new ArrayList<String>();
            for (var value : sealed.personal().entrySet()) {
                if (value.getValue() == null
                        || !value.getValue()
                                .commitment(value.getKey())
                                .equals(sealed.event().commitments().get(value.getKey()))) {
                    foreign.add(value.getKey());
                }
            }
            return new Weighed(sealed, leaf, null, foreign);
        } catch (IllegalArgumentException e) {
            // The file may come from anywhere and contain anything.
            return new Weighed(sealed, null, e.getMessage(), List.of());
        }
    }

    /**
     * What came of it.
     *
     * @param events how many were read
     * @param proven how many of them the latest good checkpoint covers
     * @param loose how many come after that: they are there, and nothing more
     * @param missing how many there should be and were not read
     * @param signedAt when the latest good checkpoint was signed; null if there is none
     * @param checkpoints how many were verified
     * @param kept how many checkpoints that were kept elsewhere the record was compared with
     * @param cut events of which only the hash is left, as a sealed list says
     * @param erased values that are gone, as a sealed list says
     * @param removed events and values that are gone, and in no such list
     * @param faults sentences, the first faults first; empty if all is as it was sealed
     */
    public record Verdict(
            long events,
            long proven,
            long loose,
            long missing,
            @OrNull Instant signedAt,
            long checkpoints,
            int kept,
            long cut,
            long erased,
            long removed,
            List<String> faults) {
        /** Whether nothing is wrong. */
        public boolean whole() {
            return faults.isEmpty();
        }
    }

    /** The next event. */
    public void event(Sealed sealed) {
        event(weigh(sealed));
    }

    /** The next event. */
    public void event(Weighed weighed) {
        listGiven();
        var sealed = weighed.sealed();
        if (sealed.seq() != tree.size()) {
            astray(
                    sealed.seq() > tree.size()
                            ? missing(tree.size(), sealed.seq() - 1)
                            : "Event " + sealed.seq() + " is there twice, or in another place.");
        }
        if (weighed.leaf() == null) {
            astray("Event " + sealed.seq() + " can't be read: " + weighed.why() + ".");
        } else if (sealed.event() == null) {
            goneEvents.add(sealed.seq(), sealed.seq());
        } else {
            content(weighed);
        }
        tree.append(weighed.leaf() == null ? new byte[0] : weighed.leaf());
        compareWithKept();
    }

    /**
     * What a line holds, but for what a file begins and ends with.
     *
     * @param weighed its event; null if it holds none
     */
    public void line(RecordLine line, @OrNull Weighed weighed) {
        if (weighed != null) {
            event(weighed);
        } else if (line.gone() != null) {
            gone(line.gone());
        } else if (line.checkpoint() != null) {
            checkpoint(line.checkpoint());
        } else if (line.keyChange() != null) {
            keyChange(line.keyChange());
        }
    }

    /** A line that is none stands where an event should. */
    void unreadable(String what) {
        listGiven();
        astray(what);
    }

    /** What the tree is made of is what events say, not what stands beside them. */
    private void content(Weighed weighed) {
        var sealed = weighed.sealed();
        var event = sealed.event();
        if (!HexFormat.of().formatHex(weighed.leaf()).equals(sealed.leaf())) {
            astray(named(sealed) + " doesn't say what it said when it was sealed.");
        }
        weighed.foreign()
                .forEach(name -> fault(named(sealed) + " has a different " + name + " than when it was sealed."));
        for (var name : event.commitments().keySet()) {
            if (!sealed.personal().containsKey(name)) {
                goneValues.computeIfAbsent(name, n -> new Positions.Builder()).add(sealed.seq(), sealed.seq());
            }
        }
        if (Gone.KINDS.contains(event.kind()) && event.data().get(Gone.FIELD) instanceof String digest) {
            awaited = new Awaited(sealed.seq(), digest);
        }
    }

    /** What the event before tells that it took out. */
    public void gone(Gone gone) {
        if (awaited == null || awaited.seq() != gone.seq()) {
            fault("There is a list of removed data after event " + (tree.size() - 1) + ", which has none.");
            return;
        }
        if (gone.list() == null || !awaited.digest().equals(gone.digest())) {
            fault("The list of what event " + gone.seq() + " removed isn't the one that was sealed.");
            awaited = null;
            return;
        }
        try {
            var read = gone.read();
            listedEvents.addAll(read.events().runs());
            read.values()
                    .forEach((name, positions) -> listedValues
                            .computeIfAbsent(name, n -> new ArrayList<>())
                            .addAll(positions.runs()));
        } catch (InvalidDocument e) {
            fault("The list of what event " + gone.seq() + " removed can't be read: " + e.getMessage() + ".");
        }
        awaited = null;
    }

    private void listGiven() {
        if (awaited != null) {
            fault("The list of what event " + awaited.seq() + " removed is missing.");
            awaited = null;
        }
    }

    private static String named(Sealed sealed) {
        return "Event " + sealed.seq() + " (" + sealed.event().kind() + ", "
                + Instant.ofEpochMilli(sealed.event().at())
                + attempt(sealed.event().attempt()) + ")";
    }

    private static String attempt(UUID attempt) {
        return attempt == null ? "" : ", attempt " + attempt;
    }

    /** The checkpoint that was signed after the events so far. */
    public void checkpoint(SignedCheckpoint given) {
        listGiven();
        Checkpoint checkpoint;
        try {
            checkpoint = Checkpoint.verify(given.statement(), key);
        } catch (InvalidDocument e) {
            fault("The checkpoint after event " + (tree.size() - 1) + " isn't signed by the key of this record.");
            return;
        }
        checkpoints++;
        if (checkpoint.size() != given.size()) {
            fault("The checkpoint after event " + (tree.size() - 1) + " was signed over " + checkpoint.size()
                    + " events, but the line says " + given.size() + ".");
        }
        if (checkpoint.size() > tree.size()) {
            astray(missing(tree.size(), checkpoint.size() - 1));
        } else if (checkpoint.size() < tree.size()) {
            astray("The checkpoint over " + checkpoint.size() + " events stands after event " + (tree.size() - 1)
                    + ": it was moved, or events were put in before it.");
        } else if (!root().equals(checkpoint.root())) {
            astray(between(proven, tree.size()));
        } else if (!astray) {
            proven = tree.size();
            signedAt = checkpoint.at();
        }
    }

    private void compareWithKept() {
        for (var one : kept.getOrDefault(tree.size(), List.of())) {
            compared++;
            if (!root().equals(one.checkpoint().root())) {
                astray("The record isn't the one that the checkpoint over "
                        + one.checkpoint().size() + " events of "
                        + Instant.ofEpochMilli(one.checkpoint().at()) + " was made of: it was rewritten.");
            }
        }
    }

    private String root() {
        return HexFormat.of().formatHex(tree.root());
    }

    private static String missing(long from, long to) {
        return from == to ? "Event " + from + " is missing." : "The events " + from + " to " + to + " are missing.";
    }

    private static String between(long from, long to) {
        return from + 1 == to
                ? "Event " + from + " isn't the one that was sealed."
                : "Among the events " + from + " to " + (to - 1)
                        + " one was changed, put in, or taken to another place since they were sealed.";
    }

    private static String foreign(int line) {
        return "The kept checkpoint in line " + line
                + " isn't signed by a key of this record, or was signed after that key was replaced.";
    }

    private void astray(String what) {
        if (!astray) {
            fault(what);
        }
        astray = true;
    }

    private void fault(String what) {
        if (faults.size() < TOLD) {
            faults.add(what);
        } else {
            untold++;
        }
    }

    /** How many events were read so far. */
    public long read() {
        return tree.size();
    }

    /**
     * To be asked once, when everything was given.
     *
     * @param size how many events there have to be; -1 if nothing says so, and then only a checkpoint that was kept can tell that none is
     *     missing at the end
     */
    public Verdict verdict(long size) {
        listGiven();
        var longest = kept.isEmpty() ? 0 : kept.lastKey();
        if (size > tree.size()) {
            whole.add(missing(tree.size(), size - 1));
            astray = true;
        } else if (size >= 0 && size < tree.size()) {
            whole.add("The record should contain " + size + " events, but " + tree.size() + " were read.");
            astray = true;
        } else if (size < 0 && longest != tree.size()) {
            fault("The file has no end mark: it was cut off, isn't finished, or is of version 1. Export it again, or"
                    + " compare it with a checkpoint that was kept of its end.");
        }
        unsigned();
        unknown.forEach(one -> fault(foreign(one.line())));
        if (longest > tree.size()) {
            whole.add("The record has " + tree.size() + " events, and a checkpoint that was kept covers " + longest
                    + ": it was rolled back.");
        }
        var cut = removed("Event", "Events", goneEvents.positions(), listedEvents, "and no sealed cut accounts for it");
        var erased = 0L;
        var removed = goneEvents.positions().count() - cut;
        for (var name : goneValues.keySet()) {
            var positions = goneValues.get(name).positions();
            var told = removed(
                    "The value “" + name + "” of event",
                    "The values “" + name + "” of events",
                    positions,
                    listedValues.getOrDefault(name, List.of()),
                    "and no sealed erasure accounts for it");
            erased += told;
            removed += positions.count() - told;
        }
        var told = new ArrayList<>(faults);
        if (untold > 0) {
            told.add("There are " + untold + " faults more.");
        }
        told.addAll(whole);
        return new Verdict(
                tree.size(),
                proven,
                tree.size() - proven,
                Math.max(0, size - tree.size()),
                signedAt == 0 ? null : Instant.ofEpochMilli(signedAt),
                checkpoints,
                compared,
                cut,
                erased,
                removed,
                List.copyOf(told));
    }

    private void unsigned() {
        if (tree.size() == 0) {
            whole.add("The record contains no events.");
        } else if (proven < tree.size() && !astray) {
            whole.add(
                    proven == 0
                            ? "No checkpoint covers these events, so none of them is signed."
                            : (proven + 1 == tree.size()
                                    ? "Event " + proven + " is after the last checkpoint and was never signed."
                                    : "Events " + proven + " to " + (tree.size() - 1)
                                            + " are after the last checkpoint and were never signed."));
        }
    }

    /** @return how many of what is gone stand in a list that is proven */
    private long removed(String one, String several, Positions gone, List<Run> listed, String why) {
        var left = gone.without(Positions.of(listed));
        for (var run : left.runs()) {
            fault(
                    run.first() == run.last()
                            ? one + " " + run.first() + " was removed, " + why + "."
                            : several + " " + run.first() + " to " + run.last() + " were removed, " + why + ".");
        }
        return gone.count() - left.count();
    }
}
