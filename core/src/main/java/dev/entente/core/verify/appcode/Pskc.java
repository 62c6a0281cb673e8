package dev.entente.core.verify.appcode;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Base64;
import java.util.List;
import java.util.Optional;
import javax.crypto.Cipher;
import javax.crypto.Mac;
import javax.crypto.SecretKeyFactory;
import javax.crypto.spec.IvParameterSpec;
import javax.crypto.spec.PBEKeySpec;
import javax.crypto.spec.SecretKeySpec;
import javax.xml.XMLConstants;
import javax.xml.parsers.DocumentBuilderFactory;
import javax.xml.parsers.ParserConfigurationException;
import org.w3c.dom.Element;
import org.w3c.dom.Node;
import org.xml.sax.SAXException;

/**
 * Key containers (PSKC, RFC 6030): keys in plain, under a key agreed on before (section 6.1), or under a password (section 6.2). What is
 * encrypted has to carry its authentication code; containers with external entities, or with anything outside, are refused.
 */
public final class Pskc {
    private static final int LARGEST = 16 * 1024 * 1024;
    private static final int MOST_ITERATIONS = 5_000_000;
    private static final String XMLENC = "http://www.w3.org/2001/04/xmlenc#";

    /** A container that cannot be read; the message is a sentence for whoever brings it. */
    public static final class Unreadable extends Exception {
        Unreadable(String message) {
            super(message, null, false, false);
        }
    }

    /**
     * One key of a container.
     *
     * @param serial what is printed on the device; its own id if it has none
     * @param user whose it is, as the container says; null if it does not
     * @param algorithm by its URI: {@code …:totp}, {@code …:hotp}
     * @param kind how codes are made, where the container says so
     */
    public record Key(String serial, String user, String algorithm, byte[] secret, AppCode.Kind kind) {
        /** Shows nothing of the secret. */
        @Override
        public String toString() {
            return "Key[" + serial + "]";
        }
    }

    private final byte[] encryptionKey;
    private byte[] macKey;
    private String macAlgorithm;

    private Pskc(byte[] encryptionKey) {
        this.encryptionKey = encryptionKey;
    }

    /**
     * Reads all keys.
     *
     * @param agreed the key agreed on before, or null
     * @param password the password, or null
     */
    public static List<Key> read(byte[] xml, byte[] agreed, char[] password) throws Unreadable {
        if (xml.length > LARGEST) {
            throw new Unreadable("the container is larger than 16 MiB; split it");
        }
        try {
            var factory = DocumentBuilderFactory.newInstance();
            factory.setFeature("http://apache.org/xml/features/disallow-doctype-decl", true);
            factory.setFeature(XMLConstants.FEATURE_SECURE_PROCESSING, true);
            factory.setNamespaceAware(true);
            factory.setXIncludeAware(false);
            var builder = factory.newDocumentBuilder();
            builder.setErrorHandler(null);
            var root = builder.parse(new ByteArrayInputStream(xml)).getDocumentElement();
            if (!"KeyContainer".equals(root.getLocalName())) {
                throw new Unreadable("this is no KeyContainer of RFC 6030");
            }
            var pskc = new Pskc(key(root, agreed, password));
            pskc.macMethod(root);
            var keys = new ArrayList<Key>();
            for (var pack : children(root, "KeyPackage")) {
                keys.add(pskc.key(pack));
            }
            return keys;
        } catch (ParserConfigurationException | SAXException | IOException e) {
            throw new Unreadable("the container is no XML, or has a document type, which isn't taken");
        } catch (GeneralSecurityException | IllegalArgumentException e) {
            throw new Unreadable("the container can't be opened; is it the right key or password?");
        }
    }

    private static byte[] key(Element root, byte[] agreed, char[] password)
            throws Unreadable, GeneralSecurityException {
        var encryption = child(root, "EncryptionKey");
        if (encryption.isEmpty()) {
            return null;
        }
        var derived = child(encryption.get(), "DerivedKey");
        if (derived.isEmpty()) {
            if (agreed == null) {
                throw new Unreadable(
                        "the container is encrypted under a key agreed on before; name the file that holds it");
            }
            return agreed;
        }
        if (password == null) {
            throw new Unreadable("the container is encrypted under a password; give it");
        }
        var parameters = find(derived.get(), "PBKDF2-params")
                .orElseThrow(() -> new Unreadable("the key isn't derived by PBKDF2, and nothing else is known here"));
        var salt = Base64.getMimeDecoder().decode(text(parameters, "Specified"));
        var iterations = Integer.parseInt(text(parameters, "IterationCount").strip());
        var length = Integer.parseInt(text(parameters, "KeyLength").strip());
        if (iterations < 1 || iterations > MOST_ITERATIONS || length < 16 || length > 32) {
            throw new Unreadable("the container asks for a key derivation out of bounds");
        }
        var prf = child(parameters, "PRF").map(p -> p.getAttribute("Algorithm")).orElse("hmac-sha1");
        return SecretKeyFactory.getInstance("PBKDF2WithHmac" + hash(prf))
                .generateSecret(new PBEKeySpec(password, salt, iterations, length * 8))
                .getEncoded();
    }

