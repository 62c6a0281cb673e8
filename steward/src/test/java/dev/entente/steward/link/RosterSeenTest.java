package dev.entente.steward.link;

import static org.assertj.core.api.Assertions.assertThatCode;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Roster;
import dev.entente.core.seal.SigningKey;
import java.io.IOException;
import java.nio.file.Path;
import java.security.SecureRandom;
import java.util.List;
import java.util.UUID;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A service that was taken over shows the roster of before, so that a retired steward counts again. */
class RosterSeenTest {
    private final SigningKey operator = SigningKey.generate(new SecureRandom());
    private final UUID directory = UUID.randomUUID();

    @TempDir
    private Path folder;

    private Roster roster(int version, String steward) {
        return new Roster(
                1,
                directory,
                version,
                version,
                List.of(new Roster.Member(
                        UUID.randomUUID(),
                        steward,
                        SigningKey.generate(new SecureRandom()).publicKey())));
    }

    @Test
    void an_older_roster_and_another_one_of_the_same_version_are_refused_also_after_a_restart() throws IOException {
        var first = roster(1, "retired");
        var second = roster(2, "serving");
        var signed = second.sign(operator);
        var seen = new RosterSeen(folder);
        seen.accept(first, first.sign(operator));
        seen.accept(second, signed);
        assertThatCode(() -> seen.accept(second, signed)).doesNotThrowAnyException();
        for (var after : List.of(seen, new RosterSeen(folder))) {
            assertThatThrownBy(() -> after.accept(first, first.sign(operator)))
                    .isInstanceOf(InvalidDocument.class)
                    .hasMessageContaining("roster 2 was signed before");
            var other = roster(2, "another");
            assertThatThrownBy(() -> after.accept(other, other.sign(operator)))
                    .isInstanceOf(InvalidDocument.class)
                    .hasMessageContaining("another roster 2");
        }
    }
}
