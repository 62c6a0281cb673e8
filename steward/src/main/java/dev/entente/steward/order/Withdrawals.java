package dev.entente.steward.order;

import dev.entente.core.seal.CredentialStatement;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.steward.link.StewardState;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;

/** Withdrawals of credentials that an operator hands to a steward on its own machine, for when the service can't be trusted. */
public final class Withdrawals {
    private Withdrawals() {}

    /** Where they are kept, one signed statement in each file. */
    static Path folder(Path state) {
        return state.resolve("withdrawn");
    }

    /**
     * Stores withdrawals in the steward's state; it reads them with its next order.
     *
     * @param folder the steward's state folder
     * @param statements compact signatures by the operator key
     * @return how many were stored
     * @throws InvalidDocument if the pinned operator key did not sign one, or one withdraws nothing; then none is stored
     */
    public static int hand(Path folder, List<String> statements, StewardState state) throws IOException {
        for (var signed : statements) {
            if (!CredentialStatement.verify(signed, List.of(state.operatorKey()), state.directory())
                    .removed()) {
                throw new InvalidDocument("credential", "this says that a credential counts, and withdraws nothing");
            }
        }
        var into = Files.createDirectories(folder(folder));
        for (var signed : statements) {
            StewardState.writePrivately(into.resolve(EcKey.digest(signed) + ".jws"), signed);
        }
        return statements.size();
    }
}
