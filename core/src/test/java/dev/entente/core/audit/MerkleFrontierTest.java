package dev.entente.core.audit;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.ByteArrayOutputStream;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.junit.jupiter.api.Test;

class MerkleFrontierTest {
    /** The definition of RFC 9162 section 2.1.1, word for word. */
    private static byte[] byDefinition(List<byte[]> leaves) {
        if (leaves.size() == 1) {
            return leaves.get(0);
        }
        var k = Integer.highestOneBit(leaves.size() - 1);
        return MerkleFrontier.node(byDefinition(leaves.subList(0, k)), byDefinition(leaves.subList(k, leaves.size())));
    }

    @Test
    void appending_gives_the_root_of_the_definition_at_every_size() {
        var leaves = new ArrayList<byte[]>();
        var frontier = new MerkleFrontier();
        for (var i = 0; i < 300; i++) {
            var leaf = MerkleFrontier.leafHash(("leaf " + i).getBytes(StandardCharsets.UTF_8));
            leaves.add(leaf);
            frontier.append(leaf);
            // Stored and read back at any point, it goes on as before.
            frontier = new MerkleFrontier(frontier.size(), frontier.peaks());
            assertThat(frontier.root()).as("of " + leaves.size()).isEqualTo(byDefinition(leaves));
        }
    }

    @Test
    void an_empty_tree_has_the_hash_of_nothing() {
        assertThat(HexFormat.of().formatHex(new MerkleFrontier().root()))
                .isEqualTo("e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855");
        assertThatThrownBy(() -> new MerkleFrontier(3, List.of())).isInstanceOf(IllegalArgumentException.class);
    }

    @Test
    void canonical_form_sorts_escapes_and_refuses_what_it_cannot_promise() {
        var value = Map.of("b", List.of(1, true), "a", "\"\\\n\u0001€", "€", Map.of());
        assertThat(new String(CanonicalJson.bytes(value), StandardCharsets.UTF_8))
                .isEqualTo("{\"a\":\"\\\"\\\\\\n\\u0001€\",\"b\":[1,true],\"€\":{}}");
        assertThatThrownBy(() -> CanonicalJson.bytes(1.5)).isInstanceOf(IllegalArgumentException.class);
        assertThatThrownBy(() -> CanonicalJson.bytes(1L << 60)).isInstanceOf(IllegalArgumentException.class);
    }

    @Test
    void erasing_a_personal_value_leaves_the_leaf_as_it_was_and_the_commitment_hides_it() {
        var id = UUID.fromString("00000000-0000-4000-8000-000000000001");
        var salt = new byte[AuditEvent.SALT_LENGTH];
        var commitment = AuditEvent.commit(salt, "login", "astrid");
        var event = new AuditEvent(
                1, id, 1, "attempt.started", null, null, null, 0, 1, Map.of(), Map.of("login", commitment));
        assertThat(new String(event.canonical(), StandardCharsets.UTF_8)).doesNotContain("astrid");
        salt[0] = 1;
        assertThat(AuditEvent.commit(salt, "login", "astrid")).isNotEqualTo(commitment);
    }

    @Test
    void the_ordinal_and_the_reference_stand_between_what_is_around_them() {
        var data = Map.<String, Object>of("ordinal", 7, "says", "\"ordinal\":9,\"reference\":", "ø", List.of(1, 2));
        for (var ordinal : new int[] {0, 1, 31_415}) {
            for (var reference : new String[] {null, "2291407513"}) {
                var event = new AuditEvent(
                        2,
                        UUID.randomUUID(),
                        1,
                        "attempt.started",
                        "attempt",
                        UUID.randomUUID(),
                        reference,
                        ordinal,
                        3,
                        data,
                        Map.of("login", "x"));
                var around = event.around();
                var whole = new ByteArrayOutputStream();
                whole.writeBytes(around.before());
                whole.writeBytes(String.valueOf(ordinal).getBytes(StandardCharsets.UTF_8));
                whole.writeBytes(around.between());
                whole.writeBytes((reference == null ? "null" : '"' + reference + '"').getBytes(StandardCharsets.UTF_8));
                whole.writeBytes(around.after());
                assertThat(whole.toString(StandardCharsets.UTF_8))
                        .isEqualTo(new String(event.canonical(), StandardCharsets.UTF_8));
            }
        }
    }

    @Test
    void an_event_of_before_is_hashed_as_it_was_and_one_of_another_version_not_at_all() {
        var id = UUID.fromString("00000000-0000-4000-8000-000000000001");
        var before =
                new AuditEvent(null, id, 1, "steward.left", null, null, null, 0, 1, Map.of("steward", "s"), Map.of());
        assertThat(new String(before.canonical(), StandardCharsets.UTF_8))
                .isEqualTo("{\"at\":1,\"attempt\":null,\"data\":{\"steward\":\"s\"},\"id\":\"" + id
                        + "\",\"kind\":\"steward.left\",\"ordinal\":0,\"personal\":{},\"revision\":1,\"v\":1}");
        for (var none : List.of(
                new AuditEvent(3, id, 1, "steward.left", "operation", null, null, 0, 1, Map.of(), Map.of()),
                new AuditEvent(2, id, 1, "steward.left", null, null, null, 0, 1, Map.of(), Map.of()),
                new AuditEvent(1, id, 1, "steward.left", null, null, "2291407513", 0, 1, Map.of(), Map.of()),
                new AuditEvent(1, id, 1, "steward.left", null, null, null, 0, 1, null, Map.of()))) {
            assertThatThrownBy(none::canonical).isInstanceOf(IllegalArgumentException.class);
        }
        assertThatThrownBy(() -> AuditEvent.commit(new byte[16], "login", "half \ud83d"))
                .hasMessage("it contains half of a surrogate pair");
    }
}
