package dev.entente.core.seal;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.nio.charset.StandardCharsets;
import java.security.SecureRandom;
import java.time.Duration;
import java.time.Instant;
import java.util.Base64;
import java.util.List;
import java.util.UUID;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

class DocumentsTest {
    private final SecureRandom random = new SecureRandom();
    private final SigningKey operator = SigningKey.generate(random);
    private final SigningKey identity = SigningKey.generate(random);
    private final UUID directory = UUID.randomUUID();
    private final UUID steward = UUID.randomUUID();
    private final Roster roster =
            new Roster(1, directory, 1, 5, List.of(new Roster.Member(steward, "shore-1", identity.publicKey())));

    @Test
    void a_roster_is_believed_from_its_operator_about_its_directory_alone() {
        var signed = roster.sign(operator);
        assertThat(Roster.verify(signed, operator.publicKey(), directory)).isEqualTo(roster);
        assertThatThrownBy(() -> Roster.verify(signed, identity.publicKey(), directory))
                .hasMessageContaining("another key");
        assertThatThrownBy(() -> Roster.verify(signed, operator.publicKey(), UUID.randomUUID()))
                .hasMessageContaining("another directory");
    }

    @Test
    void one_kind_of_document_never_passes_for_another() {
        var statement = new SealingKey(1, steward, directory, identity.publicKey(), 0, 1000).sign(operator);
        assertThatThrownBy(() -> Roster.verify(statement, operator.publicKey(), directory))
                .isInstanceOf(InvalidDocument.class)
                .hasMessageContaining("not a document of type");
    }

    @Test
    void any_changed_character_breaks_a_signature() {
        var signed = roster.sign(operator);
        for (var at = 0; at < signed.length() - 1; at += 7) {
            var changed = signed.substring(0, at) + (signed.charAt(at) == 'A' ? 'B' : 'A') + signed.substring(at + 1);
            assertThatThrownBy(() -> Roster.verify(changed, operator.publicKey(), directory))
                    .isInstanceOf(InvalidDocument.class);
        }
    }

    @Test
    void a_header_that_says_none_or_brings_more_is_refused() {
        var parts = roster.sign(operator).split("\\.");
        for (var header : List.of(
                "{\"alg\":\"none\",\"typ\":\"entente-roster+jwt\",\"kid\":\""
                        + operator.publicKey().thumbprint() + "\"}",
                "{\"alg\":\"ES256\",\"typ\":\"entente-roster+jwt\",\"kid\":\"x\",\"jku\":\"http://x\"}")) {
            var forged = Base64.getUrlEncoder().withoutPadding().encodeToString(header.getBytes(StandardCharsets.UTF_8))
                    + "." + parts[1] + "." + parts[2];
            assertThatThrownBy(() -> Roster.verify(forged, operator.publicKey(), directory))
                    .isInstanceOf(InvalidDocument.class);
        }
    }

    @Test
    void a_sealing_key_lives_a_day_at_most_and_is_its_stewards_alone() {
        var member = roster.stewards().get(0);
        var now = Instant.ofEpochSecond(1_800_000_000L);
        var key = new SealingKey(
                1,
                steward,
                directory,
                identity.publicKey(),
                now.toEpochMilli(),
                now.plus(Duration.ofHours(12)).toEpochMilli());
        assertThat(SealingKey.verify(key.sign(identity), member, directory, now))
                .isEqualTo(key);
        assertThatThrownBy(() -> SealingKey.verify(key.sign(operator), member, directory, now))
                .isInstanceOf(InvalidDocument.class);
        assertThatThrownBy(
                        () -> SealingKey.verify(key.sign(identity), member, directory, now.plus(Duration.ofHours(13))))
                .hasMessageContaining("not in force");
        assertThatThrownBy(() -> new SealingKey(1, steward, directory, identity.publicKey(), 0, 86_400_001L))
                .hasMessageContaining("24 hours");
    }

    @Test
    void keys_off_the_curve_are_refused_and_a_thumbprint_is_that_of_the_standard() {
        var key = operator.publicKey();
        assertThatThrownBy(() -> new EcKey("EC", "P-256", key.x(), key.x())).hasMessageContaining("not on P-256");
        assertThatThrownBy(() -> new EcKey("EC", "P-521", key.x(), key.y())).hasMessageContaining("only EC keys");
        // The key of RFC 7515 appendix A.3; its thumbprint was computed with another implementation.
        var published = new EcKey(
                "EC",
                "P-256",
                "f83OJ3D2xF1Bg8vub9tLe1gHMzV76e8Tus9uPHvRVEU",
                "x_FEzRu9m36HLN_tue659LNpXW6pCyStikYjKIWI5a0");
        assertThat(published.thumbprint()).isEqualTo("oKIywvGUpTVTyxMQ3bwIIeQUudfr_CkLMjCE19ECD-U");
    }

    @Test
    void a_signing_key_is_read_back_and_shows_nothing_of_itself() {
        var again = SigningKey.decode(operator.encoded());
        assertThat(again.publicKey()).isEqualTo(operator.publicKey());
        assertThat(Roster.verify(roster.sign(again), operator.publicKey(), directory))
                .isEqualTo(roster);
        assertThat(operator.toString()).doesNotContain(operator.encoded().split("\\.")[2]);
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "",
                "{}",
                "[]",
                "{\"protected\":\"e30\",\"recipients\":[],\"iv\":\"\",\"ciphertext\":\"\",\"tag\":\"\"}",
                "{\"protected\":\"e30\",\"recipients\":[],\"iv\":\"\",\"ciphertext\":\"\",\"tag\":\"\",\"unprotected\":{}}"
            })
    void what_is_no_seal_is_refused_with_a_sentence(String text) {
        assertThatThrownBy(() -> Seal.parse(text))
                .isInstanceOf(InvalidDocument.class)
                .message()
                .isNotBlank();
    }

    @Test
    void a_seal_with_compression_or_a_reference_elsewhere_is_refused() {
        for (var more : List.of("\"zip\":\"DEF\"", "\"jku\":\"https://x\"", "\"crit\":[\"exp\"]")) {
            var header = "{\"enc\":\"A256GCM\"," + more + "}";
            var text = "{\"protected\":\""
                    + Base64.getUrlEncoder().withoutPadding().encodeToString(header.getBytes(StandardCharsets.UTF_8))
                    + "\",\"recipients\":[],\"iv\":\"\",\"ciphertext\":\"\",\"tag\":\"\"}";
            assertThatThrownBy(() -> Seal.parse(text)).hasMessageContaining("a name that is not allowed");
        }
        assertThatThrownBy(() -> Seal.parse("x".repeat(Seal.MAX_LENGTH + 1))).hasMessageContaining("too long");
    }

    @Test
    void a_binding_has_bounds() {
        var account = UUID.randomUUID();
        assertThatThrownBy(() -> binding("reset", List.of(account, account)))
                .hasMessageContaining("different accounts");
        assertThatThrownBy(() -> binding("delete", List.of(account))).hasMessageContaining("a reset, a change");
        assertThatThrownBy(() -> binding("reset", List.of())).hasMessageContaining("one to eight");
    }

    private SealBinding binding(String action, List<UUID> accounts) {
        return new SealBinding(
                1, "AAAAAAAAAAAAAAAAAAAAAA", UUID.randomUUID(), directory, action, accounts, "r", "k", List.of("a"), 1);
    }
}
