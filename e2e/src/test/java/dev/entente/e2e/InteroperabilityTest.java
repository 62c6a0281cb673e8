package dev.entente.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.seal.Credential;
import dev.entente.core.seal.CredentialStatement;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.Roster;
import dev.entente.core.seal.SigningKey;
import dev.entente.core.verify.appcode.AppCode;
import dev.entente.wire.PortalApi;
import java.io.IOException;
import java.math.BigInteger;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.AlgorithmParameters;
import java.security.GeneralSecurityException;
import java.security.KeyFactory;
import java.security.SecureRandom;
import java.security.spec.ECGenParameterSpec;
import java.security.spec.ECParameterSpec;
import java.security.spec.ECPrivateKeySpec;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import tools.jackson.databind.JsonNode;

/** Seals, evidence and statements by another implementation of JOSE, from docs/protocol.md alone; codes of apps by another of RFC 6238. */
class InteroperabilityTest {
    @Test
    void a_hundred_secrets_give_the_codes_that_another_implementation_gives() {
        var random = new SecureRandom();
        for (var i = 0; i < 100; i++) {
            var secret = new byte[10 + random.nextInt(55)];
            random.nextBytes(secret);
            var kind = new AppCode.Kind(
                    List.of("SHA1", "SHA256", "SHA512").get(i % 3), i % 2 == 0 ? 6 : 8, i % 5 == 0 ? 60 : 30);
            var app = AppCode.of(secret, kind);
            var seconds = random.nextLong(20_000_000_000L);
            var code = World.run(
                            Map.of(),
                            "oathtool",
                            "--totp=" + kind.hash(),
                            "-d",
                            String.valueOf(kind.digits()),
                            "-s",
                            kind.seconds() + "s",
                            "-N",
                            "@" + seconds,
                            "-b",
                            app.base32())
                    .expect(0)
                    .out()
                    .strip();
            assertThat(app.at(seconds / kind.seconds()))
                    .as(kind + " at " + seconds)
                    .isEqualTo(code);
        }
    }

    @Test
    void statements_about_credentials_are_read_and_written_by_another_implementation(@TempDir Path folder)
            throws IOException {
        var ours = SigningKey.generate(new SecureRandom());
        var statement = CredentialStatement.of(
                UUID.randomUUID(),
                UUID.randomUUID(),
                "astrid.nordvik",
                "uid=astrid.nordvik,dc=skerry,dc=test",
                Credential.device(UUID.randomUUID().toString(), ours.publicKey()),
                false,
                1_764_400_000_000L);
        var signed = Files.writeString(folder.resolve("statement"), statement.sign(ours));
        var key = Files.writeString(folder.resolve("key.jwk"), ApiPerson.JSON.writeValueAsString(ours.publicKey()));
        var read = jose("jws", "ver", "-i", signed.toString(), "-k", key.toString(), "-O", "-");
        assertThat(ApiPerson.JSON.readTree(read))
                .isEqualTo(ApiPerson.JSON.readTree(ApiPerson.JSON.writeValueAsString(statement)));

        var theirs = folder.resolve("operator.jwk");
        jose("jwk", "gen", "-i", "{\"kty\":\"EC\",\"crv\":\"P-256\"}", "-o", theirs.toString());
        var jwk = ApiPerson.JSON.readTree(Files.readString(theirs));
        var operator =
                new EcKey("EC", "P-256", jwk.path("x").asString(), jwk.path("y").asString());
        var payload = Files.writeString(folder.resolve("payload"), ApiPerson.JSON.writeValueAsString(statement));
        var made = jose(
                "jws",
                "sig",
                "-I",
                payload.toString(),
                "-s",
                ApiPerson.JSON.writeValueAsString(Map.of(
                        "protected",
                        Map.of("alg", "ES256", "typ", "entente-credential+jwt", "kid", operator.thumbprint()))),
                "-k",
                theirs.toString(),
                "-c",
                "-o",
                "-");
        assertThat(CredentialStatement.verify(made.strip(), List.of(operator), statement.directory()))
                .isEqualTo(statement);
    }

    @Test
    void a_password_sealed_by_another_implementation_is_accepted(@TempDir Path folder) throws IOException {
        var world = World.get();
        var crew = world.crew();
        var keyFile = folder.resolve("attempt.jwk");
        jose("jwk", "gen", "-i", "{\"kty\":\"EC\",\"crv\":\"P-256\"}", "-o", keyFile.toString());
        var jwk = ApiPerson.JSON.readTree(Files.readString(keyFile));
        var key =
                new EcKey("EC", "P-256", jwk.path("x").asString(), jwk.path("y").asString());
        var person = new ApiPerson(world, world.url, signing(jwk)).prove(crew.shore(), crew.address());

        var sealing = person.sealing();
        var sealed = new ArrayList<PortalApi.SealedPassword>();
        for (var target : sealing.targets()) {
            sealed.add(sealWithJose(folder, sealing, target, key, keyFile, "Other-Tool-Quay-77"));
        }
        person.attempt = person.handIn(sealed).as(PortalApi.Attempt.class);
        assertThat(person.waitForOutcome(Duration.ofSeconds(30)).state()).isEqualTo("completed");
        assertThat(world.binds("shore", crew.shore(), "Other-Tool-Quay-77")).isTrue();
        assertThat(world.binds("fleet", crew.fleet(), "Other-Tool-Quay-77")).isTrue();
    }

