package dev.entente.core.seal;

import com.fasterxml.jackson.annotation.JsonInclude;
import dev.entente.core.attempt.Cause;
import dev.entente.core.attempt.Outcome;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;

/**
 * What came of an order, signed by the steward that held it.
 *
 * @param v format version, 1
 * @param order the delivery
 * @param epoch the epoch under which it was held
 * @param steward who signs
 * @param outcome done, refused, failed or unknown
 * @param cause why, null when done
 * @param detail what the directory said, never a secret: LDAP code and diagnostic; may be null
 * @param server which server was written to, or null
 * @param versionBefore the entry's version before, or null
 * @param versionAfter the entry's version after, or null
 * @param bindCode what the confirming bind answered, or null
 * @param retryAt milliseconds since 1970 from when the directory takes another password, where it says so, or null
 * @param phases milliseconds taken by each phase, by name
 * @param at milliseconds since 1970 by the steward's clock
 * @param journal hash of the steward's own log after this entry
 * @param credentials signed {@link CredentialStatement}s of credentials that this steward recognises from now on; absent if there
 *     is none
 */
public record Receipt(
        int v,
        UUID order,
        int epoch,
        UUID steward,
        Outcome outcome,
        Cause cause,
        String detail,
        String server,
        String versionBefore,
        String versionAfter,
        String bindCode,
        Long retryAt,
        Map<String, Long> phases,
        long at,
        String journal,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) List<String> credentials) {
    private static final String TYP = "entente-receipt+jwt";

    /** @throws InvalidDocument if a part is missing */
    public Receipt {
        if (v != 1
                || order == null
                || steward == null
                || outcome == null
                || (outcome != Outcome.DONE && cause == null)) {
            throw new InvalidDocument("format", "the receipt is not complete");
        }
        // In the order in which they happened.
        credentials = credentials == null ? List.of() : List.copyOf(credentials);
        phases = phases == null ? Map.of() : Collections.unmodifiableMap(new LinkedHashMap<>(phases));
    }

    /** The signed text. */
    public String sign(SigningKey identityKey) {
        return Jws.sign(identityKey, TYP, this);
    }

    /** @throws InvalidDocument if another steward signed it */
    public static Receipt verify(String signed, Roster.Member steward) {
        var receipt = Jws.verify(signed, steward.key(), TYP, Receipt.class);
        if (!receipt.steward.equals(steward.id())) {
            throw new InvalidDocument("receipt", "the receipt names another steward than the one that signed it");
        }
        return receipt;
    }
}
