package dev.entente.core.verify;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.guess.Familiarity;
import dev.entente.core.verify.appcode.AppCode;
import dev.entente.core.verify.appcode.AppCodeVerifier;
import dev.entente.core.verify.recoverycode.RecoveryCode;
import dev.entente.core.verify.recoverycode.RecoveryCodeVerifier;
import java.nio.charset.StandardCharsets;
import java.security.SecureRandom;
import java.time.Instant;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.apache.commons.codec.binary.Base32;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class VerifierTest {
    private static final UUID ASTRID = new UUID(1, 1);
    private static final UUID CHALLENGE = new UUID(9, 9);
    private static final SecureRandom RANDOM = new SecureRandom();
    private static final Verifier.Asked BROWSER =
            new Verifier.Asked(CHALLENGE, Page.NONE, null, false, Familiarity.BROWSER);

    private static Verifier.Asked asked(UUID challenge, byte[] kept) {
        return new Verifier.Asked(challenge, Page.NONE, kept, false, Familiarity.NONE);
    }

    private static boolean judge(Verifier verifier, Verifier.Asked asked, Optional<UUID> person, String typed) {
        return verifier.judge(asked, person, Answer.typed(typed)) == Verifier.Judgement.RIGHT;
    }

    /** The vectors of RFC 6238 appendix B for SHA-1; their last six digits, as apps show six. */
    @ParameterizedTest
    @CsvSource({
        "59, 287082",
        "1111111109, 081804",
        "1111111111, 050471",
        "1234567890, 005924",
        "2000000000, 279037",
        "20000000000, 353130",
    })
    void codes_are_those_of_the_standard(long seconds, String code) {
        var secret =
                AppCode.parse(new Base32().encodeToString("12345678901234567890".getBytes(StandardCharsets.US_ASCII)));
        assertThat(secret.at(seconds / 30)).isEqualTo(code);
        assertThat(secret.step(code, Instant.ofEpochSecond(seconds), 0)).hasValue(seconds / 30);
        assertThat(secret.step(code.substring(0, 3) + " " + code.substring(3), Instant.ofEpochSecond(seconds + 30), 0))
                .as("one step late")
                .hasValue(seconds / 30);
        assertThat(secret.step(code, Instant.ofEpochSecond(seconds + 90), 0))
                .as("too late")
                .isEmpty();
        assertThat(secret.step(code, Instant.ofEpochSecond(seconds - 90), 0))
                .as("too early")
                .isEmpty();
    }

    @Test
    void a_secret_is_written_as_it_is_read_and_never_printed() {
        var secret = AppCode.random(RANDOM);
        assertThat(AppCode.parse(secret.base32()).base32())
                .isEqualTo(secret.base32())
                .hasSize(32);
        assertThat(secret.toString()).doesNotContain(secret.base32());
        assertThat(secret.uri("Skerry Line", "åse"))
                .isEqualTo("otpauth://totp/Skerry%20Line:%C3%A5se?secret=" + secret.base32() + "&issuer=Skerry%20Line");
        for (var wrong : new String[] {null, "", "12345", "1234567", "١٢٣٤٥٦", "x".repeat(10_000)}) {
            assertThat(secret.step(wrong, Instant.EPOCH.plusSeconds(1000), 0)).isEmpty();
        }
    }

    @Test
    void sixteen_characters_by_mail_cost_nobody_a_try_and_eight_digits_do() {
        var mail = new SentCodeVerifier(Method.of("email-code"), new byte[32], RANDOM);
        assertThat(mail.space(asked(CHALLENGE, null), Answer.typed("12345678")).beyondGuessing())
                .isFalse();
        assertThat(mail.space(asked(CHALLENGE, null), Answer.typed(null)).beyondGuessing())
                .isFalse();
        var code = OneTimeCode.beyondGuessing(RANDOM);
        assertThat(mail.space(asked(CHALLENGE, null), Answer.typed(code.spaced()))
                        .beyondGuessing())
                .isTrue();
        assertThat(judge(mail, asked(CHALLENGE, null), Optional.of(ASTRID), code.spaced()))
                .isFalse();
    }

    @Test
    void a_code_of_an_app_is_never_taken_twice() {
        var secret = AppCode.random(RANDOM);
        var taken = new HashMap<UUID, Long>();
        var store = new AppCodeVerifier.Store() {
            @Override
            public List<AppCodeVerifier.Store.App> apps(UUID person) {
                return person.equals(ASTRID)
                        ? List.of(new AppCodeVerifier.Store.App(new UUID(5, 5), secret, 0))
                        : List.of();
            }

            @Override
            public boolean take(UUID enrolment, long first, long last, long drift) {
                var later = taken.getOrDefault(enrolment, -1L) < first;
                if (later) {
                    taken.put(enrolment, last);
                }
                return later;
            }
        };
        var now = Instant.ofEpochSecond(1_000_000);
        var verifier = new AppCodeVerifier(store, () -> now);
        assertThat(verifier.show(CHALLENGE, Page.NONE, Optional.empty())).isEqualTo(Verifier.Shown.NOTHING);
        var code = secret.at(now.getEpochSecond() / 30);
        assertThat(judge(verifier, BROWSER, Optional.empty(), code))
                .as("nobody")
                .isFalse();
        assertThat(judge(verifier, BROWSER, Optional.of(new UUID(2, 2)), code)).isFalse();
        assertThat(judge(verifier, BROWSER, Optional.of(ASTRID), code)).isTrue();
        assertThat(judge(verifier, BROWSER, Optional.of(ASTRID), code)).isFalse();
    }

    @Test
    void where_nobody_is_known_an_app_shows_itself_by_two_codes_that_follow_each_other() {
        var secret = AppCode.random(RANDOM);
        var taken = new HashMap<UUID, Long>();
        var store = new AppCodeVerifier.Store() {
            @Override
            public List<AppCodeVerifier.Store.App> apps(UUID person) {
                return List.of(new AppCodeVerifier.Store.App(new UUID(5, 5), secret, 0));
            }

            @Override
            public boolean take(UUID enrolment, long first, long last, long drift) {
                var later = taken.getOrDefault(enrolment, -1L) < first;
                if (later) {
                    taken.put(enrolment, last);
                }
                return later;
            }
        };
        var now = Instant.ofEpochSecond(1_000_000);
        var step = now.getEpochSecond() / 30;
        var verifier = new AppCodeVerifier(store, () -> now);
        for (var from : List.of(Familiarity.NETWORK, Familiarity.NONE)) {
            var there = new Verifier.Asked(CHALLENGE, Page.NONE, null, false, from);
            assertThat(judge(verifier, there, Optional.of(ASTRID), secret.at(step)))
                    .as("one code")
                    .isFalse();
            assertThat(judge(verifier, there, Optional.of(ASTRID), secret.at(step) + secret.at(step)))
                    .as("the same twice")
                    .isFalse();
            assertThat(judge(verifier, there, Optional.of(ASTRID), secret.at(step) + secret.at(step - 1)))
                    .as("in the wrong order")
                    .isFalse();
            assertThat(verifier.space(there, Answer.typed("123456")).chance()).isLessThan(1e-9);
        }
        var there = new Verifier.Asked(CHALLENGE, Page.NONE, null, false, Familiarity.NONE);
        var two = secret.at(step - 1) + " " + secret.at(step);
        assertThat(judge(verifier, there, Optional.empty(), two)).as("nobody").isFalse();
        assertThat(judge(verifier, there, Optional.of(ASTRID), two)).isTrue();
        assertThat(judge(verifier, there, Optional.of(ASTRID), two)).as("again").isFalse();
        assertThat(judge(verifier, there, Optional.of(ASTRID), secret.at(step) + secret.at(step + 1)))
                .as("whoever saw the second one and waits for the next")
                .isFalse();
        var later = new AppCodeVerifier(store, () -> now.plusSeconds(30));
        assertThat(judge(later, there, Optional.of(ASTRID), secret.at(step + 1) + secret.at(step + 2)))
                .as("two that nobody saw")
                .isTrue();
    }

    @Test
    void recovery_codes_that_were_made_before_still_count() {
        var before = new RecoveryCode("abcdefgh23");
        assertThat(RecoveryCode.parse("ABCDE-fgh23")).contains(before);
        assertThat(RecoveryCode.space("abcde-fgh23").beyondGuessing()).isFalse();
        var now = RecoveryCode.random(RANDOM);
        assertThat(now.spaced()).matches("[a-z2-9]{5}-[a-z2-9]{5}-[a-z2-9]{4}");
        assertThat(RecoveryCode.space(now.spaced()).beyondGuessing()).isTrue();
    }

    @Test
    void a_recovery_code_is_good_once_however_it_is_typed() {
        var codes = new HashSet<RecoveryCode>();
        while (codes.size() < 200) {
            codes.add(RecoveryCode.random(RANDOM));
        }
        var left = new HashSet<>(codes);
        var verifier = new RecoveryCodeVerifier((person, code) -> person.equals(ASTRID) && left.remove(code));
        for (var code : codes) {
            var typed = " " + code.spaced().toUpperCase(java.util.Locale.ROOT) + " ";
            assertThat(judge(verifier, BROWSER, Optional.empty(), typed)).isFalse();
            assertThat(judge(verifier, BROWSER, Optional.of(ASTRID), typed)).isTrue();
            assertThat(judge(verifier, BROWSER, Optional.of(ASTRID), typed)).isFalse();
            assertThat(code.toString()).doesNotContain(code.text());
        }
        for (var wrong : new String[] {null, "", "abcde", "abcde-fgh1j", "x".repeat(10_000)}) {
            assertThat(RecoveryCode.parse(wrong)).isEmpty();
        }
        var one = codes.iterator().next();
        assertThat(one.hash(new byte[32], ASTRID)).isNotEqualTo(one.hash(new byte[32], CHALLENGE));
    }

    @Test
    void a_code_by_mail_proves_nobody_who_does_not_exist() {
        var verifier = new SentCodeVerifier(Method.of("email-code"), new byte[32], RANDOM);
        var begun = verifier.send(CHALLENGE, false);
        var code = begun.code().spaced();
        assertThat(judge(verifier, asked(CHALLENGE, begun.kept()), Optional.of(ASTRID), code))
                .isTrue();
        assertThat(judge(verifier, asked(CHALLENGE, begun.kept()), Optional.empty(), code))
                .isFalse();
        assertThat(judge(verifier, asked(new UUID(8, 8), begun.kept()), Optional.of(ASTRID), code))
                .isFalse();
        assertThat(Map.of(Method.of("email-code"), verifier)).containsKey(verifier.method());
    }
}
