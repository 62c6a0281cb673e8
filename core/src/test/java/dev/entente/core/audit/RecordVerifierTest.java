package dev.entente.core.audit;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.audit.RecordVerifier.Salted;
import dev.entente.core.audit.RecordVerifier.Sealed;
import dev.entente.core.audit.RecordVerifier.Verdict;
import dev.entente.core.seal.SigningKey;
import java.security.SecureRandom;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.stream.IntStream;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** Every way to change what was sealed is found and named. */
class RecordVerifierTest {
    private static final int MANY = 40;
    private static final SecureRandom RANDOM = new SecureRandom();
    private final SigningKey key = SigningKey.generate(RANDOM);
    private final List<Sealed> events = new ArrayList<>();
    /** By how many events they cover; seven events come under each. */
    private final Map<Long, String> checkpoints = new java.util.TreeMap<>();

    @BeforeEach
    void seal() {
        var tree = new MerkleFrontier();
        for (var i = 0; i < MANY; i++) {
            events.add(sealed(i, "directory " + i));
            tree.append(HexFormat.of().parseHex(events.get(i).leaf()));
            if (tree.size() % 7 == 0 || tree.size() == MANY) {
                checkpoints.put(tree.size(), signed(tree, key));
            }
        }
    }

    private static String signed(MerkleFrontier tree, SigningKey by) {
        return new Checkpoint(1, tree.size(), HexFormat.of().formatHex(tree.root()), 1_000 * tree.size()).sign(by);
    }

    private static Sealed sealed(long seq, String says) {
        var salt = new byte[AuditEvent.SALT_LENGTH];
        RANDOM.nextBytes(salt);
        var event = new AuditEvent(
                AuditEvent.VERSION,
                new UUID(1, seq),
                1_800_000_000_000L + seq,
                "directory.added",
                "administration",
                null,
                null,
                0,
                3,
                Map.of("directory", says),
                Map.of("administrator", AuditEvent.commit(salt, "administrator", "ingeborg")));
        return new Sealed(
                seq,
                HexFormat.of().formatHex(event.leafHash()),
                event,
                Map.of("administrator", new Salted(HexFormat.of().formatHex(salt), "ingeborg")));
    }

    private Verdict verified(String... kept) {
        return verified(events, key, kept);
    }

    private Verdict verified(List<Sealed> given, SigningKey by, String... kept) {
        var verifier = new RecordVerifier(by.publicKey(), kept(kept));
        var seen = 0L;
        for (var event : given) {
            verifier.event(event);
            seen++;
            if (checkpoints.containsKey(seen)) {
                verifier.checkpoint(new SignedCheckpoint(seen, checkpoints.get(seen)));
            }
        }
        return verifier.verdict(given.size());
    }

    private static List<RecordVerifier.Kept> kept(String... statements) {
        return IntStream.range(0, statements.length)
                .mapToObj(i -> new RecordVerifier.Kept(i + 1, statements[i]))
                .toList();
    }

    @Test
    void what_was_sealed_is_proven_to_the_last_event() {
        var verdict = verified(checkpoints.get(7L), checkpoints.get(40L));
        assertThat(verdict.faults()).isEmpty();
        assertThat(verdict.events()).isEqualTo(MANY);
        assertThat(verdict.proven()).isEqualTo(MANY);
        assertThat(verdict.checkpoints()).isEqualTo(6);
        assertThat(verdict.signedAt().toEpochMilli()).isEqualTo(40_000);
    }

    @ParameterizedTest
    @ValueSource(ints = {0, 6, 7, 20, 39})
    void a_changed_event_is_named_whether_its_hash_was_changed_with_it_or_not(int at) {
        var was = events.get(at);
        var other = sealed(at, "another directory");
        events.set(at, new Sealed(at, was.leaf(), other.event(), other.personal()));
        assertThat(verified().faults().get(0))
                .startsWith("Event " + at + " (directory.added, 2027-01-15T08:00:00")
                .endsWith("doesn't say what it said when it was sealed.");
        events.set(at, other);
        var from = at / 7 * 7;
        var verdict = verified();
        assertThat(verdict.faults())
                .containsExactly("Among the events " + from + " to " + Math.min(from + 6, 39)
                        + " one was changed, put in, or taken to another place since they were sealed.");
        assertThat(verdict.proven()).isEqualTo(from);
    }

