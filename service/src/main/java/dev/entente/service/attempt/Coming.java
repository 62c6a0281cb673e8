package dev.entente.service.attempt;

import java.util.function.Supplier;
import org.springframework.util.function.SingletonSupplier;

/**
 * From where somebody calls.
 *
 * @param address as conditions about networks see it
 * @param network what counts as one network, see {@code ClientNetwork.oneNetwork}
 * @param known see {@link #browser}
 * @param browserName in words, such as "Firefox on Windows"
 * @param language what the browser wants to read, as it says it
 */
public record Coming(String address, String network, Supplier<byte[]> known, String browserName, String language) {
    /** @param known asked once, in the transaction that first needs it: whether a device is shared is configured */
    public Coming {
        known = SingletonSupplier.of(known);
    }

    /** Keyed hash of what the browser is known by; null where several people use one device. */
    public byte[] browser() {
        return known.get();
    }
}
