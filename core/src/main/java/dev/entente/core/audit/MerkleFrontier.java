package dev.entente.core.audit;

import java.util.ArrayList;
import java.util.List;

/**
 * The right edge of the Merkle tree of RFC 9162 section 2.1: enough to append leaves and to know the root, in memory that
 * grows with the logarithm of the tree. Not safe for use by several threads.
 */
public final class MerkleFrontier {
    private final List<byte[]> peaks;
    private long size;

    /** An empty tree. */
    public MerkleFrontier() {
        this(0, List.of());
    }

    /**
     * A tree as it was left.
     *
     * @param size number of leaves
     * @param peaks hashes of its complete subtrees, largest first: one for each bit set in {@code size}
     */
    public MerkleFrontier(long size, List<byte[]> peaks) {
        if (Long.bitCount(size) != peaks.size()) {
            throw new IllegalArgumentException("a tree of " + size + " leaves has " + Long.bitCount(size) + " peaks");
        }
        this.size = size;
        this.peaks = new ArrayList<>(peaks);
    }

    /** Adds one leaf by its hash. */
    public void append(byte[] leafHash) {
        var hash = leafHash;
        for (var rest = size; (rest & 1) == 1; rest >>= 1) {
            hash = node(peaks.remove(peaks.size() - 1), hash);
        }
        peaks.add(hash);
        size++;
    }

    /** The root; of an empty tree the hash of nothing. */
    public byte[] root() {
        if (peaks.isEmpty()) {
            return Sha256.of();
        }
        var hash = peaks.get(peaks.size() - 1);
        for (var i = peaks.size() - 2; i >= 0; i--) {
            hash = node(peaks.get(i), hash);
        }
        return hash;
    }

    /** Number of leaves. */
    public long size() {
        return size;
    }

    /** What the constructor takes. */
    public List<byte[]> peaks() {
        return List.copyOf(peaks);
    }

    /** Hash of a leaf's bytes. */
    public static byte[] leafHash(byte[] bytes) {
        return Sha256.of(new byte[] {0}, bytes);
    }

    /** Hash of two neighbours. */
    static byte[] node(byte[] left, byte[] right) {
        return Sha256.of(new byte[] {1}, left, right);
    }
}