    @Test
    void a_removed_an_inserted_and_a_moved_event_are_found() {
        var all = List.copyOf(events);
        var without = new ArrayList<>(all);
        without.remove(15);
        assertThat(verified(without, key).faults().get(0)).isEqualTo("Event 15 is missing.");
        var closed = new ArrayList<Sealed>();
        without.forEach(e -> closed.add(new Sealed(closed.size(), e.leaf(), e.event(), e.personal())));
        assertThat(verified(closed, key).faults().get(0)).contains("Among the events 14 to 20");
        var more = new ArrayList<Sealed>();
        for (var event : all) {
            if (event.seq() == 15) {
                more.add(sealed(15, "put in"));
            }
            more.add(new Sealed(more.size(), event.leaf(), event.event(), event.personal()));
        }
        assertThat(verified(more, key).faults().get(0)).contains("Among the events 14 to 20");
        var swapped = new ArrayList<>(all);
        swapped.set(
                15,
                new Sealed(
                        15, all.get(16).leaf(), all.get(16).event(), all.get(16).personal()));
        swapped.set(
                16,
                new Sealed(
                        16, all.get(15).leaf(), all.get(15).event(), all.get(15).personal()));
        assertThat(verified(swapped, key).faults().get(0)).contains("Among the events 14 to 20");
        var doubled = new ArrayList<>(all);
        doubled.set(16, all.get(15));
        assertThat(verified(doubled, key).faults().get(0)).isEqualTo("Event 15 is there twice, or in another place.");
    }

    @Test
    void a_record_that_was_cut_or_rolled_back_is_told_by_what_was_kept_elsewhere() {
        var last = checkpoints.get(40L);
        var cut = events.subList(0, 35);
        checkpoints.remove(40L);
        assertThat(verified(cut, key).faults()).as("nothing in it tells").isEmpty();
        assertThat(verified(cut, key, last).faults())
                .containsExactly(
                        "The record has 35 events, and a checkpoint that was kept covers 40: it was rolled back.");
        var verifier = new RecordVerifier(key.publicKey(), List.of());
        cut.forEach(verifier::event);
        assertThat(verifier.verdict(40).faults()).containsExactly("The events 35 to 39 are missing.");
        assertThat(verifier.verdict(40).missing()).isEqualTo(5);

        // Rolled back and gone on with, signed by the right key: only what was kept elsewhere tells.
        var tree = new MerkleFrontier();
        var other = new ArrayList<Sealed>();
        checkpoints.clear();
        for (var i = 0; i < MANY; i++) {
            other.add(i < 30 ? events.get(i) : sealed(i, "written anew"));
            tree.append(HexFormat.of().parseHex(other.get(i).leaf()));
        }
        checkpoints.put(40L, signed(tree, key));
        assertThat(verified(other, key).faults()).isEmpty();
        assertThat(verified(other, key, last).faults().get(0))
                .isEqualTo(
                        "The record isn't the one that the checkpoint over 40 events of 1970-01-01T00:00:40Z was made"
                                + " of: it was rewritten.");
    }

    @Test
    void another_key_a_moved_checkpoint_and_another_name_are_found() {
        var other = SigningKey.generate(RANDOM);
        assertThat(verified(events, other, checkpoints.get(7L)).faults())
                .hasSize(8)
                .contains(
                        "The checkpoint after event 6 isn't signed by the key of this record.",
                        "The kept checkpoint in line 1 isn't signed by a key of this record, or was"
                                + " signed after that key was replaced.");
        checkpoints.put(14L, checkpoints.get(7L));
        assertThat(verified().faults().subList(0, 2))
                .containsExactly(
                        "The checkpoint after event 13 was signed over 7 events, but the line says 14.",
                        "The checkpoint over 7 events stands after event 13: it was moved, or events were put in before it.");
        checkpoints.put(14L, checkpoints.get(21L));
        assertThat(verified().faults().get(1)).isEqualTo("The events 14 to 20 are missing.");
        seal();
        var was = events.get(3);
        events.set(
                3,
                new Sealed(
                        3,
                        was.leaf(),
                        was.event(),
                        Map.of(
                                "administrator",
                                new Salted(was.personal().get("administrator").salt(), "dagmar"))));
        assertThat(verified(events.subList(0, MANY), key).faults().get(0))
                .startsWith("Event 3 (")
                .endsWith("has a different administrator than when it was sealed.");
    }

