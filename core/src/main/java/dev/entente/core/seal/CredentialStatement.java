package dev.entente.core.seal;

import java.util.UUID;

/**
 * Says that a credential belongs to an account, or does so no more. Signed by the directory's operator key, or by a steward on the
 * roster that saw for itself that it was the person; the service stores and hands out this document but cannot write it.
 *
 * @param v format version, 1
 * @param directory the directory's id
 * @param account immutable id of the entry
 * @param credential whose
 * @param removed whether it counts no more, ever
 * @param iat milliseconds since 1970
 */
public record CredentialStatement(
        int v, UUID directory, UUID account, Credential credential, boolean removed, long iat) {
    private static final String TYP = "entente-credential+jwt";

    /** @throws InvalidDocument if a part is missing */
    public CredentialStatement {
        if (v != 1 || directory == null || account == null || credential == null) {
            throw new InvalidDocument("format", "this statement has a format that is not known here");
        }
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