    private static String hash(String uri) {
        var name = uri.toLowerCase(java.util.Locale.ROOT);
        return name.endsWith("sha256") ? "SHA256" : name.endsWith("sha512") ? "SHA512" : "SHA1";
    }

    private void macMethod(Element root) throws Unreadable, GeneralSecurityException {
        var method = child(root, "MACMethod");
        if (method.isPresent()) {
            macAlgorithm = "Hmac" + hash(method.get().getAttribute("Algorithm"));
            var key = child(method.get(), "MACKey");
            // Without a key of its own the encryption key is used (section 6.1.1).
            macKey = key.isPresent() ? decrypted(key.get()) : encryptionKey;
        }
    }

    private Key key(Element pack) throws Unreadable, GeneralSecurityException {
        var key = child(pack, "Key").orElseThrow(() -> new Unreadable("a KeyPackage holds no Key"));
        var serial = find(pack, "SerialNo").map(Element::getTextContent).orElse(key.getAttribute("Id"));
        var user = find(pack, "UserId").map(e -> e.getTextContent().strip()).orElse(null);
        var secret = find(key, "Secret").orElseThrow(() -> new Unreadable("the key " + serial + " holds no secret"));
        var plain = child(secret, "PlainValue");
        var bytes = plain.isPresent()
                ? Base64.getMimeDecoder().decode(plain.get().getTextContent())
                : authenticated(secret, serial);
        var format = find(key, "ResponseFormat");
        var digits = format.map(f -> f.getAttribute("Length")).filter(l -> l.matches("[0-9]{1,2}"));
        var encoding = format.map(f -> f.getAttribute("Encoding")).orElse("DECIMAL");
        if (!"DECIMAL".equals(encoding)) {
            throw new Unreadable("the key " + serial + " answers in " + encoding + ", and only digits are known here");
        }
        var seconds = find(key, "TimeInterval")
                .flatMap(t -> find(t, "PlainValue"))
                .map(e -> e.getTextContent().strip());
        var suite = find(key, "Suite")
                .map(e -> hash(e.getTextContent().replace("-", "")))
                .orElse("SHA1");
        AppCode.Kind kind;
        try {
            kind = new AppCode.Kind(
                    suite,
                    digits.map(Integer::parseInt).orElse(6),
                    seconds.map(Integer::parseInt).orElse(30));
        } catch (IllegalArgumentException e) {
            throw new Unreadable("the key " + serial + " can't be used: " + e.getMessage());
        }
        return new Key(serial.strip(), user, key.getAttribute("Algorithm"), bytes, kind);
    }

    private byte[] authenticated(Element secret, String serial) throws Unreadable, GeneralSecurityException {
        var encrypted = child(secret, "EncryptedValue")
                .orElseThrow(
                        () -> new Unreadable("the key " + serial + " holds neither a plain nor an encrypted secret"));
        var code = child(secret, "ValueMAC");
        if (macKey == null || code.isEmpty()) {
            throw new Unreadable("the key " + serial + " is encrypted but not authenticated, so it isn't taken");
        }
        var mac = Mac.getInstance(macAlgorithm);
        mac.init(new SecretKeySpec(macKey, macAlgorithm));
        if (!MessageDigest.isEqual(
                mac.doFinal(cipherValue(encrypted)),
                Base64.getMimeDecoder().decode(code.get().getTextContent()))) {
            throw new Unreadable("the key " + serial + " was changed, or this is another key or password");
        }
        return decrypted(encrypted);
    }

    private static byte[] cipherValue(Element encrypted) throws Unreadable {
        return Base64.getMimeDecoder().decode(text(encrypted, "CipherValue"));
    }

    private byte[] decrypted(Element encrypted) throws Unreadable, GeneralSecurityException {
        var algorithm = find(encrypted, "EncryptionMethod")
                .map(m -> m.getAttribute("Algorithm"))
                .orElse("");
        if (encryptionKey == null
                || !algorithm.matches(java.util.regex.Pattern.quote(XMLENC) + "aes(128|192|256)-cbc")) {
            throw new Unreadable("a value is encrypted in a way that isn't known here: " + algorithm);
        }
        var value = cipherValue(encrypted);
        var cipher = Cipher.getInstance("AES/CBC/PKCS5Padding");
        cipher.init(
                Cipher.DECRYPT_MODE,
                new SecretKeySpec(encryptionKey, "AES"),
                new IvParameterSpec(Arrays.copyOf(value, 16)));
        return cipher.doFinal(value, 16, value.length - 16);
    }

    private static String text(Element in, String name) throws Unreadable {
        return find(in, name)
                .map(Element::getTextContent)
                .orElseThrow(() -> new Unreadable("the container lacks " + name));
    }

    private static List<Element> children(Element in, String name) {
        var found = new ArrayList<Element>();
        for (Node node = in.getFirstChild(); node != null; node = node.getNextSibling()) {
            if (node instanceof Element element && name.equals(element.getLocalName())) {
                found.add(element);
            }
        }
        return found;
    }

    private static Optional<Element> child(Element in, String name) {
        return children(in, name).stream().findFirst();
    }

    private static Optional<Element> find(Element in, String name) {
        var found = in.getElementsByTagNameNS("*", name);
        return found.getLength() == 0 ? Optional.empty() : Optional.of((Element) found.item(0));
    }
}
