package dev.entente.service.directory;

import dev.entente.wire.DirectoryApi.Finding;
import dev.entente.wire.DirectoryApi.Job;
import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.List;
import java.util.UUID;
import java.util.stream.Collectors;
import org.hibernate.annotations.DynamicUpdate;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** Work that a steward does in the background. */
@Entity
@DynamicUpdate
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
    String cursor;

    @JdbcTypeCode(SqlTypes.JSON)
    Result result;

    @Column(name = "created_at")
    Instant createdAt;

    @Column(name = "started_at")
    Instant startedAt;

    @Column(name = "leased_until")
    Instant leasedUntil;

    @Column(name = "ended_at")
    Instant endedAt;

    long count(String severity) {
        return result.findings().stream()
                .filter(f -> f.severity().equals(severity))
                .count();
    }

    /** What was found, without the evidence that differs from day to day. */
    String outcome() {
        return result == null
                ? "not run"
                : result.findings().stream()
                        .filter(f ->
                                f.severity().equals("error") || f.severity().equals("warning"))
                        .map(Finding::code)
                        .distinct()
                        .sorted()
                        .collect(Collectors.joining(" "));
    }

    Job shown() {
        return new Job(
                id,
                kind,
                state,
                doneCount,
                message,
                result == null ? List.of() : result.findings(),
                createdAt,
                endedAt);
    }
}
