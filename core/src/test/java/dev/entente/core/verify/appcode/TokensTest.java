package dev.entente.core.verify.appcode;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.entente.core.verify.appcode.AppCode.Kind;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.HexFormat;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Tokens that there are already: how their codes are made (RFC 6238, appendix B), and containers of keys (RFC 6030). */
class TokensTest {
    private static final String SEED = "1234567890";

    private static AppCode token(String hash, int digits, int seconds) {
        var bytes = switch (hash) {
            case "SHA1" -> 20;
            case "SHA256" -> 32;
            default -> 64;
        };
        return AppCode.of(
                SEED.repeat(7).substring(0, bytes).getBytes(StandardCharsets.US_ASCII),
                new Kind(hash, digits, seconds));
    }

    @ParameterizedTest
    @CsvSource({
        "SHA1, 59, 94287082",
        "SHA256, 59, 46119246",
        "SHA512, 59, 90693936",
        "SHA1, 1111111109, 07081804",
        "SHA256, 1111111109, 68084774",
        "SHA512, 1111111109, 25091201",
        "SHA1, 20000000000, 65353130",
        "SHA256, 20000000000, 77737706",
        "SHA512, 20000000000, 47863826",
    })
    void codes_of_eight_digits_are_those_of_the_standard(String hash, long seconds, String code) {
        var token = token(hash, 8, 30);
        assertThat(token.at(seconds / 30)).isEqualTo(code);
        assertThat(token.step(code, Instant.ofEpochSecond(seconds), 0)).hasValue(seconds / 30);
        assertThat(AppCode.parse(token.kept()).at(seconds / 30)).isEqualTo(code);
        assertThat(token.toString()).doesNotContain(token.base32());
    }

    @Test
    void a_clock_that_went_wrong_is_followed_step_by_step() {
        var token = token("SHA1", 6, 60);
        var now = Instant.ofEpochSecond(6_000_000);
        var ours = now.getEpochSecond() / 60;
        assertThat(token.step(token.at(ours + 1), now, 0)).hasValue(ours + 1);
        assertThat(token.step(token.at(ours + 2), now, 0)).isEmpty();
        assertThat(token.drift(ours + 1, now)).isEqualTo(1);
        assertThat(token.step(token.at(ours + 2), now, 1)).hasValue(ours + 2);
        assertThat(token.step(token.at(ours - 1), now, 1)).isEmpty();
        assertThat(token.stepOfSecond(token.at(ours + 1) + token.at(ours + 2), now, 1))
                .hasValue(ours + 2);
    }

    @Test
    void what_no_token_does_is_refused_in_words() {
        assertThatThrownBy(() -> new Kind("MD5", 6, 30)).hasMessageContaining("SHA1, SHA256 or SHA512");
        assertThatThrownBy(() -> new Kind("SHA1", 7, 30)).hasMessageContaining("6 or 8 digits");
        assertThatThrownBy(() -> new Kind("SHA1", 6, 45)).hasMessageContaining("30 or 60 seconds");
        assertThatThrownBy(() -> AppCode.of(new byte[9], Kind.USUAL)).hasMessageContaining("10 to 128 bytes");
    }

    private static String container(String more, String secret, String algorithm) {
        return """
                <?xml version="1.0" encoding="UTF-8"?>
                <pskc:KeyContainer Version="1.0" xmlns:pskc="urn:ietf:params:xml:ns:keyprov:pskc"
                    xmlns:ds="http://www.w3.org/2000/09/xmldsig#" xmlns:xenc="http://www.w3.org/2001/04/xmlenc#"
                    xmlns:xenc11="http://www.w3.org/2009/xmlenc11#"
                    xmlns:pkcs5="http://www.rsasecurity.com/rsalabs/pkcs/schemas/pkcs-5v2-0#">
                %s
                <pskc:KeyPackage>
                  <pskc:DeviceInfo><pskc:SerialNo>987654321</pskc:SerialNo></pskc:DeviceInfo>
                  <pskc:Key Id="12345678" Algorithm="urn:ietf:params:xml:ns:keyprov:pskc:%s">
                    <pskc:Issuer>Issuer-A</pskc:Issuer>
                    <pskc:AlgorithmParameters>
                      <pskc:Suite>HMAC-SHA256</pskc:Suite>
                      <pskc:ResponseFormat Length="8" Encoding="DECIMAL"/>
                    </pskc:AlgorithmParameters>
                    <pskc:Data>
                      <pskc:Secret>%s</pskc:Secret>
                      <pskc:TimeInterval><pskc:PlainValue>60</pskc:PlainValue></pskc:TimeInterval>
                    </pskc:Data>
                    <pskc:UserId>UID=jsmith,DC=example,DC=net</pskc:UserId>
                  </pskc:Key>
                </pskc:KeyPackage>
                </pskc:KeyContainer>
                """.formatted(more, algorithm, secret);
    }

