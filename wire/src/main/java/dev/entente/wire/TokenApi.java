package dev.entente.wire;

import dev.entente.core.seal.OrNull;
import java.util.List;

/** Bodies of {@code /api/v1/app-tokens}: tokens that people have already, which show codes as an authenticator app does. */
public final class TokenApi {
    /** How many are brought in at once, at most. */
    public static final int MOST = 1000;

    private TokenApi() {}

    /**
     * A token.
     *
     * @param login by which its owner signs in
     * @param serial what is printed on it, at most 60 characters
     * @param secret its seed (Base32, RFC 4648 section 6)
     * @param algorithm {@code SHA1}, {@code SHA256} or {@code SHA512}
     * @param digits of a code, 6 or 8
     * @param seconds that a code lasts, 30 or 60
     */
    public record AppToken(String login, String serial, String secret, String algorithm, int digits, int seconds) {
        /** Shows nothing of the seed. */
        @Override
        public String toString() {
            return "Token[" + serial + "]";
        }
    }

    /** Tokens to bring in. */
    public record Import(List<AppToken> tokens) {}

    /**
     * What became of one.
     *
     * @param state {@code imported}, {@code waits} for another administrator, or {@code refused}
     * @param why it was refused; null otherwise
     */
    public record Outcome(
            String serial,
            @OrNull String login,
            @OneOf(named = {"imported", "waits", "refused"}) String state,
            @OrNull String why) {}

    /** What became of each, in their order. */
    public record Imported(List<Outcome> tokens) {}
}