    @Test
    void what_is_no_event_at_all_is_told_and_breaks_nothing() {
        var was = events.get(5);
        for (var nonsense : List.of(
                new Sealed(5, "nonsense", null, null),
                new Sealed(5, null, null, null),
                new Sealed(5, was.leaf(), was.event(), Map.of("administrator", new Salted("no salt", "ingeborg"))),
                new Sealed(
                        5,
                        was.leaf(),
                        new AuditEvent(1, was.event().id(), 1, "directory.added", null, null, null, 0, 3, null, null),
                        was.personal()))) {
            events.set(5, nonsense);
            assertThat(verified().faults()).isNotEmpty();
        }
    }

    /** An event that takes out what this list says. */
    private static Sealed telling(long seq, String kind, String list) {
        var event = new AuditEvent(
                AuditEvent.VERSION,
                new UUID(2, seq),
                1,
                kind,
                "administration",
                null,
                null,
                0,
                0,
                Map.of("gone", new Gone(seq, list).digest()),
                Map.of());
        return new Sealed(seq, HexFormat.of().formatHex(event.leafHash()), event, Map.of());
    }

    /** The record of 40 events and one that tells of what is gone, which is signed as well. */
    private Verdict told(Sealed telling, Gone gone) {
        var verifier = new RecordVerifier(key.publicKey(), List.of());
        var tree = new MerkleFrontier();
        for (var event : events) {
            verifier.event(event);
            tree.append(HexFormat.of().parseHex(event.leaf()));
        }
        verifier.event(telling);
        tree.append(HexFormat.of().parseHex(telling.leaf()));
        if (gone != null) {
            verifier.gone(gone);
        }
        verifier.checkpoint(new SignedCheckpoint(tree.size(), signed(tree, key)));
        return verifier.verdict(tree.size());
    }

    @Test
    void what_is_gone_has_to_stand_in_a_list_that_was_sealed() {
        var whole = List.copyOf(events);
        for (var i = 0; i < 20; i++) {
            var was = whole.get(i);
            events.set(i, new Sealed(i, was.leaf(), i < 10 ? null : was.event(), Map.of()));
        }
        var verdict = verified();
        assertThat(verdict.faults())
                .containsExactly(
                        "Events 0 to 9 were removed, and no sealed cut accounts for it.",
                        "The values “administrator” of events 10 to 19 were removed, and no sealed erasure accounts for it.");
        assertThat(verdict.removed()).isEqualTo(20);
        assertThat(verdict.proven()).isEqualTo(MANY);

        var list = "{\"events\":[[0,4],[5,9]],\"values\":{\"administrator\":[[10,19]]}}";
        for (var kind : Gone.KINDS) {
            var telling = telling(MANY, kind, list);
            var covered = told(telling, new Gone(MANY, list));
            assertThat(covered.faults()).isEmpty();
            assertThat(covered.cut()).isEqualTo(10);
            assertThat(covered.erased()).isEqualTo(10);
            assertThat(covered.removed()).isZero();
            // One event more, one value of another name, one position more in the list, no list at all.
            events.set(30, new Sealed(30, whole.get(30).leaf(), null, Map.of()));
            assertThat(told(telling, new Gone(MANY, list)).faults())
                    .containsExactly("Event 30 was removed, and no sealed cut accounts for it.");
            events.set(30, new Sealed(30, whole.get(30).leaf(), whole.get(30).event(), Map.of()));
            assertThat(told(telling, new Gone(MANY, list)).faults())
                    .containsExactly(
                            "The value “administrator” of event 30 was removed, and no sealed erasure accounts for it.");
            assertThat(told(telling, new Gone(MANY, list.replace("[5,9]", "[5,9],[30,30]")))
                            .faults())
                    .contains("The list of what event 40 removed isn't the one that was sealed.");
            assertThat(told(telling, null).faults()).contains("The list of what event 40 removed is missing.");
            events.set(30, whole.get(30));
        }
        assertThat(told(telling(MANY, "hold.lifted", list), new Gone(MANY, list))
                        .faults())
                .as("only a cut, an erasure or an upgrade takes something out")
                .contains("There is a list of removed data after event 40, which has none.");
        for (var none : List.of(
                "[]",
                "{}",
                "{\"events\":[[9,0]],\"values\":{}}",
                "{\"events\":[[0]],\"values\":{}}",
                "{\"events\":[[0.5,9]],\"values\":{}}",
                "{\"events\":[[0,9]],\"events\":[[0,9]],\"values\":{}}")) {
            assertThat(told(telling(MANY, "record.cut", none), new Gone(MANY, none))
                            .faults())
                    .as(none)
                    .anyMatch(fault -> fault.startsWith("The list of what event 40 removed can't be read: "));
        }
        var other = sealed(4, "other");
        events.set(4, new Sealed(4, other.leaf(), null, Map.of()));
        assertThat(verified().faults()).anyMatch(fault -> fault.startsWith("Among the events 0 to 6"));
    }

