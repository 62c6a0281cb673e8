package dev.entente.core.seal;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.time.Instant;
import java.util.List;
import java.util.UUID;

/**
 * What is to happen, signed in the person's browser with the key it made for this attempt.
 *
 * <p>It shows that the browser that started the attempt agreed to exactly this seal, these accounts and this action. It
 * does not show who sat at that browser: that is what the methods prove, and those that commit to the attempt's key will be
 * carried beside it.
 *
 * @param v format version, 1
 * @param attempt the attempt
 * @param directory the directory
 * @param action {@code reset}, {@code change}, {@code temporary} or {@code unlock}
 * @param accounts the same list as in the seal
 * @param seal {@link Seal#digest}; null for an unlock, which carries no password
 * @param iat milliseconds since 1970
 * @param exp milliseconds since 1970
 * @param credentials made in this very browser, that stewards are to recognise the person by from now on; absent if there is none
 * @param withdrawn thumbprints of credentials that stewards are to recognise the person by no more; absent if there is none
 */
public record Evidence(
        int v,
        UUID attempt,
        UUID directory,
        String action,
        List<UUID> accounts,
        String seal,
        long iat,
        long exp,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) List<Credential> credentials,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) List<String> withdrawn) {
    private static final int MOST_CREDENTIALS = 10;
    private static final String TYP = "entente-evidence+jwt";

    /** @throws InvalidDocument if a part is missing */
    public Evidence {
        if (v != 1
                || attempt == null
                || directory == null
                || action == null
                || accounts == null
                || (seal == null) != "unlock".equals(action)) {
            throw new InvalidDocument("format", "the evidence is not complete");
        }
        accounts = List.copyOf(accounts);
        credentials = credentials == null ? List.of() : List.copyOf(credentials);
        withdrawn = withdrawn == null ? List.of() : List.copyOf(withdrawn);
        if (credentials.size() > MOST_CREDENTIALS || withdrawn.size() > MOST_CREDENTIALS) {
            throw new InvalidDocument("format", "the evidence names more than " + MOST_CREDENTIALS + " credentials");
        }
    }

    /** Evidence that names no credential. */
    public Evidence(
            int v, UUID attempt, UUID directory, String action, List<UUID> accounts, String seal, long iat, long exp) {
        this(v, attempt, directory, action, accounts, seal, iat, exp, null, null);
    }

    /**
     * Thumbprint of the key that it carries (RFC 7638).
     *
     * @throws InvalidDocument if that key did not sign it
     */
    public static String key(String signed) {
        return Jws.verifyWithKeyInside(signed, TYP, Evidence.class).key().thumbprint();
    }

    /** The signed text, carrying the attempt's public key. */
    public String sign(SigningKey attemptKey) {
        return Jws.signWithKeyInside(attemptKey, TYP, this);
    }

    /**
     * Checks that the evidence agrees to unlocking one account. No seal names its key, so it shows only that whoever signed
     * meant exactly this; a service that was taken over could sign one of its own. An unlock opens nothing by itself.
     *
     * @throws InvalidDocument with reason {@code evidence} if it does not agree, {@code expired} if it is too late
     */
    public static Evidence verifyUnlock(String signed, UUID attempt, UUID directory, UUID account, Instant now) {
        var evidence = Jws.verifyWithKeyInside(signed, TYP, Evidence.class).payload();
        if (!evidence.action.equals("unlock")
                || !evidence.attempt.equals(attempt)
                || !evidence.directory.equals(directory)
                || !evidence.accounts.contains(account)) {
            throw new InvalidDocument("evidence", "the evidence agrees to something else than this unlock");
        }
        if (now.toEpochMilli() >= evidence.exp) {
            throw new InvalidDocument("expired", "the evidence has expired");
        }
        return evidence;
    }

    /** Reads evidence of whoever signed it, to see what it is about; {@code key} is the thumbprint of who did. */
    public static Evidence read(String signed, String key) {
        var carried = Jws.verifyWithKeyInside(signed, TYP, Evidence.class);
        if (!carried.key().thumbprint().equals(key)) {
            throw new InvalidDocument("evidence", "the evidence was signed by another key than the attempt's");
        }
        return carried.payload();
    }

    /**
     * Checks that the evidence agrees to this very seal.
     *
     * @throws InvalidDocument with reason {@code evidence} if it does not, {@code expired} if it is too late
     */
    public static Evidence verify(String signed, Seal seal, Instant now) {
        var carried = Jws.verifyWithKeyInside(signed, TYP, Evidence.class);
        var evidence = carried.payload();
        var binding = seal.binding();
        if (!carried.key().thumbprint().equals(binding.key())) {
            throw new InvalidDocument("evidence", "the evidence was signed by another key than the seal names");
        }
        if (!seal.digest().equals(evidence.seal)
                || !evidence.attempt.equals(binding.attempt())
                || !evidence.directory.equals(binding.directory())
                || !evidence.action.equals(binding.action())
                || !evidence.accounts.equals(binding.accounts())
                || evidence.exp != binding.exp()) {
            throw new InvalidDocument("evidence", "the evidence agrees to something else than this seal");
        }
        if (now.toEpochMilli() >= evidence.exp) {
            throw new InvalidDocument("expired", "the evidence has expired");
        }
        return evidence;
    }
}
