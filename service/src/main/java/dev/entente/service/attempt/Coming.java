package dev.entente.service.attempt;

/**
 * From where somebody calls.
 *
 * @param address as conditions about networks see it
 * @param network what counts as one network, see {@code ClientNetwork.oneNetwork}
 * @param browser keyed hash of what the browser is known by; null where several people use one device
 * @param browserName in words, such as "Firefox on Windows"
 * @param language what the browser wants to read, as it says it
 */
public record Coming(String address, String network, byte[] browser, String browserName, String language) {}
