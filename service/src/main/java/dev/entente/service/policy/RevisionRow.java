package dev.entente.service.policy;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.Map;
import org.hibernate.annotations.Immutable;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** Published configuration; written once. */
@Entity
@Immutable
@Table(name = "revision")
class RevisionRow {
    @Id
    int number;

    @JdbcTypeCode(SqlTypes.JSON)
    Map<String, String> files;

    String author;

    @Column(name = "approved_by")
    String approvedBy;

    String note;

    @Column(name = "published_at")
    Instant publishedAt;
}