    /** A key that another implementation made. */
    private static SigningKey signing(JsonNode jwk) {
        try {
            var parameters = AlgorithmParameters.getInstance("EC");
            parameters.init(new ECGenParameterSpec("secp256r1"));
            var secret = new BigInteger(
                    1, Base64.getUrlDecoder().decode(jwk.path("d").asString()));
            var half = KeyFactory.getInstance("EC")
                    .generatePrivate(new ECPrivateKeySpec(secret, parameters.getParameterSpec(ECParameterSpec.class)));
            return SigningKey.decode(jwk.path("x").asString() + "."
                    + jwk.path("y").asString() + "."
                    + Base64.getUrlEncoder().withoutPadding().encodeToString(half.getEncoded()));
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    private static PortalApi.SealedPassword sealWithJose(
            Path folder, PortalApi.Sealing sealing, PortalApi.Target target, EcKey key, Path keyFile, String password)
            throws IOException {
        var recipient = ApiPerson.recipient(target);
        var accounts = target.accounts().stream().map(a -> a.id().toString()).toList();
        var binding = Map.of(
                "v", 1,
                "id", ApiPerson.randomId(),
                "attempt", sealing.attempt().toString(),
                "directory", target.directory().toString(),
                "action", sealing.action(),
                "accounts", accounts,
                "roster", Roster.digest(target.roster()),
                "key", key.thumbprint(),
                "recipients", List.of(recipient.thumbprint()),
                "exp", sealing.expiresAt().toEpochMilli());
        var template = Map.of("protected", Map.of("enc", "A256GCM", "entente", binding));
        var header = Map.of("header", Map.of("alg", "ECDH-ES+A256KW", "kid", recipient.thumbprint()));
        var content = folder.resolve("content");
        var json = ApiPerson.JSON.writeValueAsString(Map.of("v", 1, "password", password));
        Files.writeString(content, json + " ".repeat(1024 - json.getBytes(StandardCharsets.UTF_8).length));
        var publicKey = folder.resolve("recipient.jwk");
        Files.writeString(publicKey, ApiPerson.JSON.writeValueAsString(recipient));
        var made = ApiPerson.JSON.readTree(jose(
                "jwe",
                "enc",
                "-i",
                ApiPerson.JSON.writeValueAsString(template),
                "-r",
                ApiPerson.JSON.writeValueAsString(header),
                "-I",
                content.toString(),
                "-k",
                publicKey.toString(),
                "-o",
                "-"));
        var seal = general(made);

        var evidence = Map.of(
                "v", 1,
                "attempt", sealing.attempt().toString(),
                "directory", target.directory().toString(),
                "action", sealing.action(),
                "accounts", accounts,
                "seal", EcKey.digest(seal),
                "iat", System.currentTimeMillis(),
                "exp", sealing.expiresAt().toEpochMilli());
        var payload = folder.resolve("evidence");
        Files.writeString(payload, ApiPerson.JSON.writeValueAsString(evidence));
        var signing = Map.of(
                "protected",
                Map.of("alg", "ES256", "typ", "entente-evidence+jwt", "kid", key.thumbprint(), "jwk", key));
        var signed = jose(
                "jws",
                "sig",
                "-I",
                payload.toString(),
                "-s",
                ApiPerson.JSON.writeValueAsString(signing),
                "-k",
                keyFile.toString(),
                "-c",
                "-o",
                "-");
        return new PortalApi.SealedPassword(seal, signed.strip());
    }

    /** With one recipient the tool writes the flattened form; docs/protocol.md says how it becomes the general one. */
    private static String general(JsonNode flattened) {
        return ApiPerson.JSON.writeValueAsString(Map.of(
                "protected", flattened.path("protected").asString(),
                "recipients",
                        List.of(Map.of(
                                "header", flattened.path("header"),
                                "encrypted_key", flattened.path("encrypted_key").asString())),
                "iv", flattened.path("iv").asString(),
                "ciphertext", flattened.path("ciphertext").asString(),
                "tag", flattened.path("tag").asString()));
    }

    private static String jose(String... arguments) {
        var command = new ArrayList<>(List.of("jose"));
        command.addAll(List.of(arguments));
        return World.run(Map.of(), command.toArray(String[]::new)).expect(0).out();
    }
}
