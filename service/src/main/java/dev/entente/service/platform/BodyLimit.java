package dev.entente.service.platform;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import org.springframework.core.Ordered;
import org.springframework.core.annotation.Order;
import org.springframework.stereotype.Component;
import org.springframework.web.filter.OncePerRequestFilter;

/** Refuses bodies that are too long, or whose length is not said, before anything reads them. */
@Component
@Order(Ordered.HIGHEST_PRECEDENCE + 10)
class BodyLimit extends OncePerRequestFilter {
    private static final long PEOPLE = 1024 * 1024;
    private static final long STEWARDS_AND_ADMINISTRATORS = 4 * 1024 * 1024;

    @Override
    protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
            throws ServletException, IOException {
        var most = request.getRequestURI().startsWith("/api/v1/portal") ? PEOPLE : STEWARDS_AND_ADMINISTRATORS;
        var length = request.getContentLengthLong();
        if (length > most || request.getHeader("Transfer-Encoding") != null) {
            Problem.of("too-large").answer(response);
            return;
        }
        chain.doFilter(request, response);
    }
}
