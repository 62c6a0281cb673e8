package dev.entente.service.policy;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import jakarta.persistence.Version;
import java.time.Instant;
import java.util.Map;
import java.util.UUID;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** Unpublished configuration. */
@Entity
@Table(name = "draft")
class DraftRow {
    @Id
    UUID id;

    String name;

    @Column(name = "base_revision")
    int baseRevision;

    @JdbcTypeCode(SqlTypes.JSON)
    Map<String, String> files;

    @Version
    int version;

    String author;

    @Column(name = "changed_at")
    Instant changedAt;

    @Column(name = "submitted_by")
    String submittedBy;

    @Column(name = "approved_by")
    String approvedBy;

    /** Which version was approved: a later one needs another look. */
    @Column(name = "approved_version")
    Integer approvedVersion;
}
