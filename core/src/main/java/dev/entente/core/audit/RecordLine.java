package dev.entente.core.audit;

import com.fasterxml.jackson.annotation.JsonInclude;
import dev.entente.core.audit.RecordVerifier.Sealed;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.OrNull;
import dev.entente.core.seal.StrictJson;
import java.util.Objects;
import java.util.stream.Stream;

/**
 * A line of an exported record (docs/protocol.md): all of its parts but one are null.
 *
 * @param record what the file begins with
 * @param event the next event
 * @param gone what the event before it tells that it took out
 * @param checkpoint that covers the events so far
 * @param keyChange another key that signs from here on
 * @param end what the file ends with
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record RecordLine(
        @OrNull Head record,
        @OrNull Sealed event,
        @OrNull Gone gone,
        @OrNull SignedCheckpoint checkpoint,
        @OrNull KeyChange keyChange,
        @OrNull End end) {
    /** The version that is written; files of version 1 have no lines {@code gone} and {@code end}. */
    public static final int VERSION = 2;

    /**
     * What a file begins with.
     *
     * @param v format version
     * @param key that signed the first checkpoints
     */
    public record Head(int v, EcKey key) {}

    /**
     * What a file ends with, once all of the record is in it.
     *
     * @param events how many are in it
     */
    public record End(long events) {}

    /** The first line. */
    public static RecordLine head(EcKey key) {
        return new RecordLine(new Head(VERSION, key), null, null, null, null, null);
    }

    /** An event. */
    public static RecordLine of(Sealed event) {
        return new RecordLine(null, event, null, null, null, null);
    }

    /** What an event took out. */
    public static RecordLine of(Gone gone) {
        return new RecordLine(null, null, gone, null, null, null);
    }

    /** A checkpoint. */
    public static RecordLine of(SignedCheckpoint checkpoint) {
        return new RecordLine(null, null, null, checkpoint, null, null);
    }

    /** Another key. */
    public static RecordLine of(KeyChange change) {
        return new RecordLine(null, null, null, null, change, null);
    }

    /** The last line. */
    public static RecordLine end(long events) {
        return new RecordLine(null, null, null, null, null, new End(events));
    }

    /**
     * Reads a line as it is written or not at all.
     *
     * @throws InvalidDocument with a clause that says what is wrong with it
     */
    public static RecordLine read(String text) {
        var line = StrictJson.read(text, RecordLine.class);
        if (Stream.of(line.record, line.event, line.gone, line.checkpoint, line.keyChange, line.end)
                        .filter(Objects::nonNull)
                        .count()
                != 1) {
            throw new InvalidDocument("format", "it must hold exactly one part");
        }
        return line;
    }
}
