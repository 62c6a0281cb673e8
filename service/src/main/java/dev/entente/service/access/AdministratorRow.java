package dev.entente.service.access;

import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.UUID;
import org.hibernate.annotations.DynamicUpdate;
import org.hibernate.annotations.JdbcTypeCode;
import org.hibernate.type.SqlTypes;

/** An administrator as stored. */
@Entity
// Someone signing in must not write back what another administrator changed meanwhile, such as a suspension.
@DynamicUpdate
@Table(name = "administrator")
class AdministratorRow {
    @Id
    UUID id;

    String login;
    String name;

    /** {@code administrator} or {@code staff}. */
    String role;

    /** Whose people staff help; none for everybody. */
    @JdbcTypeCode(SqlTypes.ARRAY)
    String[] scopes;

    /** By which they sign in to their own account; null if that is not known. */
    @Column(name = "own_login")
    String ownLogin;

    @Column(name = "password_hash")
    String passwordHash;

    @Column(name = "created_at")
    Instant createdAt;

    @Column(name = "suspended_at")
    Instant suspendedAt;

    /** Of the authenticator app, encrypted; null without one. */
    @Column(name = "second_secret")
    byte[] secondSecret;

    /** The last time step whose code was taken. */
    @Column(name = "second_step")
    long secondStep;

    /** Since when a code is asked for; null until the first one was right. */
    @Column(name = "second_since")
    Instant secondSince;

    boolean hasSecondFactor() {
        return secondSince != null;
    }
}
