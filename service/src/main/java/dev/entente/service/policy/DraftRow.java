package dev.entente.service.policy;

import dev.entente.core.audit.CanonicalJson;
import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import jakarta.persistence.Version;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.UUID;
import java.util.stream.Stream;
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

    /** Digest of the approved content; other content needs another approval. */
    @Column(name = "approved_digest")
    String approvedDigest;

    /** Everybody who wrote any of it. */
    List<String> authors;

    /** Identifies its content to an approver: SHA-256 of the files in canonical form (RFC 8785), hexadecimal. */
    String digest() {
        return CanonicalJson.digest(new TreeMap<String, Object>(files));
    }

    /** Adds an author, and withdraws submission and approval, which were of other content. */
    void writtenBy(String who, Instant now) {
        author = who;
        changedAt = now;
        submittedBy = null;
        approvedDigest = null;
        if (!authors.contains(who)) {
            authors = Stream.concat(authors.stream(), Stream.of(who)).toList();
        }
    }
}