    private static List<Pskc.Key> read(String xml, byte[] agreed, String password) throws Pskc.Unreadable {
        return Pskc.read(
                xml.getBytes(StandardCharsets.UTF_8), agreed, password == null ? null : password.toCharArray());
    }

    @Test
    void a_key_in_plain_is_read_with_all_that_is_said_of_it() throws Exception {
        var key = read(
                        container("", "<pskc:PlainValue>MTIzNDU2Nzg5MDEyMzQ1Njc4OTA=</pskc:PlainValue>", "totp"),
                        null,
                        null)
                .get(0);
        assertThat(new String(key.secret(), StandardCharsets.US_ASCII)).isEqualTo("12345678901234567890");
        assertThat(key.serial()).isEqualTo("987654321");
        assertThat(key.user()).isEqualTo("UID=jsmith,DC=example,DC=net");
        assertThat(key.algorithm()).endsWith(":totp");
        assertThat(key.kind()).isEqualTo(new Kind("SHA256", 8, 60));
        assertThat(key.toString()).doesNotContain("1234567890");
    }

    /** The values of figure 6 (section 6.1.2), under the key 0x12345678901234567890123456789012. */
    private static final String AGREED = """
            <pskc:EncryptionKey><ds:KeyName>Pre-shared-key</ds:KeyName></pskc:EncryptionKey>
            <pskc:MACMethod Algorithm="http://www.w3.org/2000/09/xmldsig#hmac-sha1">
              <pskc:MACKey>
                <xenc:EncryptionMethod Algorithm="http://www.w3.org/2001/04/xmlenc#aes128-cbc"/>
                <xenc:CipherData><xenc:CipherValue>
                  ESIzRFVmd4iZABEiM0RVZgKn6WjLaTC1sbeBMSvIhRejN9vJa2BOlSaMrR7I5wSX
                </xenc:CipherValue></xenc:CipherData>
              </pskc:MACKey>
            </pskc:MACMethod>
            """;

    private static String encrypted(String value, String mac) {
        return """
                <pskc:EncryptedValue>
                  <xenc:EncryptionMethod Algorithm="http://www.w3.org/2001/04/xmlenc#aes128-cbc"/>
                  <xenc:CipherData><xenc:CipherValue>%s</xenc:CipherValue></xenc:CipherData>
                </pskc:EncryptedValue>
                <pskc:ValueMAC>%s</pskc:ValueMAC>
                """.formatted(value, mac);
    }

    private static final byte[] KEY = HexFormat.of().parseHex("12345678901234567890123456789012");
    private static final String VALUE = "AAECAwQFBgcICQoLDA0OD+cIHItlB3Wra1DUpxVvOx2lef1VmNPCMl8jwZqIUqGv";
    private static final String CODE = "Su+NvtQfmvfJzF6bmQiJqoLRExc=";

    @Test
    void a_key_under_one_agreed_on_is_that_of_the_standard() throws Exception {
        var key = read(container(AGREED, encrypted(VALUE, CODE), "hotp"), KEY, null)
                .get(0);
        assertThat(new String(key.secret(), StandardCharsets.US_ASCII)).isEqualTo("12345678901234567890");
        assertThat(key.algorithm()).endsWith(":hotp");
    }

    @Test
    void what_was_changed_or_is_not_authenticated_is_not_taken() {
        var changed = "A" + (VALUE.charAt(1) == 'A' ? "B" : "A") + VALUE.substring(2);
        assertThatThrownBy(() -> read(container(AGREED, encrypted(changed, CODE), "totp"), KEY, null))
                .hasMessageContaining("was changed");
        assertThatThrownBy(() -> read(
                        container(
                                "<pskc:EncryptionKey><ds:KeyName>k</ds:KeyName></pskc:EncryptionKey>",
                                encrypted(VALUE, CODE),
                                "totp"),
                        KEY,
                        null))
                .hasMessageContaining("not authenticated");
        assertThatThrownBy(() -> read(container(AGREED, encrypted(VALUE, CODE), "totp"), null, null))
                .hasMessageContaining("agreed on before");
        var other = KEY.clone();
        other[0]++;
        assertThatThrownBy(() -> read(container(AGREED, encrypted(VALUE, CODE), "totp"), other, null))
                .isInstanceOf(Pskc.Unreadable.class);
    }

