package dev.entente.wire;

import dev.entente.core.attempt.AttemptState;
import dev.entente.core.attempt.Cause;
import dev.entente.core.delivery.DeliveryState;
import dev.entente.core.policy.Action;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.OrNull;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.UUID;

/** Attempts, deliveries, and what strangers try, over the administrators' API under {@code /api/v1}; console and command line use the same. */
public final class AttemptApi {
    private AttemptApi() {}

    /**
     * An attempt in a list.
     *
     * @param state where it stands; {@code purged} if only the record still knows of it
     * @param createdAt null if it was purged
     */
    public record AttemptRow(
            String reference,

            @OneOf(value = AttemptState.class, named = "purged")
            String state,

            @OrNull @OneOf(Action.class) String action,
            @OrNull UUID person,
            @OrNull String personName,
            @OrNull String policy,
            @OrNull String cause,
            @OrNull Instant createdAt,
            @OrNull Instant endedAt) {}

    /**
     * One attempt with everything that happened.
     *
     * @param limits what is used up now where it came from, a sentence each
     */
    public record AttemptDetail(
            AttemptRow attempt,
            @OrNull String reason,
            List<String> limits,
            List<Delivery> deliveries,
            List<RecordApi.Event> timeline) {}

    /**
     * One delivery with its result in words and raw.
     *
     * @param phases milliseconds that each phase took, by name
     */
    public record Delivery(
            UUID id,
            String reference,
            @OneOf(Action.class) String action,
            String directory,
            String login,

            @OneOf(DeliveryState.class) String state,

            int epoch,
            @OrNull String steward,
            @OrNull @OneOf(Cause.class) String code,
            @OrNull String cause,
            @OrNull String whatToDo,
            @OrNull String detail,
            @OrNull String server,
            @OrNull String versionBefore,
            @OrNull String versionAfter,
            @OrNull String bind,
            Instant createdAt,
            @OrNull Instant endedAt,
            Map<String, Long> phases) {}

    /** Asks for a temporary password, with the key that the administrator's browser made. */
    public record NewTemporary(EcKey key) {}

    /** What the browser needs to seal a temporary password. */
    public record Temporary(String reference, PortalApi.Sealing sealing) {}

    /** What strangers do: how much of it, from which networks, and in whose name, the most first. */
    public record Pressure(List<PressureLevel> levels, List<PressureSource> networks, List<PressureSource> people) {}

    /**
     * How much of one kind there was within the last hour.
     *
     * @param says the number in words
     * @param usual in an hour, over the last week
     * @param unusual whether this is far above that
     */
    public record PressureLevel(String kind, String says, long lastHour, double usual, boolean unusual) {}

    /** A network it came from, or a person in whose name it came. */
    public record PressureSource(
            String kind,
            @OrNull String network,
            @OrNull UUID person,
            @OrNull String name,
            long count,
            String says) {}

    /**
     * Whether somebody can do anything by themselves.
     *
     * @param closed whether nothing is possible, because they said that something was not them
     * @param since null if it is not
     * @param reference of the attempt that they said it of; null for none
     */
    public record SelfService(
            boolean closed, @OrNull Instant since, @OrNull String reference) {}

    /**
     * Self-service is opened again.
     *
     * @param reason one line; it goes on record
     */
    public record Opening(String reason) {}

    /** Lifts a person's limits. */
    public record LimitLifting(String reason) {}
}
