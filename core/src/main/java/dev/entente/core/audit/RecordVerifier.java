package dev.entente.core.audit;

import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.OrNull;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HexFormat;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;

/**
 * Verifies a record with nothing but the public key that signs it: leaves from what events say, the tree from leaves (RFC 9162 section
 * 2.1), every checkpoint's signature, size and root, and that checkpoints which somebody kept elsewhere are among what it grew from. Events
 * and checkpoints are given in their order; memory does not grow with them. Not safe for use by several threads.
 */
public final class RecordVerifier {
    /** Faults that are told one by one. */
    private static final int TOLD = 20;

    /** Which signs what comes now. */
    private EcKey key;

    private final Set<String> keys = new LinkedHashSet<>();
    /** Kept, and signed by a key after its time. */
    private int late;

    /** Kept, and not signed by any key so far. */
    private final List<String> unknown = new ArrayList<>();

    private final TreeMap<Long, List<Checkpoint>> kept = new TreeMap<>();
    private final MerkleFrontier tree = new MerkleFrontier();
    private final List<String> faults = new ArrayList<>();
    private int untold;
    /** The last size at which the tree was what a checkpoint says. */
    private long proven;

    private long signedAt;
    private long checkpoints;
    private long gone;
    /** Once the tree has gone wrong, so has every later root. */
    private boolean astray;

    /**
     * @param key whose signature the first checkpoints bear
     * @param keptElsewhere signed checkpoints that the record has to extend
     */
    public RecordVerifier(EcKey key, Collection<String> keptElsewhere) {
        unknown.addAll(keptElsewhere);
        signs(key, 0);
    }

    /** @param from checkpoints over fewer events are those of the key of before */
    private void signs(EcKey next, long from) {
        this.key = next;
        keys.add(next.thumbprint());
        for (var signed : List.copyOf(unknown)) {
            try {
                var checkpoint = Checkpoint.verify(signed.strip(), next);
                if (checkpoint.size() >= from) {
                    kept.computeIfAbsent(checkpoint.size(), size -> new ArrayList<>())
                            .add(checkpoint);
                    unknown.remove(signed);
                }
            } catch (InvalidDocument e) {
                // Perhaps by a later one.
            }
        }
    }

    /** Another key signs from here on. */
    public void keyChange(KeyChange change) {
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
        late += kept.tailMap(terms.size(), false).values().stream()
                .mapToInt(List::size)
                .sum();
        kept.tailMap(terms.size(), false).clear();
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
     * @param event what it says; null if that was cut off and only the hash is left
     * @param personal the values that its commitments are to, as far as they are not erased
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
    public record Salted(String salt, String value) {}

    /**
     * What came of it.
     *
     * @param events how many there are
     * @param proven how many of them the latest good checkpoint covers
     * @param signedAt when that was signed; null if there is none
     * @param checkpoints how many were verified
     * @param gone events of which only the hash is left
     * @param faults sentences, the first faults first; empty if all is as it was sealed
     */
    public record Verdict(
            long events, long proven, Instant signedAt, long checkpoints, long gone, List<String> faults) {
        /** Whether nothing is wrong. */
        public boolean whole() {
            return faults.isEmpty();
        }
    }

    /** The next event. */
    public void event(Sealed sealed) {
        if (sealed.seq() != tree.size()) {
            astray(
                    sealed.seq() > tree.size()
                            ? missing(tree.size(), sealed.seq() - 1)
                            : "Event " + sealed.seq() + " is there twice, or in another place.");
        }
        tree.append(leaf(sealed));
        compareWithKept();
    }

    /** What the tree is made of is what events say, not what stands beside them. */
    private byte[] leaf(Sealed sealed) {
        try {
            if (sealed.event() == null) {
                gone++;
                return HexFormat.of().parseHex(sealed.leaf());
            }
            content(sealed);
            return sealed.event().leafHash();
        } catch (IllegalArgumentException | NullPointerException e) {
            // Whoever wrote the file may have left out or put in anything.
            astray("Event " + sealed.seq() + " can't be read.");
            return new byte[0];
        }
    }

    private void content(Sealed sealed) {
        var event = sealed.event();
        if (!HexFormat.of().formatHex(event.leafHash()).equals(sealed.leaf())) {
            astray(named(sealed) + " doesn't say what it said when it was sealed.");
        }
        sealed.personal().forEach((name, salted) -> {
            var commitment = event.commitments().get(name);
            if (commitment == null
                    || !commitment.equals(
                            AuditEvent.commit(HexFormat.of().parseHex(salted.salt()), name, salted.value()))) {
                fault(named(sealed) + " has another " + name + " than when it was sealed.");
            }
        });
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
    public void checkpoint(String signed) {
        Checkpoint checkpoint;
        try {
            checkpoint = Checkpoint.verify(signed, key);
        } catch (InvalidDocument e) {
            fault("The checkpoint after event " + (tree.size() - 1) + " isn't signed by the key of this record.");
            return;
        }
        checkpoints++;
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
        for (var checkpoint : kept.getOrDefault(tree.size(), List.of())) {
            if (!root().equals(checkpoint.root())) {
                astray("The record isn't the one that the checkpoint over " + checkpoint.size() + " events of "
                        + Instant.ofEpochMilli(checkpoint.at()) + " was made of: it was rewritten.");
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

    /**
     * To be asked once everything was given.
     *
     * @param size how many events there have to be; -1 if that is not known
     */
    public Verdict verdict(long size) {
        if (size > tree.size()) {
            astray(missing(tree.size(), size - 1));
        }
        for (late += unknown.size(); late > 0; late--) {
            fault("A checkpoint that was kept isn't signed by a key of this record, or was signed after its time.");
        }
        unknown.clear();
        var longest = kept.isEmpty() ? 0 : kept.lastKey();
        if (longest > tree.size()) {
            fault("The record has " + tree.size() + " events, and a checkpoint that was kept covers " + longest
                    + ": it was rolled back.");
        }
        var told = new ArrayList<>(faults);
        if (untold > 0) {
            told.add("There are " + untold + " faults more.");
        }
        return new Verdict(
                tree.size(),
                proven,
                signedAt == 0 ? null : Instant.ofEpochMilli(signedAt),
                checkpoints,
                gone,
                List.copyOf(told));
    }
}