    @Test
    void what_no_signature_covers_is_no_proof() {
        checkpoints.remove(40L);
        var verdict = verified();
        assertThat(verdict.faults())
                .containsExactly("Events 35 to 39 are after the last checkpoint and were never signed.");
        assertThat(verdict.proven()).isEqualTo(35);
        assertThat(verdict.loose()).isEqualTo(5);
        checkpoints.clear();
        assertThat(verified().faults())
                .containsExactly("No checkpoint covers these events, so none of them is signed.");
        assertThat(verified(List.of(), key).faults()).containsExactly("The record contains no events.");
        seal();
    }

    /** The record of 40 events, in which another key follows after 21. */
    private RecordVerifier changed(SigningKey next, KeyChange change, String... kept) {
        var verifier = new RecordVerifier(key.publicKey(), kept(kept));
        var tree = new MerkleFrontier();
        for (var event : events) {
            verifier.event(event);
            tree.append(HexFormat.of().parseHex(event.leaf()));
            if (checkpoints.containsKey(tree.size())) {
                verifier.checkpoint(new SignedCheckpoint(tree.size(), signed(tree, tree.size() > 21 ? next : key)));
            }
            if (tree.size() == 21) {
                verifier.keyChange(change);
            }
        }
        return verifier;
    }

    private String root(int size) {
        var tree = new MerkleFrontier();
        events.subList(0, size).forEach(event -> tree.append(HexFormat.of().parseHex(event.leaf())));
        return HexFormat.of().formatHex(tree.root());
    }

    @Test
    void another_key_follows_if_the_one_of_before_agreed_to_it_there() {
        var next = SigningKey.generate(RANDOM);
        var agreed = KeyChange.sign(key, next, 21, root(21), 5);
        var last = new MerkleFrontier();
        events.forEach(event -> last.append(HexFormat.of().parseHex(event.leaf())));
        var verifier = changed(next, agreed, checkpoints.get(7L), signed(last, next));
        assertThat(verifier.verdict(MANY).faults()).isEmpty();
        assertThat(verifier.verdict(MANY).proven()).isEqualTo(MANY);
        assertThat(verifier.signedBy(key.publicKey().thumbprint())).isTrue();
        assertThat(verifier.signedBy(next.publicKey().thumbprint())).isTrue();

        // The old one is good for nothing more: not what it signed afterwards and somebody kept, nor in the record.
        assertThat(changed(next, agreed, signed(last, key)).verdict(MANY).faults())
                .containsExactly("The kept checkpoint in line 1 isn't signed by a key of this record, or was"
                        + " signed after that key was replaced.");
        assertThat(changed(key, agreed).verdict(MANY).faults())
                .first()
                .asString()
                .isEqualTo("The checkpoint after event 27 isn't signed by the key of this record.");
        var stranger = SigningKey.generate(RANDOM);
        assertThat(changed(next, KeyChange.sign(stranger, next, 21, root(21), 5))
                        .verdict(MANY)
                        .faults())
                .first()
                .asString()
                .contains("the one of before didn't agree");
        for (var elsewhere :
                List.of(KeyChange.sign(key, next, 20, root(20), 5), KeyChange.sign(key, next, 21, root(20), 5))) {
            assertThat(changed(next, elsewhere).verdict(MANY).faults())
                    .first()
                    .asString()
                    .contains("that isn't said of these");
        }
    }
}
