package dev.entente.service.attempt;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.attempt.AttemptStep;
import dev.entente.core.policy.Requirement;
import dev.entente.core.seal.EcKey;
import dev.entente.core.verify.Method;
import jakarta.persistence.AttributeConverter;
import jakarta.persistence.Column;
import jakarta.persistence.Convert;
import jakarta.persistence.Converter;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Locale;
import java.util.UUID;
import org.hibernate.annotations.DynamicUpdate;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** An attempt as stored. A decoy says why it is one; where it means nobody it has no person. */
@Entity
@DynamicUpdate
@Table(name = "attempt")
class AttemptRow {
    /** The decoy that every attempt is until it is looked up whose it is. */
    static final String UNRESOLVED = "unresolved";

    /** The decoy of a name that means nobody. */
    static final String UNKNOWN_NAME = "unknown-name";

    /** In which the person does something still. */
    static final List<AttemptState> OPEN = List.of(AttemptState.IDENTIFIED, AttemptState.PROVING, AttemptState.PROVED);

    @Id
    UUID id;

    String reference;
    UUID person;
    String decoy;
    String action;

    @Convert(converter = StateColumn.class)
    AttemptState state;

    int revision;
    String policy;

    @JdbcTypeCode(SqlTypes.JSON)
    EcKey key;

    @Column(name = "cookie_hash")
    byte[] cookieHash;

    @Column(name = "cookie_before")
    byte[] cookieBefore;

    @Convert(converter = StateColumn.class)
    AttemptState told;

    int challenges;
    int sealings;

    /** What has to be proved; null for a decoy. */
    @JdbcTypeCode(SqlTypes.JSON)
    Requirement required;

    /** Labels of the methods that were proved, in order. */
    List<String> proved = List.of();

    /** Which browser: a keyed hash; null where none is remembered. */
    byte[] device;

    /** What that browser is called in words. */
    @Column(name = "device_name")
    String deviceName;

    @Column(name = "terms_accepted")
    String termsAccepted;

    String network;

    /** Whether it was looked up whose it is. */
    boolean resolved = true;

    /** Whether it is not put on record by itself, since there are too many of its kind. */
    boolean quiet;

    /** Languages that the browser wants; null if it says nothing of use. */
    String language;

    @Column(name = "created_at")
    Instant createdAt;

    @Column(name = "expires_at")
    Instant expiresAt;

    @Column(name = "ended_at")
    Instant endedAt;

    /** Until when it may be left alone before its proofs count no more; null where nothing was proved. */
    @Column(name = "idle_at")
    Instant idleAt;

    /** Whether the person is told of the outcome by mail. */
    boolean mailed;

    List<Method> provedMethods() {
        return proved.stream().flatMap(m -> Method.labelled(m).stream()).toList();
    }

    void take(AttemptStep step, Instant now) {
        state = state.after(step);
        endedAt = state.ended() ? now : null;
    }

    /** Its person goes on with it; if nothing follows it ends as it was told. */
    void reopen(AttemptStep step, AttemptState endsAs, Instant now, Instant until, Duration idle) {
        told = endsAs;
        take(step, now);
        expiresAt = until;
        idleAt = now.plus(idle);
    }

    /** Ends without a result; one that its person went on with ends as it was told before. */
    void leave(Instant now) {
        state = state.left(told);
        endedAt = now;
    }

    /** States are stored in lower case. */
    @Converter
    static final class StateColumn implements AttributeConverter<AttemptState, String> {
        @Override
        public String convertToDatabaseColumn(AttemptState state) {
            return state == null ? null : state.name().toLowerCase(Locale.ROOT);
        }

        @Override
        public AttemptState convertToEntityAttribute(String column) {
            return column == null ? null : AttemptState.valueOf(column.toUpperCase(Locale.ROOT));
        }
    }
}
