package dev.entente.service.attempt;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.attempt.AttemptStep;
import dev.entente.core.seal.EcKey;
import jakarta.persistence.AttributeConverter;
import jakarta.persistence.Column;
import jakarta.persistence.Convert;
import jakarta.persistence.Converter;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.Locale;
import java.util.UUID;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** An attempt as stored. A decoy has no person, and says why. */
@Entity
@Table(name = "attempt")
class AttemptRow {
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
    String network;

    @Column(name = "created_at")
    Instant createdAt;

    @Column(name = "expires_at")
    Instant expiresAt;

    @Column(name = "ended_at")
    Instant endedAt;

    void take(AttemptStep step, Instant now) {
        state = state.after(step);
        endedAt = state.ended() ? now : null;
    }

    /** Its person goes on with it; if nothing follows it ends as it was told. */
    void reopen(AttemptStep step, AttemptState endsAs, Instant now, Instant until) {
        told = endsAs;
        take(step, now);
        expiresAt = until;
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
