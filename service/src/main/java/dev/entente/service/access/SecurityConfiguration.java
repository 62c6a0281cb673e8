package dev.entente.service.access;

import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.List;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.core.annotation.Order;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpMethod;
import org.springframework.http.MediaType;
import org.springframework.security.authentication.UsernamePasswordAuthenticationToken;
import org.springframework.security.config.annotation.web.builders.HttpSecurity;
import org.springframework.security.config.http.SessionCreationPolicy;
import org.springframework.security.config.observation.SecurityObservationSettings;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.security.core.userdetails.UserDetailsService;
import org.springframework.security.core.userdetails.UsernameNotFoundException;
import org.springframework.security.web.SecurityFilterChain;
import org.springframework.security.web.access.intercept.AuthorizationFilter;
import org.springframework.session.web.http.CookieSerializer;
import org.springframework.session.web.http.DefaultCookieSerializer;
import org.springframework.web.filter.OncePerRequestFilter;

/** Who may call what. People and stewards prove themselves to their own endpoints; administrators to all others. */
@Configuration
class SecurityConfiguration {
    private static final String BEARER = "Bearer ";

    @Bean
    @Order(1)
    SecurityFilterChain peopleAndStewards(HttpSecurity http) throws Exception {
        return http.securityMatcher("/api/v1/portal/**", "/api/v1/steward/**")
                .authorizeHttpRequests(requests -> requests.anyRequest().permitAll())
                // The portal's cookie is SameSite=Strict and its calls carry a header that forms cannot send.
                .csrf(csrf -> csrf.disable())
                .sessionManagement(sessions -> sessions.sessionCreationPolicy(SessionCreationPolicy.STATELESS))
                .requestCache(cache -> cache.disable())
                .build();
    }

    @Bean
    @Order(2)
    SecurityFilterChain administration(HttpSecurity http, Administrators administrators) throws Exception {
        return http.securityMatcher("/api/**")
                .authorizeHttpRequests(requests -> requests.requestMatchers(
                                "/api/v1/tokens", "/api/v1/first-administrator", "/api/v1/openapi.json")
                        .permitAll()
                        .requestMatchers(HttpMethod.POST, "/api/v1/session")
                        .permitAll()
                        .anyRequest()
                        .authenticated())
                .csrf(csrf -> csrf.spa()
                        .ignoringRequestMatchers("/api/v1/tokens", "/api/v1/first-administrator")
                        .ignoringRequestMatchers(SecurityConfiguration::hasBearer))
                .addFilterBefore(new BearerFilter(administrators), AuthorizationFilter.class)
                .requestCache(cache -> cache.disable())
                .logout(logout -> logout.disable())
                .exceptionHandling(handling -> handling.authenticationEntryPoint((request, response, e) -> problem(
                                response, 401, "signed-out", "Sign in first: in the console, or with entente sign-in."))
                        .accessDeniedHandler((request, response, e) -> problem(
                                response, 403, "not-allowed", "This is not allowed. Reload the page and try again.")))
                .build();
    }

    @Bean
    @Order(3)
    SecurityFilterChain pages(HttpSecurity http) throws Exception {
        return http.authorizeHttpRequests(requests -> requests.anyRequest().permitAll())
                .csrf(csrf -> csrf.disable())
                .headers(headers -> headers.cacheControl(cache -> cache.disable()))
                .sessionManagement(sessions -> sessions.sessionCreationPolicy(SessionCreationPolicy.STATELESS))
                .requestCache(cache -> cache.disable())
                .build();
    }

    /** There are no users besides administrators, who sign in through {@link AccessController}. */
    @Bean
    UserDetailsService noUsers() {
        return login -> {
            throw new UsernameNotFoundException("not used");
        };
    }

    /** Nobody looks at timings of single filters, and taking them costs more than the filters do. */
    @Bean
    SecurityObservationSettings noFilterTimings() {
        return SecurityObservationSettings.noObservations();
    }

    @Bean
    CookieSerializer sessionCookie() {
        var cookie = new DefaultCookieSerializer();
        cookie.setCookieName("__Host-entente-session");
        cookie.setCookiePath("/");
        cookie.setUseSecureCookie(true);
        cookie.setUseHttpOnlyCookie(true);
        cookie.setSameSite("Strict");
        return cookie;
    }

    private static boolean hasBearer(HttpServletRequest request) {
        var header = request.getHeader(HttpHeaders.AUTHORIZATION);
        return header != null && header.startsWith(BEARER);
    }

    private static void problem(HttpServletResponse response, int status, String type, String detail)
            throws IOException {
        response.setStatus(status);
        response.setContentType(MediaType.APPLICATION_PROBLEM_JSON_VALUE);
        response.getWriter()
                .write("{\"type\":\"urn:entente:problem:%s\",\"status\":%d,\"detail\":\"%s\"}"
                        .formatted(type, status, detail));
    }

    /** Accepts tokens of the command line. */
    private static final class BearerFilter extends OncePerRequestFilter {
        private final Administrators administrators;

        BearerFilter(Administrators administrators) {
            this.administrators = administrators;
        }

        @Override
        protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
                throws ServletException, IOException {
            if (hasBearer(request)) {
                var token = request.getHeader(HttpHeaders.AUTHORIZATION).substring(BEARER.length());
                administrators.bearer(token).ifPresent(administrator -> {
                    var context = SecurityContextHolder.createEmptyContext();
                    context.setAuthentication(
                            UsernamePasswordAuthenticationToken.authenticated(administrator.login(), null, List.of()));
                    SecurityContextHolder.setContext(context);
                });
            }
            chain.doFilter(request, response);
        }
    }
}
