package dev.entente.core.audit;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;

/**
 * Inclusion and consistency proofs over the tree of RFC 9162: made from hashes of complete subtrees (section 2.1.3.1 and 2.1.4.1), and
 * verified by the algorithms of section 2.1.3.2 and 2.1.4.2.
 */
public final class MerkleProof {
    private MerkleProof() {}

    /** Where hashes of subtrees come from. */
    @FunctionalInterface
    public interface Subtrees {
        /**
         * @param first its first leaf, a multiple of its size
         * @param level its size is two to the power of this; 0 for a leaf's own hash
         */
        byte[] hash(long first, int level);
    }

    /**
     * The path from a leaf to the root.
     *
     * @param index of the leaf, from 0
     * @param size of the tree
     * @throws IllegalArgumentException if the tree has no such leaf
     */
    public static List<byte[]> inclusion(long index, long size, Subtrees subtrees) {
        if (index < 0 || index >= size) {
            throw new IllegalArgumentException("a tree of " + size + " leaves has none at " + index);
        }
        var path = new ArrayList<byte[]>();
        path(index, 0, size, subtrees, path);
        return path;
    }

    private static void path(long index, long from, long to, Subtrees subtrees, List<byte[]> path) {
        if (to - from == 1) {
            return;
        }
        var middle = from + split(to - from);
        if (index < middle) {
            path(index, from, middle, subtrees, path);
            path.add(hash(middle, to, subtrees));
        } else {
            path(index, middle, to, subtrees, path);
            path.add(hash(from, middle, subtrees));
        }
    }

    /**
     * What shows that a tree was continued.
     *
     * @param before its size then, at least 1
     * @param size its size now
     * @throws IllegalArgumentException if it was not as small
     */
    public static List<byte[]> consistency(long before, long size, Subtrees subtrees) {
        if (before < 1 || before > size) {
            throw new IllegalArgumentException("a tree of " + size + " leaves never had " + before);
        }
        var proof = new ArrayList<byte[]>();
        subproof(before, 0, size, true, subtrees, proof);
        return proof;
    }

    private static void subproof(
            long before, long from, long to, boolean whole, Subtrees subtrees, List<byte[]> proof) {
        if (before == to - from) {
            if (!whole) {
                proof.add(hash(from, to, subtrees));
            }
            return;
        }
        var half = split(to - from);
        if (before <= half) {
            subproof(before, from, from + half, whole, subtrees, proof);
            proof.add(hash(from + half, to, subtrees));
        } else {
            subproof(before - half, from + half, to, false, subtrees, proof);
            proof.add(hash(from, from + half, subtrees));
        }
    }

    /** The largest power of two that is smaller. */
    private static long split(long leaves) {
        return Long.highestOneBit(leaves - 1);
    }

    private static byte[] hash(long from, long to, Subtrees subtrees) {
        var leaves = to - from;
        if (Long.bitCount(leaves) == 1) {
            return subtrees.hash(from, Long.numberOfTrailingZeros(leaves));
        }
        var middle = from + split(leaves);
        return MerkleFrontier.node(hash(from, middle, subtrees), hash(middle, to, subtrees));
    }

    /** Whether a leaf is in a tree. */
    public static boolean includes(byte[] leafHash, long index, long size, List<byte[]> path, byte[] root) {
        if (index < 0 || index >= size) {
            return false;
        }
        var at = index;
        var last = size - 1;
        var hash = leafHash;
        for (var other : path) {
            if (last == 0) {
                return false;
            }
            if ((at & 1) == 1 || at == last) {
                hash = MerkleFrontier.node(other, hash);
                while ((at & 1) == 0 && at != 0) {
                    at >>= 1;
                    last >>= 1;
                }
            } else {
                hash = MerkleFrontier.node(hash, other);
            }
            at >>= 1;
            last >>= 1;
        }
        return last == 0 && Arrays.equals(hash, root);
    }

    /** Whether a tree is another one, continued. */
    public static boolean continues(long before, byte[] rootBefore, long size, byte[] root, List<byte[]> proof) {
        if (before < 1 || before > size) {
            return false;
        }
        if (before == size) {
            return proof.isEmpty() && Arrays.equals(rootBefore, root);
        }
        var hashes = new ArrayList<>(proof);
        if (Long.bitCount(before) == 1) {
            hashes.add(0, rootBefore);
        }
        if (hashes.isEmpty()) {
            return false;
        }
        var at = before - 1;
        var last = size - 1;
        while ((at & 1) == 1) {
            at >>= 1;
            last >>= 1;
        }
        var first = hashes.get(0);
        var second = hashes.get(0);
        for (var other : hashes.subList(1, hashes.size())) {
            if (last == 0) {
                return false;
            }
            if ((at & 1) == 1 || at == last) {
                first = MerkleFrontier.node(other, first);
                second = MerkleFrontier.node(other, second);
                while ((at & 1) == 0 && at != 0) {
                    at >>= 1;
                    last >>= 1;
                }
            } else {
                second = MerkleFrontier.node(second, other);
            }
            at >>= 1;
            last >>= 1;
        }
        return last == 0 && Arrays.equals(first, rootBefore) && Arrays.equals(second, root);
    }
}
