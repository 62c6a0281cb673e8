package dev.entente.service.portal;

import dev.entente.service.platform.KeyRing;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.Base64;
import org.springframework.core.io.ClassPathResource;
import org.springframework.http.CacheControl;
import org.springframework.http.HttpHeaders;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.servlet.config.annotation.ResourceHandlerRegistry;
import org.springframework.web.servlet.config.annotation.WebMvcConfigurer;

/** Serves the schemas of policy files for editors, and the two pages under a strict content security policy; every deep link gets the page it belongs to. */
@Controller
class PagesController implements WebMvcConfigurer {
    private static final String POLICY = "default-src 'self'; script-src 'self'; style-src 'self' 'nonce-%s';"
            + " img-src 'self' data:; font-src 'self'; connect-src 'self'; object-src 'none'; base-uri 'none';"
            + " form-action 'self'; frame-ancestors 'none'; require-trusted-types-for 'script'";

    private final KeyRing keys;
    private final String portal = read("pages/portal/index.html");
    private final String console = read("pages/console/index.html");

    PagesController(KeyRing keys) {
        this.keys = keys;
    }

    /** For people. */
    @GetMapping({"/", "/recover", "/not-me", "/quiet", "/link", "/confirm"})
    ResponseEntity<String> portal() {
        return page(portal);
    }

    /** For administrators. */
    @GetMapping({"/console", "/console/", "/console/{*rest}"})
    ResponseEntity<String> console() {
        return page(console);
    }

    @Override
    public void addResourceHandlers(ResourceHandlerRegistry registry) {
        registry.addResourceHandler("/schema/**").addResourceLocations("classpath:/schema/");
        registry.addResourceHandler("/assets/**")
                .addResourceLocations("classpath:/pages/assets/")
                .setCacheControl(
                        CacheControl.maxAge(Duration.ofDays(365)).cachePublic().immutable());
    }

    private ResponseEntity<String> page(String html) {
        var nonce = Base64.getEncoder().encodeToString(keys.randomBytes(16));
        return ResponseEntity.ok()
                .contentType(new MediaType(MediaType.TEXT_HTML, StandardCharsets.UTF_8))
                .cacheControl(CacheControl.noStore())
                .header("Content-Security-Policy", POLICY.formatted(nonce))
                .header("Cross-Origin-Opener-Policy", "same-origin")
                .header("Referrer-Policy", "no-referrer")
                .header("Permissions-Policy", "camera=(), geolocation=(), microphone=()")
                .header(HttpHeaders.VARY, HttpHeaders.ACCEPT)
                .body(html.replace("__CSP_NONCE__", nonce));
    }

    private static String read(String path) {
        try {
            var resource = new ClassPathResource(path);
            return resource.exists()
                    ? resource.getContentAsString(StandardCharsets.UTF_8)
                    : "<!doctype html><title>Entente</title><p>The pages were left out of this build.</p>";
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
