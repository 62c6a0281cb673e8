package dev.entente.core.seal;

import com.fasterxml.jackson.annotation.JsonInclude;
import dev.entente.core.password.PasswordRules;
import java.util.List;
import java.util.UUID;

/**
 * What the service asks a steward to do with one account, signed by the service. The steward judges the evidence inside;
 * the service's signature alone moves nothing.
 *
 * @param v format version, 1
 * @param id the delivery; stays the same when another steward takes over
 * @param epoch counts take-overs from 1; a receipt for an older epoch changes nothing
 * @param attempt the attempt
 * @param reference the attempt's reference, for the steward's own log
 * @param directory the directory
 * @param account immutable id of the entry
 * @param action {@code reset}, {@code change}, {@code unlock} or {@code temporary}; {@code retire} replaces a temporary
 *     password that nobody used
 * @param seal {@link Seal#text}; null for an unlock and when a temporary password is retired
 * @param evidence signed {@link Evidence}; null when a temporary password is retired
 * @param rules checked where the password is opened
 * @param clearLockout clear the lockout in the same modify
 * @param mustChange ask for another password at the next sign-in
 * @param begun what an earlier holder noted before it wrote, or null; when a temporary password is retired, the version
 *     that it had when it was set
 * @param check only look whether an earlier write took effect; nothing is written
 * @param leaseMillis how long the steward holds it, and after begin how long it may still send the write
 * @param exp milliseconds since 1970; never written after this
 * @param proofs what the person's own credentials signed in this attempt; absent where the steward demands none
 * @param credentials signed {@link CredentialStatement}s about this account; absent where the steward demands no proof
 */
public record Order(
        int v,
        UUID id,
        int epoch,
        UUID attempt,
        String reference,
        UUID directory,
        UUID account,
        String action,
        String seal,
        String evidence,
        PasswordRules rules,
        boolean clearLockout,
        boolean mustChange,
        Begun begun,
        boolean check,
        long leaseMillis,
        long exp,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) List<Proof> proofs,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) List<String> credentials) {
    private static final int MOST_PROOFS = 10;
    private static final int MOST_CREDENTIALS = 40;
    private static final String TYP = "entente-order+jwt";

    /** @throws InvalidDocument if it carries more than it could need */
    public Order {
        proofs = proofs == null ? List.of() : List.copyOf(proofs);
        credentials = credentials == null ? List.of() : List.copyOf(credentials);
        if (proofs.size() > MOST_PROOFS || credentials.size() > MOST_CREDENTIALS) {
            throw new InvalidDocument("format", "an order carries too many proofs or credentials");
        }
    }

    /**
     * What is noted before the write.
     *
     * @param server which server is written to
     * @param version the entry's version there: entryCSN, or the version of unicodePwd
     */
    public record Begun(String server, String version) {}

    /** The signed text. */
    public String sign(SigningKey serviceKey) {
        return Jws.sign(serviceKey, TYP, this);
    }

    /** @throws InvalidDocument if it is not this service's */
    public static Order verify(String signed, EcKey serviceKey) {
        var order = Jws.verify(signed, serviceKey, TYP, Order.class);
        if (order.v != 1) {
            throw new InvalidDocument("format", "this order has a format that is not known here");
        }
        return order;
    }
}
