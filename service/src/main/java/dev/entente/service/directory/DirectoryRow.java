package dev.entente.service.directory;

import dev.entente.core.seal.EcKey;
import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** A directory as stored. */
@Entity
@Table(name = "directory")
class DirectoryRow {
    @Id
    UUID id;

    String name;
    String title;
    String kind;
    List<String> servers;

    @Column(name = "ca_certificate")
    String caCertificate;

    String base;

    @Column(name = "service_account")
    String serviceAccount;

    String correlation;

    @Column(name = "operator_key")
    @JdbcTypeCode(SqlTypes.JSON)
    EcKey operatorKey;

    String roster;

    @Column(name = "roster_version")
    int rosterVersion;

    @Column(name = "synced_at")
    Instant syncedAt;

    @Column(name = "created_at")
    Instant createdAt;
}
