package dev.entente.service.directory;

import dev.entente.wire.AdminApi.Finding;
import dev.entente.wire.AdminApi.Job;
import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** Work that a steward does in the background. */
@Entity
@Table(name = "job")
class JobRow {
    /** What a preflight found. */
    record Result(List<Finding> findings) {}

    @Id
    UUID id;

    UUID directory;
    String kind;
    String state;
    UUID steward;

    @Column(name = "done_count")
    int doneCount;

    String message;

    @JdbcTypeCode(SqlTypes.JSON)
    Result result;

    @Column(name = "created_at")
    Instant createdAt;

    @Column(name = "leased_until")
    Instant leasedUntil;

    @Column(name = "ended_at")
    Instant endedAt;

    Job shown() {
        return new Job(
                id,
                kind,
                state,
                doneCount,
                message,
                result == null ? List.of() : result.findings(),
                createdAt.toEpochMilli(),
                endedAt == null ? null : endedAt.toEpochMilli());
    }
}
