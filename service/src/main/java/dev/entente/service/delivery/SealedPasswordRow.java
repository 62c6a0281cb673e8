package dev.entente.service.delivery;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.UUID;
import org.hibernate.annotations.Immutable;

/** Ciphertext and what was signed about it, kept until the delivery ends; an unlock has no ciphertext. */
@Entity
@Immutable
@Table(name = "sealed_password")
class SealedPasswordRow {
    @Id
    UUID id;

    UUID attempt;
    String seal;
    String evidence;

    @Column(name = "expires_at")
    Instant expiresAt;
}
