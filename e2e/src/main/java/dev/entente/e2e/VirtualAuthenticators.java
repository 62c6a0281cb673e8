package dev.entente.e2e;

import com.google.gson.JsonObject;
import com.microsoft.playwright.CDPSession;
import com.microsoft.playwright.Page;

/** Chromium's own authenticators: one that holds passkeys and verifies its user, and a security key that may be plugged in. */
public final class VirtualAuthenticators implements AutoCloseable {
    private final CDPSession session;
    private final String device;
    private String key;

    VirtualAuthenticators(Page page) {
        session = page.context().newCDPSession(page);
        session.send("WebAuthn.enable");
        device = add("internal", true);
    }

    /** A security key, which remembers nobody and is only touched. From now on one of the two is used at a time. */
    void plugIn() {
        key = add("usb", false);
        use(false);
    }

    /** Which one its user touches: the key, or the device that holds passkeys. */
    void use(boolean wantsKey) {
        touched(device, !wantsKey);
        if (key != null) {
            touched(key, wantsKey);
        }
    }

    private void touched(String authenticator, boolean enabled) {
        var body = new JsonObject();
        body.addProperty("authenticatorId", authenticator);
        body.addProperty("enabled", enabled);
        session.send("WebAuthn.setAutomaticPresenceSimulation", body);
    }

    /** The page has none any more. */
    @Override
    public void close() {
        session.send("WebAuthn.disable");
        session.detach();
    }

    private String add(String transport, boolean able) {
        var options = new JsonObject();
        options.addProperty("protocol", "ctap2");
        options.addProperty("transport", transport);
        options.addProperty("hasResidentKey", able);
        options.addProperty("hasUserVerification", able);
        options.addProperty("isUserVerified", able);
        options.addProperty("automaticPresenceSimulation", true);
        var body = new JsonObject();
        body.add("options", options);
        return session.send("WebAuthn.addVirtualAuthenticator", body)
                .get("authenticatorId")
                .getAsString();
    }
}
