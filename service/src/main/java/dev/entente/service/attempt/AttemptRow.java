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
import java.time.Instant;
import java.util.List;
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

    /** What has to be proved; null for a decoy. */
    @JdbcTypeCode(SqlTypes.JSON)
    Requirement required;

    /** Labels of the methods that were proved, in order. */
    List<String> proved = List.of();

    /** Which browser: a keyed hash. */
    byte[] device;

    @Column(name = "terms_accepted")
    String termsAccepted;

    String network;

    /** Languages that the browser wants; null if it says nothing of use. */
    String language;

    @Column(name = "created_at")
    Instant createdAt;

    @Column(name = "expires_at")
    Instant expiresAt;

    @Column(name = "ended_at")
    Instant endedAt;

    List<Method> provedMethods() {
        return proved.stream().flatMap(m -> Method.labelled(m).stream()).toList();
    }

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
