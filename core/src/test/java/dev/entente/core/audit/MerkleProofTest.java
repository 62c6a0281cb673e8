package dev.entente.core.audit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayList;
import java.util.Collections;
import java.util.HexFormat;
import java.util.List;
import java.util.Random;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** Proofs against the vectors published with certificate transparency, and every leaf and size of small trees. */
class MerkleProofTest {
    /** The leaves of those vectors. */
    private static final List<byte[]> PUBLISHED = Stream.of(
                    "", "00", "10", "2021", "3031", "40414243", "5051525354555657", "606162636465666768696a6b6c6d6e6f")
            .map(HexFormat.of()::parseHex)
            .map(MerkleFrontier::leafHash)
            .toList();

    private static byte[] root(List<byte[]> leaves) {
        var tree = new MerkleFrontier();
        leaves.forEach(tree::append);
        return tree.root();
    }

    private static MerkleProof.Subtrees of(List<byte[]> leaves) {
        return (first, level) -> {
            assertThat(first % (1L << level)).isZero();
            return root(leaves.subList((int) first, (int) first + (1 << level)));
        };
    }

    private static List<String> hex(List<byte[]> hashes) {
        return hashes.stream().map(HexFormat.of()::formatHex).toList();
    }

    @Test
    void published_paths_and_proofs() {
        assertThat(HexFormat.of().formatHex(root(PUBLISHED)))
                .isEqualTo("5dc9da79a70659a9ad559cb701ded9a2ab9d823aad2f4960cfe370eff4604328");
        assertThat(hex(MerkleProof.inclusion(0, 8, of(PUBLISHED))))
                .containsExactly(
                        "96a296d224f285c67bee93c30f8a309157f0daa35dc5b87e410b78630a09cfc7",
                        "5f083f0a1a33ca076a95279832580db3e0ef4584bdff1f54c8a360f50de3031e",
                        "6b47aaf29ee3c2af9af889bc1fb9254dabd31177f16232dd6aab035ca39bf6e4");
        assertThat(hex(MerkleProof.inclusion(5, 8, of(PUBLISHED))))
                .containsExactly(
                        "bc1a0643b12e4d2d7c77918f44e0f4f79a838b6cf9ec5b5c283e1f4d88599e6b",
                        "ca854ea128ed050b41b35ffc1b87b8eb2bde461e9e3b5596ece6b9d5975a0ae0",
                        "d37ee418976dd95753c1c73862b9398fa2a2cf9b4ff0fdfe8b30cd95209614b7");
        assertThat(hex(MerkleProof.consistency(6, 8, of(PUBLISHED))))
                .containsExactly(
                        "0ebc5d3437fbe2db158b9f126a1d118e308181031d0a949f8dededebc558ef6a",
                        "ca854ea128ed050b41b35ffc1b87b8eb2bde461e9e3b5596ece6b9d5975a0ae0",
                        "d37ee418976dd95753c1c73862b9398fa2a2cf9b4ff0fdfe8b30cd95209614b7");
    }

    @Test
    void every_leaf_of_every_size_is_proven_and_nothing_else_is() {
        var random = new Random(7);
        var leaves = IntStream.range(0, 40)
                .mapToObj(i -> MerkleFrontier.leafHash(new byte[] {(byte) i}))
                .toList();
        for (var size = 1; size <= leaves.size(); size++) {
            var root = root(leaves.subList(0, size));
            for (var index = 0; index < size; index++) {
                var path = MerkleProof.inclusion(index, size, of(leaves));
                assertThat(MerkleProof.includes(leaves.get(index), index, size, path, root))
                        .isTrue();
                assertThat(MerkleProof.includes(leaves.get((index + 1) % 40), index, size, path, root))
                        .isFalse();
                assertThat(MerkleProof.includes(leaves.get(index), index + size, size, path, root))
                        .isFalse();
                for (var wrong : wrong(path, random)) {
                    assertThat(MerkleProof.includes(leaves.get(index), index, size, wrong, root))
                            .isFalse();
                }
            }
            for (var before = 1; before <= size; before++) {
                var earlier = root(leaves.subList(0, before));
                var proof = MerkleProof.consistency(before, size, of(leaves));
                assertThat(MerkleProof.continues(before, earlier, size, root, proof))
                        .isTrue();
                for (var wrong : wrong(proof, random)) {
                    assertThat(MerkleProof.continues(before, earlier, size, root, wrong))
                            .isFalse();
                }
                var other = MerkleFrontier.leafHash(new byte[] {99});
                assertThat(MerkleProof.continues(before, other, size, root, proof))
                        .isFalse();
                assertThat(MerkleProof.continues(before, earlier, size, other, proof))
                        .isFalse();
            }
        }
    }

    /** One hash more, one less, one changed, two swapped. */
    private static List<List<byte[]>> wrong(List<byte[]> hashes, Random random) {
        var all = new ArrayList<List<byte[]>>();
        var longer = new ArrayList<>(hashes);
        longer.add(MerkleFrontier.leafHash(new byte[] {1, 2}));
        all.add(longer);
        if (!hashes.isEmpty()) {
            all.add(hashes.subList(0, hashes.size() - 1));
            var changed = new ArrayList<>(hashes);
            var at = random.nextInt(hashes.size());
            changed.set(at, changed.get(at).clone());
            changed.get(at)[random.nextInt(32)] ^= 1;
            all.add(changed);
        }
        if (hashes.size() > 1) {
            var swapped = new ArrayList<>(hashes);
            Collections.swap(swapped, 0, hashes.size() - 1);
            all.add(swapped);
        }
        return all;
    }

    @Test
    void what_there_is_not_has_no_proof() {
        assertThatThrownBy(() -> MerkleProof.inclusion(8, 8, of(PUBLISHED)))
                .isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> MerkleProof.consistency(0, 8, of(PUBLISHED)))
                .isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> MerkleProof.consistency(9, 8, of(PUBLISHED)))
                .isInstanceOf(IllegalArgumentException.class);
        assertThat(MerkleProof.continues(0, root(List.of()), 8, root(PUBLISHED), List.of()))
                .isFalse();
    }
}
