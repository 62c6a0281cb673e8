package dev.entente.service.access;

import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.ServiceSettings;
import java.io.Console;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.MessageDigest;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Base64;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.boot.context.event.ApplicationReadyEvent;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;

/**
 * The one-time link for the first administrator. It is a secret, so it never goes to the log: it is printed when the
 * service runs in a terminal, and otherwise stands in a file that only the service's user can read.
 */
@Component
class FirstStart {
    private static final Logger log = LoggerFactory.getLogger(FirstStart.class);
    private static final Duration LIFE = Duration.ofMinutes(30);

    private final Administrators administrators;
    private final ServiceSettings settings;
    private final KeyRing keys;
    private final InstantSource clock;
    private String token;
    private Instant expires = Instant.MIN;

    FirstStart(Administrators administrators, ServiceSettings settings, KeyRing keys, InstantSource clock) {
        this.administrators = administrators;
        this.settings = settings;
        this.keys = keys;
        this.clock = clock;
    }

    @EventListener(ApplicationReadyEvent.class)
    synchronized void offer() throws IOException {
        var file = settings.secrets().resolve("first-administrator.link");
        if (!administrators.none()) {
            Files.deleteIfExists(file);
            return;
        }
        token = Base64.getUrlEncoder().withoutPadding().encodeToString(keys.randomBytes(24));
        expires = clock.instant().plus(LIFE);
        var link = settings.publicUrl().resolve("/console/first#") + token;
        Files.deleteIfExists(file);
        Files.createFile(file, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
        Files.writeString(file, link + "\n");
        if (inTerminal()) {
            System.console().printf("There is no administrator yet. Open within 30 minutes:%n  %s%n", link);
        } else {
            log.warn("there is no administrator yet; the one-time link is in {}", file);
        }
    }

    /** From JDK 22 on there is a console even where the output goes to a file; it then says that it is no terminal. */
    private static boolean inTerminal() {
        var console = System.console();
        if (console == null) {
            return false;
        }
        try {
            return (Boolean) Console.class.getMethod("isTerminal").invoke(console);
        } catch (NoSuchMethodException e) {
            return true;
        } catch (ReflectiveOperationException e) {
            return false;
        }
    }

    /** Whether this is the token; it works once. */
    synchronized boolean redeem(String offered) {
        if (token == null
                || offered == null
                || clock.instant().isAfter(expires)
                || !MessageDigest.isEqual(
                        token.getBytes(StandardCharsets.UTF_8), offered.getBytes(StandardCharsets.UTF_8))) {
            return false;
        }
        token = null;
        return true;
    }

    /** Gives the token back after a mistake in the form. */
    synchronized void giveBack(String redeemed) {
        token = redeemed;
    }
}
