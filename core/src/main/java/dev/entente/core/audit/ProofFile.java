package dev.entente.core.audit;

import dev.entente.core.audit.RecordVerifier.Salted;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.OrNull;
import dev.entente.core.seal.StrictJson;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;

/**
 * Something about the record that can be checked without it, by anybody who knows the public key: that an event stands in it as it says,
 * or that it was continued since an earlier checkpoint. {@code docs/protocol.md} describes it for other programs.
 *
 * @param v format version; in one of version 1 the event is of version 1
 * @param event what stands there; null if this is about two checkpoints
 * @param seq its position
 * @param personal values that its commitments are to, as far as they are not erased
 * @param before the earlier checkpoint, signed; null if this is about an event
 * @param hashes the path of RFC 9162 section 2.1.3.1 or the proof of section 2.1.4.1, hexadecimal
 * @param checkpoint signed
 * @param key that signed it
 * @param keyChanges how the record's keys led to it, oldest first; null if it was never changed
 */
public record ProofFile(
        int v,
        @OrNull AuditEvent event,
        @OrNull Long seq,
        @OrNull Map<String, Salted> personal,
        @OrNull String before,
        List<String> hashes,
        String checkpoint,
        EcKey key,
        @OrNull List<KeyChange> keyChanges) {
    /** The version written. */
    public static final int VERSION = 2;

    /** More often no key is changed. */
    private static final int MOST_CHANGES = 1_000;

    /** More than any tree's height asks for. */
    private static final int MOST_HASHES = 128;

    public ProofFile {
        personal = personal == null ? Map.of() : Map.copyOf(personal);
        hashes = hashes == null ? List.of() : List.copyOf(hashes);
        keyChanges = keyChanges == null ? List.of() : List.copyOf(keyChanges);
    }

    /**
     * Reads a proof as it is written or not at all.
     *
     * @throws InvalidDocument with a clause that says what is wrong with it
     */
    public static ProofFile read(String text) {
        return StrictJson.read(text, ProofFile.class);
    }

    /**
     * The keys that it names.
     *
     * @throws InvalidDocument if it names none, or they did not follow each other
     */
    public RecordKeys keys() {
        if (key == null || keyChanges.size() > MOST_CHANGES) {
            throw new InvalidDocument("proof", "it names no key");
        }
        return RecordKeys.of(key, keyChanges);
    }

    /**
     * Checks it with the keys that it names: whether those are the record's, the caller has to know.
     *
     * @return the checkpoint that it leads to
     * @throws InvalidDocument with a sentence if it does not hold
     */
    public Checkpoint check() {
        if (v < 1 || v > VERSION) {
            throw new InvalidDocument("proof", "it is of version " + v + ", which this version doesn't support");
        }
        if ((event == null) == (before == null) || checkpoint == null || hashes.size() > MOST_HASHES) {
            throw new InvalidDocument("proof", "it must prove either one event or two checkpoints");
        }
        var by = keys();
        var signed = signed(checkpoint, by);
        try {
            if (event == null) {
                continued(signed(before, by), signed);
            } else {
                included(signed);
            }
        } catch (IllegalArgumentException e) {
            throw new InvalidDocument("proof", "it can't be read: " + e.getMessage(), e);
        }
        return signed;
    }

    private static Checkpoint signed(String checkpoint, RecordKeys by) {
        try {
            return by.verify(checkpoint).checkpoint();
        } catch (InvalidDocument e) {
            throw new InvalidDocument("proof", "a checkpoint in it isn't signed by this key");
        }
    }

    private List<byte[]> path() {
        return hashes.stream().map(HexFormat.of()::parseHex).toList();
    }

    private void continued(Checkpoint earlier, Checkpoint later) {
        if (!MerkleProof.continues(
                earlier.size(),
                HexFormat.of().parseHex(earlier.root()),
                later.size(),
                HexFormat.of().parseHex(later.root()),
                path())) {
            throw new InvalidDocument("proof", "the later checkpoint doesn't continue the earlier one");
        }
    }

    private void included(Checkpoint signed) {
        if (seq == null
                || !MerkleProof.includes(
                        event.leafHash(),
                        seq,
                        signed.size(),
                        path(),
                        HexFormat.of().parseHex(signed.root()))) {
            throw new InvalidDocument("proof", "the event isn't at this position of what was signed");
        }
        personal.forEach((name, salted) -> {
            if (!salted.commitment(name).equals(event.commitments().get(name))) {
                throw new InvalidDocument("proof", "the value of " + name + " isn't the one that was sealed");
            }
        });
    }
}