    @Test
    void nothing_from_outside_is_read_and_nonsense_is_told() {
        assertThatThrownBy(
                        () -> read("<!DOCTYPE x [<!ENTITY e SYSTEM \"file:///etc/hostname\">]><x>&e;</x>", null, null))
                .hasMessageContaining("document type");
        assertThatThrownBy(() -> read("not xml", null, null)).hasMessageContaining("no XML");
        assertThatThrownBy(() -> read("<x/>", null, null)).hasMessageContaining("no KeyContainer");
        assertThatThrownBy(() -> read(
                        container("", "<pskc:PlainValue>MTIz</pskc:PlainValue>", "totp")
                                .replace("Length=\"8\"", "Length=\"9\""),
                        null,
                        null))
                .hasMessageContaining("6 or 8 digits");
    }

    @Test
    void under_a_password_the_key_is_derived_as_it_says() throws Exception {
        var derived = """
                <pskc:EncryptionKey><xenc11:DerivedKey>
                  <xenc11:KeyDerivationMethod Algorithm="http://www.rsasecurity.com/rsalabs/pkcs/schemas/pkcs-5v2-0#pbkdf2">
                    <pkcs5:PBKDF2-params>
                      <Salt><Specified>Ej7/PEpyEpw=</Specified></Salt>
                      <IterationCount>1000</IterationCount><KeyLength>16</KeyLength><PRF/>
                    </pkcs5:PBKDF2-params>
                  </xenc11:KeyDerivationMethod>
                </xenc11:DerivedKey></pskc:EncryptionKey>
                <pskc:MACMethod Algorithm="http://www.w3.org/2000/09/xmldsig#hmac-sha1">
                  <pskc:MACKey>
                    <xenc:EncryptionMethod Algorithm="http://www.w3.org/2001/04/xmlenc#aes128-cbc"/>
                    <xenc:CipherData><xenc:CipherValue>%s</xenc:CipherValue></xenc:CipherData>
                  </pskc:MACKey>
                </pskc:MACMethod>
                """;
        // Made here by the JDK alone, since the container is what is tested.
        var key = javax.crypto.SecretKeyFactory.getInstance("PBKDF2WithHmacSHA1")
                .generateSecret(new javax.crypto.spec.PBEKeySpec(
                        "qwerty".toCharArray(), java.util.Base64.getDecoder().decode("Ej7/PEpyEpw="), 1000, 128))
                .getEncoded();
        var macKey = new byte[16];
        var secret = encrypt(key, "12345678901234567890".getBytes(StandardCharsets.US_ASCII));
        var mac = javax.crypto.Mac.getInstance("HmacSHA1");
        mac.init(new javax.crypto.spec.SecretKeySpec(macKey, "HmacSHA1"));
        var text = java.util.Base64.getEncoder();
        var xml = container(
                derived.formatted(text.encodeToString(encrypt(key, macKey))),
                encrypted(text.encodeToString(secret), text.encodeToString(mac.doFinal(secret))),
                "totp");
        assertThat(new String(read(xml, null, "qwerty").get(0).secret(), StandardCharsets.US_ASCII))
                .isEqualTo("12345678901234567890");
        assertThatThrownBy(() -> read(xml, null, "asdfgh")).isInstanceOf(Pskc.Unreadable.class);
        assertThatThrownBy(() -> read(xml, null, null)).hasMessageContaining("under a password");
    }

    private static byte[] encrypt(byte[] key, byte[] plain) throws Exception {
        var iv = new byte[16];
        iv[0] = 7;
        var cipher = javax.crypto.Cipher.getInstance("AES/CBC/PKCS5Padding");
        cipher.init(
                javax.crypto.Cipher.ENCRYPT_MODE,
                new javax.crypto.spec.SecretKeySpec(key, "AES"),
                new javax.crypto.spec.IvParameterSpec(iv));
        var out = java.util.Arrays.copyOf(iv, 16 + ((plain.length / 16) + 1) * 16);
        cipher.doFinal(plain, 0, plain.length, out, 16);
        return out;
    }
}
