package dev.entente.core.audit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.SigningKey;
import java.nio.charset.StandardCharsets;
import java.security.SecureRandom;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;
import org.junit.jupiter.api.Test;

/** Whoever keeps a checkpoint believes a record that was continued from there, and none else. */
class RecordExtensionTest {
    private final SigningKey key = SigningKey.generate(new SecureRandom());
    private final List<String> leaves = new ArrayList<>();

    RecordExtensionTest() {
        for (var i = 0; i < 70; i++) {
            leaves.add(leaf("event " + i));
        }
    }

    private static String leaf(String text) {
        return HexFormat.of().formatHex(MerkleFrontier.leafHash(text.getBytes(StandardCharsets.UTF_8)));
    }

    private MerkleFrontier tree(List<String> of) {
        var tree = new MerkleFrontier();
        of.forEach(leaf -> tree.append(HexFormat.of().parseHex(leaf)));
        return tree;
    }

    private Checkpoint checkpoint(List<String> of) {
        var tree = tree(of);
        return new Checkpoint(1, tree.size(), HexFormat.of().formatHex(tree.root()), 1);
    }

    private RecordExtension extension(List<String> all, int from, int to) {
        return new RecordExtension(
                from,
                tree(all.subList(0, from)).peaks().stream()
                        .map(HexFormat.of()::formatHex)
                        .toList(),
                all.subList(from, to),
                checkpoint(all.subList(0, to)).sign(key));
    }

    @RepeatedTest(70)
    void a_record_that_grew_is_believed_from_any_size_to_any_other(RepetitionInfo round) {
        var from = round.getCurrentRepetition();
        for (var to = from; to <= 70; to++) {
            var next = extension(leaves, from, to)
                    .continues(checkpoint(leaves.subList(0, from)), RecordKeys.of(key.publicKey()));
            assertThat(next.size()).isEqualTo(to);
        }
    }

    private void refused(RecordExtension shown, int kept, String why) {
        assertThatThrownBy(() -> shown.continues(checkpoint(leaves.subList(0, kept)), RecordKeys.of(key.publicKey())))
                .isInstanceOf(InvalidDocument.class)
                .hasMessageContaining(why);
    }

    @Test
    void anything_else_is_told() {
        var other = new ArrayList<>(leaves);
        other.set(3, leaf("rewritten"));
        refused(extension(leaves, 30, 30), 40, "it had 40 events and has 30: it was rolled back");
        refused(extension(other, 40, 50), 40, "its first 40 events aren't those of before");
        refused(extension(other, 40, 40), 40, "its first 40 events aren't those of before");
        refused(extension(leaves, 30, 50), 40, "it knows of no checkpoint over 40 events");
        var good = extension(leaves, 40, 50);
        refused(new RecordExtension(40, null, List.of(), good.checkpoint()), 40, "knows of no checkpoint");
        refused(
                new RecordExtension(40, good.peaks(), leaves.subList(41, 50), good.checkpoint()),
                40,
                "don't lead to what it has signed");
        refused(
                new RecordExtension(40, good.peaks().subList(1, 2), good.leaves(), good.checkpoint()),
                40,
                "aren't those of before");
        refused(new RecordExtension(40, good.peaks(), List.of("nonsense"), good.checkpoint()), 40, "aren't those");
        refused(new RecordExtension(40, good.peaks(), good.leaves(), null), 40, "isn't signed by the key of before");
        var strange = SigningKey.generate(new SecureRandom());
        refused(
                new RecordExtension(
                        40,
                        good.peaks(),
                        good.leaves(),
                        checkpoint(leaves.subList(0, 50)).sign(strange)),
                40,
                "isn't signed by the key of before");
    }
}
