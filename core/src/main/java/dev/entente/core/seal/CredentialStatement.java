package dev.entente.core.seal;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.UUID;

/**
 * Says that a credential belongs to an account, or does so no more. Signed by the directory's operator key, or by a steward on the
 * roster that saw for itself that it was the person; the service stores and hands out this document but cannot write it. It names the
 * account by login and DN, too. A steward compares these with the entry, so that the service cannot get a signature for
 * another account than the operator meant.
 *
 * @param v format version: 2, or 1 where the account is named by its id alone
 * @param directory the directory's id
 * @param account immutable id of the entry
 * @param login of the entry; absent in version 1
 * @param dn of the entry, or what stands for it where there are none; absent in version 1
 * @param credential whose
 * @param removed whether it counts no more, ever
 * @param iat milliseconds since 1970
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record CredentialStatement(
        int v,
        UUID directory,
        UUID account,
        String login,
        String dn,
        Credential credential,
        boolean removed,
        long iat) {
    private static final String TYP = "entente-credential+jwt";
    private static final int LONGEST = 2000;

    /** @throws InvalidDocument if a part is missing */
    public CredentialStatement {
        if (v != 1 && v != 2 || directory == null || account == null || credential == null) {
            throw new InvalidDocument("format", "this statement has a format that is not known here");
        }
        if (v == 2 != (login != null) || v == 2 != (dn != null)) {
            throw new InvalidDocument("format", "this statement names its account otherwise than its version does");
        }
        if (v == 2 && (login.length() > LONGEST || dn.length() > LONGEST)) {
            throw new InvalidDocument("format", "this statement names its account at too great length");
        }
    }

    /** About an account as people know it. */
    public static CredentialStatement of(
            UUID directory, UUID account, String login, String dn, Credential credential, boolean removed, long iat) {
        return new CredentialStatement(2, directory, account, login, dn, credential, removed, iat);
    }

    /** The signed text. */
    public String sign(SigningKey key) {
        return Jws.sign(key, TYP, this);
    }

    /**
     * Reads a statement that one of these keys signed.
     *
     * @throws InvalidDocument if none of them did, or if it is about another directory
     */
    public static CredentialStatement verify(String signed, Iterable<EcKey> keys, UUID directory) {
        for (var key : keys) {
            if (Jws.names(signed, key)) {
                var statement = Jws.verify(signed, key, TYP, CredentialStatement.class);
                if (!statement.directory.equals(directory)) {
                    throw new InvalidDocument("credential", "this statement is about another directory");
                }
                return statement;
            }
        }
        throw new InvalidDocument("signature", "neither the operator nor a steward on the roster signed it");
    }
}
