package dev.entente.service.portal;

import dev.entente.service.attempt.Acts;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.wire.AttemptAct;
import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.util.List;
import org.springframework.http.HttpHeaders;
import org.springframework.stereotype.Component;
import org.springframework.web.filter.OncePerRequestFilter;
import org.springframework.web.util.ContentCachingRequestWrapper;

/**
 * What comes to the portal's API: nothing that another site's page sends (Fetch Metadata, and the {@code Origin} of RFC 6454),
 * beside cookies that are {@code SameSite=Strict}. Keeps the body for what is signed about it.
 */
@Component
class PortalRequests extends OncePerRequestFilter {
    private static final String PREFIX = "/api/v1/portal";
    private static final int LONGEST_SIGNED = 64 * 1024;
    private static final List<String> OURS = List.of("same-origin", "none");

    private final String origin;

    PortalRequests(ServiceSettings settings) {
        this.origin = origin(settings.publicUrl());
    }

    private static String origin(URI url) {
        return url.getScheme() + "://" + url.getAuthority();
    }

    @Override
    protected boolean shouldNotFilter(HttpServletRequest request) {
        return !request.getRequestURI().startsWith(PREFIX + "/");
    }

    @Override
    protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
            throws ServletException, IOException {
        if (!request.getMethod().equals("GET") && fromElsewhere(request)) {
            Problem.of("from-elsewhere").answer(response);
            return;
        }
        chain.doFilter(new ContentCachingRequestWrapper(request, LONGEST_SIGNED), response);
    }

    /** Programs send neither header; browsers send both, and pages cannot change them. */
    private boolean fromElsewhere(HttpServletRequest request) {
        var site = request.getHeader("Sec-Fetch-Site");
        var from = request.getHeader(HttpHeaders.ORIGIN);
        return site != null && !OURS.contains(site)
                || from != null && !from.equals(origin) && !from.equals(own(request));
    }

    /** Under which address the browser itself reached us: behind a proxy that is the public one. */
    private static String own(HttpServletRequest request) {
        return request.getScheme() + "://" + request.getHeader(HttpHeaders.HOST);
    }

    /** One call as it is signed. To be asked when the body has been read. */
    static Acts.Call call(HttpServletRequest request) {
        var body = "";
        for (var inner = request; ; ) {
            if (inner instanceof ContentCachingRequestWrapper kept) {
                body = new String(kept.getContentAsByteArray(), StandardCharsets.UTF_8);
                break;
            }
            if (!(inner instanceof jakarta.servlet.http.HttpServletRequestWrapper wrapper)) {
                break;
            }
            inner = (HttpServletRequest) wrapper.getRequest();
        }
        return new Acts.Call(
                request.getHeader(AttemptAct.HEADER),
                request.getMethod(),
                request.getRequestURI().substring(PREFIX.length()),
                body);
    }
}
