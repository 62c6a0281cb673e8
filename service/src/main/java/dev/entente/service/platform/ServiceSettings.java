package dev.entente.service.platform;

import jakarta.validation.constraints.Max;
import jakarta.validation.constraints.Min;
import jakarta.validation.constraints.NotBlank;
import jakarta.validation.constraints.NotNull;
import jakarta.validation.constraints.Pattern;
import java.net.URI;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import org.springframework.boot.context.properties.ConfigurationProperties;
import org.springframework.boot.context.properties.bind.DefaultValue;
import org.springframework.validation.annotation.Validated;

/**
 * Settings of one node.
 *
 * @param organisation name that people see
 * @param helpDesk how people reach the help desk, as a sentence part such as {@code call 555 0100}
 * @param publicUrl where people and stewards reach the service, used in messages
 * @param secrets folder with the keys that never enter the database
 * @param mailFrom sender of messages
 * @param administrators addresses at which administrators are told of what concerns them
 * @param answerDeadline answers before the first proof leave at a multiple of this
 * @param attemptLife how long an attempt may take
 * @param attemptIdle how long an attempt in which something was proved may be left alone before everything is asked again
 * @param attemptIdleShared the same in networks where several people use one device
 * @param signInPage where people go on to once they have a password that works; empty for nowhere
 * @param sealLife how long a sealed password may wait for a steward
 * @param lease how long a steward holds an order
 * @param directoryTimeout how long a directory may take to answer a steward; orders are held for this longer than the lease
 * @param longestWait how long a steward's question for work is held back at most
 * @param stewardMissedAfter a steward that asked for work within this time counts as connected
 * @param changesInterval how long after one look for changes in a directory the next follows
 * @param comparisonInterval how long after one full comparison with a directory the next follows
 * @param startsPerNetwork attempts from one network within a quarter of an hour; before that each takes longer to answer
 * @param workBits how hard the work is that browsers of a network do before they start once it used a third of that; 0 for none
 * @param codesPerHour codes that a person is sent in an hour for those who ask from unknown places, for those who ask from
 *     known networks, and for a known browser, each
 * @param attemptsKept how long finished attempts are kept; the record keeps what happened
 * @param losesWayLimit when more people than this would lose a way in, publishing asks for their number
 * @param trustedProxies address ranges of proxies whose {@code X-Forwarded-For} is believed
 * @param country of numbers in directories that do not begin with +, as ISO 3166 has it; empty for none
 */
@Validated
@ConfigurationProperties("entente")
public record ServiceSettings(
        @NotBlank String organisation,
        @NotBlank String helpDesk,
        @NotNull URI publicUrl,
        @NotNull Path secrets,
        @NotBlank String mailFrom,
        @DefaultValue({}) List<String> administrators,
        @DefaultValue("400ms") Duration answerDeadline,
        @DefaultValue("20m") Duration attemptLife,
        @DefaultValue("5m") Duration attemptIdle,
        @DefaultValue("2m") Duration attemptIdleShared,

        @DefaultValue("") @Pattern(regexp = "|https?://[^\\s]+")
        String signInPage,

        @DefaultValue("10m") Duration sealLife,
        @DefaultValue("20s") Duration lease,
        @DefaultValue("10s") Duration directoryTimeout,
        @DefaultValue("25s") Duration longestWait,
        @DefaultValue("25s") Duration stewardMissedAfter,
        @DefaultValue("3s") Duration changesInterval,
        @DefaultValue("1h") Duration comparisonInterval,
        @DefaultValue("120") int startsPerNetwork,
        @DefaultValue("16") @Min(0) @Max(20) int workBits,
        @DefaultValue("5") int codesPerHour,
        @DefaultValue("90d") Duration attemptsKept,
        @DefaultValue({}) List<String> trustedProxies,
        @DefaultValue("0") int losesWayLimit,
        @DefaultValue("") @Pattern(regexp = "|[A-Z]{2}") String country) {}
