package dev.entente.service.delivery;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.UUID;

/** Ciphertext, kept until the delivery ends and at latest until it expires. */
@Entity
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
