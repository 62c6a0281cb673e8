package dev.entente.service.outlet;

import dev.entente.service.platform.Problem;
import java.net.URI;
import java.net.URISyntaxException;
import java.nio.file.Path;
import java.util.List;
import java.util.Optional;
import java.util.regex.Pattern;
import org.springframework.boot.context.properties.ConfigurationProperties;
import org.springframework.boot.context.properties.EnableConfigurationProperties;
import org.springframework.boot.context.properties.bind.DefaultValue;
import org.springframework.context.annotation.Configuration;

/**
 * Where outlets may lead: the operator of the service says it, so that nobody who administers identities reaches services inside the
 * operator's network through it. Names are compared as they are written; no redirection is followed.
 *
 * @param receivers {@code host:port} for syslog, {@code https://host} or {@code https://host:port} for web services
 * @param folder in which files may be written; null for none
 * @param enterprise number under which structured data of syslog messages is named (RFC 5424 section 7.2.2); the default is the one for
 *     examples (RFC 5612)
 */
@ConfigurationProperties("entente.outlets")
record AllowedReceivers(
        @DefaultValue({}) List<String> receivers,
        Path folder,
        @DefaultValue("32473") int enterprise) {
    private static final Pattern HOST_AND_PORT = Pattern.compile("([A-Za-z0-9.-]+|\\[[0-9A-Fa-f:]+\\]):([0-9]{1,5})");
    private static final int HIGHEST_PORT = 65_535;

    /** In which files may be written; empty if none may. */
    Optional<Path> files() {
        return Optional.ofNullable(folder);
    }

    /** A host and a port. */
    record Address(String host, int port) {}

    Address hostAndPort(String to) {
        var said = HOST_AND_PORT.matcher(to == null ? "" : to);
        if (!said.matches() || Integer.parseInt(said.group(2)) > HIGHEST_PORT) {
            throw Problem.of("outlet-address");
        }
        if (receivers.stream().noneMatch(to::equalsIgnoreCase)) {
            throw forbidden(to);
        }
        return new Address(said.group(1), Integer.parseInt(said.group(2)));
    }

    URI web(String to) {
        URI uri;
        try {
            uri = new URI(to == null ? "" : to);
        } catch (URISyntaxException e) {
            throw noAddress();
        }
        if (uri.getHost() == null
                || uri.getUserInfo() != null
                || uri.getFragment() != null
                || !("https".equals(uri.getScheme()) || "http".equals(uri.getScheme()))) {
            throw noAddress();
        }
        var origin = origin(uri);
        if (receivers.stream().noneMatch(allowed -> {
            try {
                var one = new URI(allowed);
                return one.getHost() != null && origin(one).equalsIgnoreCase(origin);
            } catch (URISyntaxException e) {
                return false;
            }
        })) {
            throw forbidden(origin);
        }
        return uri;
    }

    private static String origin(URI uri) {
        var port = uri.getPort() >= 0 ? uri.getPort() : "https".equals(uri.getScheme()) ? 443 : 80;
        return uri.getScheme() + "://" + uri.getHost() + ":" + port;
    }

    private static Problem noAddress() {
        return Problem.of("outlet-address/web");
    }

    private static Problem forbidden(String to) {
        return Problem.of("outlet-not-allowed").with("to", to);
    }

    /** Reads it. */
    @Configuration
    @EnableConfigurationProperties(AllowedReceivers.class)
    static class Reading {}
}
