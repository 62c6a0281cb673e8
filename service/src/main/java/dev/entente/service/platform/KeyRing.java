package dev.entente.service.platform;

import dev.entente.core.seal.SigningKey;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.GeneralSecurityException;
import java.security.SecureRandom;
import java.util.Base64;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Supplier;
import javax.crypto.Cipher;
import javax.crypto.Mac;
import javax.crypto.spec.GCMParameterSpec;
import javax.crypto.spec.SecretKeySpec;
import org.springframework.stereotype.Component;

/**
 * Keys that never enter the database. Made on the first start; further nodes get a copy of the folder. The database knows their
 * thumbprints: with other keys than those it was made with, or with none, the service does not start.
 *
 * <p>Values are encrypted with AES-256-GCM and carry the id of their key, so that a new line in {@code data.keys} is used for
 * what is written from then on while the old ones still read. A new line in {@code record.key} signs the record from the next start on.
 * Keys for single purposes are derived with HMAC-SHA-256, one label each.
 */
@Component
public class KeyRing {
    private static final List<String> FILES = List.of("data.keys", "lookup.key", "service.key", "record.key");
    private static final String RESTORE =
            "Restore the folder from its backup, or name the right one with ENTENTE_SECRETS. Nothing was changed.";

    private final SecureRandom random;
    private final Map<Integer, byte[]> dataKeys = new LinkedHashMap<>();
    private final int current;
    private final byte[] lookup;
    private final SigningKey service;
    private final List<SigningKey> record;

    KeyRing(ServiceSettings settings, SecureRandom random, KeyThumbprints thumbprints) {
        this.random = random;
        var folder = settings.secrets();
        var known = thumbprints.known();
        lookForMissing(folder, known, thumbprints);
        try {
            Files.createDirectories(
                    folder, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rwx------")));
            for (var line : read(folder.resolve("data.keys"), () -> "1 " + newKey())
                    .lines()
                    .toList()) {
                var parts = line.split(" ", 2);
                dataKeys.put(Integer.parseInt(parts[0]), Base64.getDecoder().decode(parts[1]));
            }
            this.current = dataKeys.keySet().stream().max(Integer::compare).orElseThrow();
            this.lookup = Base64.getDecoder().decode(read(folder.resolve("lookup.key"), this::newKey));
            this.service = SigningKey.decode(read(
                    folder.resolve("service.key"),
                    () -> SigningKey.generate(random).encoded()));
            this.record = read(
                            folder.resolve("record.key"),
                            () -> SigningKey.generate(random).encoded())
                    .lines()
                    .map(SigningKey::decode)
                    .toList();
        } catch (IOException e) {
            throw new NotReady(
                    "The secrets folder " + folder + " can't be used: " + e.getMessage() + ".",
                    "Let the user that the service runs as read and write it: ENTENTE_SECRETS says where it is.");
        }
        lookForOthers(folder, known, thumbprints);
    }

    /** A key that is made anew where one is missing would make everything unreadable that was written before. */
    private static void lookForMissing(Path folder, Map<String, String> known, KeyThumbprints thumbprints) {
        if (known.isEmpty() && !thumbprints.inUse()) {
            return;
        }
        for (var file : FILES) {
            if (!Files.exists(folder.resolve(file))) {
                throw new NotReady(
                        "The secrets folder " + folder + " lacks " + file + ", and the database was made with one.",
                        RESTORE);
            }
        }
    }

    private void lookForOthers(Path folder, Map<String, String> known, KeyThumbprints thumbprints) {
        var here = new LinkedHashMap<String, String>();
        dataKeys.forEach((id, key) -> here.put("data " + id, thumbprint(key)));
        here.put("lookup", thumbprint(lookup));
        here.put("service", service.publicKey().thumbprint());
        for (var i = 0; i < record.size(); i++) {
            here.put(
                    i == 0 ? "record" : "record " + (i + 1),
                    record.get(i).publicKey().thumbprint());
        }
        var all = known.keySet().containsAll(here.keySet()) ? known : thumbprints.remember(here);
        all.forEach((name, thumbprint) -> {
            if (!thumbprint.equals(here.get(name))) {
                throw new NotReady(
                        "The " + name + " key in the secrets folder " + folder
                                + " is not the one that the database was made with.",
                        RESTORE);
            }
        });
    }

    private static String thumbprint(byte[] key) {
        return Base64.getUrlEncoder().withoutPadding().encodeToString(mac(key, "entente key thumbprint"));
    }

    /** Signs orders; stewards pin its public half when they join. */
    public SigningKey serviceKey() {
        return service;
    }

    /** Those that sign checkpoints, one after the other; the last is the one to use. */
    public List<SigningKey> recordKeys() {
        return record;
    }

    /** Random bytes for salts and tokens. */
    public byte[] randomBytes(int length) {
        var bytes = new byte[length];
        random.nextBytes(bytes);
        return bytes;
    }

    /** A key for one purpose, 32 bytes. */
    public byte[] derived(String purpose) {
        return mac(lookup, "entente " + purpose);
    }

    /** HMAC-SHA-256 of a value under the key of a purpose: a blind index. */
    public byte[] blind(String purpose, String value) {
        return mac(derived(purpose), value);
    }

    /** @param about what the value belongs to, person, field and version; reading asks for the same */
    public byte[] encrypt(String about, String value) {
        var iv = randomBytes(12);
        var sealed = crypt(Cipher.ENCRYPT_MODE, current, iv, about, value.getBytes(StandardCharsets.UTF_8));
        return ByteBuffer.allocate(4 + 12 + sealed.length)
                .putInt(current)
                .put(iv)
                .put(sealed)
                .array();
    }

    /** @throws IllegalStateException if it was written about something else, or under a key that is not here */
    public String decrypt(String about, byte[] value) {
        var buffer = ByteBuffer.wrap(value);
        var key = buffer.getInt();
        var iv = new byte[12];
        buffer.get(iv);
        var rest = new byte[buffer.remaining()];
        buffer.get(rest);
        return new String(crypt(Cipher.DECRYPT_MODE, key, iv, about, rest), StandardCharsets.UTF_8);
    }

    private byte[] crypt(int mode, int key, byte[] iv, String about, byte[] value) {
        try {
            var cipher = Cipher.getInstance("AES/GCM/NoPadding");
            var bytes = dataKeys.get(key);
            if (bytes == null) {
                throw new IllegalStateException("data.keys lacks key " + key);
            }
            cipher.init(mode, new SecretKeySpec(bytes, "AES"), new GCMParameterSpec(128, iv));
            cipher.updateAAD(about.getBytes(StandardCharsets.UTF_8));
            return cipher.doFinal(value);
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("a stored value cannot be read", e);
        }
    }

    private static byte[] mac(byte[] key, String value) {
        try {
            var mac = Mac.getInstance("HmacSHA256");
            mac.init(new SecretKeySpec(key, "HmacSHA256"));
            return mac.doFinal(value.getBytes(StandardCharsets.UTF_8));
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("the JDK has no HMAC-SHA-256", e);
        }
    }

    private String newKey() {
        return Base64.getEncoder().encodeToString(randomBytes(32));
    }

    private static String read(Path file, Supplier<String> first) throws IOException {
        if (!Files.exists(file)) {
            try {
                Files.createFile(
                        file, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
                Files.writeString(file, first.get() + "\n", StandardOpenOption.WRITE);
            } catch (FileAlreadyExistsException e) {
                // Another node made it at the same moment; its key is the one to use.
            }
        }
        return Files.readString(file).strip();
    }
}
