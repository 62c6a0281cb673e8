package dev.entente.core.audit;

import dev.entente.core.seal.InvalidDocument;
import java.util.HexFormat;
import java.util.List;

/**
 * Shows somebody who keeps a checkpoint that the record was continued from there and from nowhere else: the right edge of the tree at
 * the kept size, the leaves that came since, and the checkpoint to keep next.
 *
 * @param from the size that was kept; 0 for whoever keeps none yet
 * @param peaks hashes of the complete subtrees at that size, largest first, hexadecimal; null if no checkpoint has that size
 * @param leaves leaf hashes since then, hexadecimal, as many as the next checkpoint covers
 * @param checkpoint signed; null if nothing is sealed yet
 */
public record RecordExtension(long from, List<String> peaks, List<String> leaves, String checkpoint) {
    /** Leaves that are shown at once, but for those of a single checkpoint. */
    public static final int MOST = 5_000;

    public RecordExtension {
        leaves = leaves == null ? List.of() : leaves;
    }

    /**
     * The checkpoint to keep from now on.
     *
     * @param kept the one that was kept
     * @param keys of the record
     * @throws InvalidDocument with a sentence if the record is not the one that was kept, continued
     */
    public Checkpoint continues(Checkpoint kept, RecordKeys keys) {
        Checkpoint next;
        try {
            next = keys.verify(checkpoint).checkpoint();
        } catch (InvalidDocument | NullPointerException e) {
            throw new InvalidDocument("record", "its checkpoint isn't signed by the key of before");
        }
        if (next.size() < kept.size()) {
            throw new InvalidDocument(
                    "record", "it had " + kept.size() + " events and has " + next.size() + ": it was rolled back");
        }
        if (from != kept.size() || peaks == null) {
            throw new InvalidDocument(
                    "record", "it knows of no checkpoint over " + kept.size() + " events: it was rewritten");
        }
        MerkleFrontier tree;
        try {
            tree = new MerkleFrontier(
                    from, peaks.stream().map(HexFormat.of()::parseHex).toList());
            if (!root(tree).equals(kept.root())) {
                throw new IllegalArgumentException("another root");
            }
            leaves.forEach(leaf -> tree.append(HexFormat.of().parseHex(leaf)));
        } catch (IllegalArgumentException e) {
            throw new InvalidDocument(
                    "record", "its first " + kept.size() + " events aren't those of before: it was rewritten");
        }
        if (tree.size() != next.size() || !root(tree).equals(next.root())) {
            throw new InvalidDocument(
                    "record", "the events since number " + kept.size() + " don't lead to what it has signed");
        }
        return next;
    }

    private static String root(MerkleFrontier tree) {
        return HexFormat.of().formatHex(tree.root());
    }
}
