package dev.entente.steward.order;

import dev.entente.steward.link.StewardState;
import java.io.IOException;
import java.nio.file.Path;
import java.util.List;

/** Withdrawals of credentials that an operator brings to a steward by hand, where the service is not to be relied on. */
public final class Withdrawals {
    private Withdrawals() {}

    /**
     * Keeps them beside what the steward recognises; it looks there with every order.
     *
     * @param folder the steward's state folder
     * @return how many there are
     * @throws dev.entente.core.seal.InvalidDocument if the pinned operator key did not sign one, or if one withdraws nothing
     */
    public static int hand(Path folder, List<String> statements, StewardState state) throws IOException {
        return CredentialStore.hand(folder, statements, state.operatorKey(), state.directory());
    }
}
