package dev.entente.wire;

import dev.entente.core.policy.Action;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.OrNull;
import java.time.Instant;
import java.util.UUID;

/** What registered devices and the service say to each other, below {@code /api/v1/devices} ({@code docs/methods/push.md}). */
public final class DeviceApi {
    private DeviceApi() {}

    /**
     * A device brings its key.
     *
     * @param word what stands behind # in the link
     * @param key public half of the key pair that the device made for this
     */
    public record Registration(String word, EcKey key) {
        /** Shows nothing of the word. */
        @Override
        public String toString() {
            return "Registration[********]";
        }
    }

    /**
     * The device is registered, and counts once the person has typed the digits into the page.
     *
     * @param check six digits to show
     */
    public record Registered(UUID device, String check, String organisation) {}

    /** A document that the device signed (RFC 7515). */
    public record Signed(String signed) {}

    /**
     * Something to approve or to deny.
     *
     * @param key thumbprint of the attempt's key, to be signed with the answer
     * @param login whose account it is about
     * @param action {@code reset}, {@code unlock}, {@code change} or {@code details}
     * @param network from where it was asked
     */
    public record Request(
            UUID request,
            String key,
            String organisation,
            @OrNull String login,
            @OneOf(Action.class) String action,
            @OrNull String network,
            Instant askedAt,
            Instant expiresAt) {}
}
