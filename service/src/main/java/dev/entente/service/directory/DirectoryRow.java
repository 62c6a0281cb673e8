package dev.entente.service.directory;

import dev.entente.core.seal.EcKey;
import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.List;
import java.util.UUID;
import org.hibernate.annotations.DynamicUpdate;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** A directory as stored. */
@Entity
// Syncs, preflights and administrators change different columns of the same row: none may write back what another
// changed meanwhile.
@DynamicUpdate
@Table(name = "directory")
class DirectoryRow {
    @Id
    UUID id;

    String name;
    String title;
    String kind;
    List<String> servers;

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

    @Column(name = "group_base")
    String groupBase;

    @Column(name = "login_attributes")
    List<String> loginAttributes = List.of();

    List<String> attributes = List.of();

    @Column(name = "protected_groups")
    List<String> protectedGroups = List.of();

    /** Domains whose mailboxes open with the directory's passwords, in lower case. */
    List<String> mailboxes = List.of();

    /** Directories with a lower number are believed more. */
    int trust = 1;

    /** Per cent of the people that a full read may miss without anybody being asked. */
    @Column(name = "loss_share")
    int lossShare = 10;

    @Column(name = "removed_at")
    Instant removedAt;

    @Column(name = "suspended_at")
    Instant suspendedAt;

    /** People or groups changed; what is computed from them is computed anew. */
    @Column(name = "changed_at")
    Instant changedAt = Instant.EPOCH;

    @Column(name = "sync_cursor")
    String syncCursor;

    @Column(name = "changes_due_at")
    Instant changesDueAt = Instant.EPOCH;

    @Column(name = "changes_until")
    Instant changesUntil;

    @Column(name = "sync_due_at")
    Instant syncDueAt;

    @Column(name = "preflight_due_at")
    Instant preflightDueAt;

    @Column(name = "preflight_outcome")
    String preflightOutcome;
}
