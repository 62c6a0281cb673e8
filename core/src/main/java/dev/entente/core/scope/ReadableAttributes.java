package dev.entente.core.scope;

import java.util.Collection;
import java.util.Optional;
import java.util.regex.Pattern;

/**
 * Which attributes are read for signing in, for telling whose accounts belong together, and for scopes. Their values stand
 * readable in the service's database, so secrets are never among them, nor contact values, which are read by themselves and
 * kept encrypted. One list for the service, which does not ask, and for stewards, which do not answer.
 */
public final class ReadableAttributes {
    private static final Pattern SECRET = Pattern.compile(
            "(?i).*(pwd|passw|krb|secret|sambanthash|sambalm|pkcs|privatekey|managedpassword|unixpassword|otp|pin).*");

    private static final Pattern CONTACT =
            Pattern.compile("(?i).*(mail|proxyaddress|phone|mobile|pager|facsimile|telex|homepostal).*");

    private static final Pattern NAME = Pattern.compile("[A-Za-z][A-Za-z0-9;-]{0,62}");

    private ReadableAttributes() {}

    /** Why an attribute is not read, as a sentence; empty if it may be. */
    public static Optional<String> refused(String name) {
        if (name == null || !NAME.matcher(name).matches()) {
            return Optional.of("\"" + name + "\" is not the name of an attribute.");
        }
        if (SECRET.matcher(name).matches()) {
            return Optional.of("The attribute " + name + " is never read, because it may hold a secret.");
        }
        if (CONTACT.matcher(name).matches()) {
            return Optional.of("The attribute " + name
                    + " holds a contact value, which is kept encrypted and so can't be used for this.");
        }
        return Optional.empty();
    }

    /** The first reason against any of these. */
    public static Optional<String> refused(Collection<String> names) {
        return names.stream().flatMap(name -> refused(name).stream()).findFirst();
    }
}
