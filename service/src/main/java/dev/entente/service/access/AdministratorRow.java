package dev.entente.service.access;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.UUID;

/** An administrator as stored. */
@Entity
@Table(name = "administrator")
class AdministratorRow {
    @Id
    UUID id;

    String login;
    String name;

    @Column(name = "password_hash")
    String passwordHash;

    @Column(name = "created_at")
    Instant createdAt;
}
