package dev.entente.core.guess;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.SecureRandom;
import java.time.Duration;
import java.time.Instant;
import org.junit.jupiter.api.Test;

class ProofOfWorkTest {
    private static final Instant NOW = Instant.parse("2026-11-02T08:00:00Z");
    private final ProofOfWork work = new ProofOfWork(new byte[32], new SecureRandom());

    /** Found as a page would, by looking at the hash's bits as text. */
    private static String nonce(ProofOfWork.Wanted wanted, boolean enough) throws Exception {
        for (var nonce = 0; ; nonce++) {
            var hash = MessageDigest.getInstance("SHA-256")
                    .digest((wanted.seed() + "." + nonce).getBytes(StandardCharsets.US_ASCII));
            var bits = new StringBuilder();
            for (var i = 0; i < 4; i++) {
                bits.append(String.format("%8s", Integer.toBinaryString(hash[i] & 0xff))
                        .replace(' ', '0'));
            }
            if (bits.toString().startsWith("0".repeat(wanted.bits())) == enough) {
                return String.valueOf(nonce);
            }
        }
    }

    @Test
    void work_counts_where_it_was_asked_for_and_in_its_time() throws Exception {
        var wanted = work.ask("a network", 10, NOW);
        var nonce = nonce(wanted, true);
        assertThat(work.done(wanted.seed(), nonce, "a network", NOW)).contains(NOW.plus(Duration.ofMinutes(5)));
        assertThat(work.done(wanted.seed(), nonce, "another one", NOW)).isEmpty();
        assertThat(work.done(wanted.seed(), nonce, "a network", NOW.plus(Duration.ofMinutes(5))))
                .isEmpty();
        assertThat(new ProofOfWork(new byte[] {1, 2, 3}, new SecureRandom())
                        .done(wanted.seed(), nonce, "a network", NOW))
                .isEmpty();
    }

    @Test
    void what_was_not_done_or_was_made_easier_does_not_count() throws Exception {
        var wanted = work.ask("a network", 10, NOW);
        assertThat(work.done(wanted.seed(), nonce(wanted, false), "a network", NOW))
                .isEmpty();
        var easier = java.util.Base64.getUrlDecoder().decode(wanted.seed());
        easier[8] = 1;
        var seed = java.util.Base64.getUrlEncoder().withoutPadding().encodeToString(easier);
        assertThat(work.done(seed, nonce(new ProofOfWork.Wanted(seed, 1), true), "a network", NOW))
                .isEmpty();
        for (var odd :
                new String[] {null, "", "?", "A", wanted.seed() + "=", wanted.seed() + "AAAA", "A".repeat(5000)}) {
            assertThat(work.done(odd, "1", "a network", NOW)).as(odd).isEmpty();
        }
        assertThat(work.done(wanted.seed(), "1".repeat(21), "a network", NOW)).isEmpty();
        assertThat(work.done(wanted.seed(), null, "a network", NOW)).isEmpty();
    }

    @Test
    void so_many_hashes_are_needed_as_it_says() throws Exception {
        var tries = 0L;
        for (var i = 0; i < 200; i++) {
            tries += Long.parseLong(nonce(work.ask("a network", 6, NOW), true)) + 1;
        }
        // 64 each on average; by chance not less than half of it, nor twice as many.
        assertThat(tries / 200.0).isBetween(32.0, 128.0);
    }
}
