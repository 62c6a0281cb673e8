package dev.entente.service.access;

import dev.entente.service.access.Sessions.Kind;
import dev.entente.service.access.Sessions.SignedIn;
import dev.entente.service.platform.AnyCall;
import dev.entente.service.platform.Problem;
import jakarta.servlet.DispatcherType;
import jakarta.servlet.FilterChain;
import jakarta.servlet.ServletException;
import jakarta.servlet.http.Cookie;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.core.annotation.Order;
import org.springframework.http.HttpHeaders;
import org.springframework.security.authentication.UsernamePasswordAuthenticationToken;
import org.springframework.security.config.annotation.web.builders.HttpSecurity;
import org.springframework.security.config.http.SessionCreationPolicy;
import org.springframework.security.config.observation.SecurityObservationSettings;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.security.core.userdetails.UserDetailsService;
import org.springframework.security.core.userdetails.UsernameNotFoundException;
import org.springframework.security.web.SecurityFilterChain;
import org.springframework.security.web.access.intercept.AuthorizationFilter;
import org.springframework.web.filter.OncePerRequestFilter;

/** Who may call what. People and stewards prove themselves to their own endpoints; administrators to all others. */
@Configuration
class SecurityConfiguration {
    private static final String BEARER = "Bearer ";

    /** Where people, stewards, gateways and phones prove themselves in their own ways. */
    private static final List<String> OTHERS =
            List.of("/api/v1/portal/", "/api/v1/steward/", "/api/v1/gateways/", "/api/v1/devices/");

    @Bean
    @Order(1)
    SecurityFilterChain peopleAndStewards(HttpSecurity http) throws Exception {
        // Everybody may call these, and nobody is signed in: what is left of the chain sets headers.
        return http.securityMatcher(OTHERS.stream().map(path -> path + "**").toArray(String[]::new))
                // The portal's cookie is SameSite=Strict, and PortalRequests looks at where a call comes from.
                .csrf(csrf -> csrf.disable())
                .sessionManagement(sessions -> sessions.disable())
                .securityContext(context -> context.disable())
                .anonymous(anonymous -> anonymous.disable())
                .servletApi(servlet -> servlet.disable())
                .logout(logout -> logout.disable())
                .exceptionHandling(handling -> handling.disable())
                .requestCache(cache -> cache.disable())
                .build();
    }

    @Bean
    @Order(2)
    SecurityFilterChain administration(HttpSecurity http, Sessions sessions, RepeatedCalls repeated) throws Exception {
        return http.securityMatcher("/api/**")
                // What was worked out on another thread was let in when it was asked for.
                .authorizeHttpRequests(requests -> requests.dispatcherTypeMatchers(DispatcherType.ASYNC)
                        .permitAll()
                        .requestMatchers(
                                "/api/v1/tokens",
                                "/api/v1/first-administrator",
                                "/api/v1/openapi.json",
                                "/api/v1/outlet-keys",
                                "/api/v1/event-streams/*",
                                "/api/v1/session")
                        .permitAll()
                        .anyRequest()
                        .authenticated())
                .csrf(csrf -> csrf.spa()
                        .ignoringRequestMatchers(
                                "/api/v1/tokens", "/api/v1/first-administrator", "/api/v1/event-streams/*")
                        .ignoringRequestMatchers(SecurityConfiguration::hasBearer))
                .sessionManagement(management -> management.sessionCreationPolicy(SessionCreationPolicy.STATELESS))
                .addFilterBefore(new SessionFilter(sessions), AuthorizationFilter.class)
                .addFilterAfter(repeated.filter(), AuthorizationFilter.class)
                .requestCache(cache -> cache.disable())
                .logout(logout -> logout.disable())
                .exceptionHandling(handling -> handling.authenticationEntryPoint((request, response, e) ->
                                Problem.of("signed-out").answer(response))
                        .accessDeniedHandler((request, response, e) ->
                                Problem.of("not-allowed").answer(response)))
                .build();
    }

    @Bean
    AnyCall anyCallOfAdministrators() {
        return new AnyCall(
                "AnyCallOfAdministrators",
                path -> OTHERS.stream().noneMatch(path::startsWith),
                Stream.concat(
                                AnyCall.EVERYWHERE.stream(),
                                Stream.of(
                                        "signed-out",
                                        "not-allowed",
                                        "second-factor-needed",
                                        "not-for-staff",
                                        "confirm",
                                        "idempotency-key",
                                        "idempotency-key-reused",
                                        "idempotency-key-in-use",
                                        "idempotency-outcome-unknown"))
                        .toList());
    }

    /** Who calls now; null for nobody. */
    static SignedIn signedIn() {
        var authentication = SecurityContextHolder.getContext().getAuthentication();
        return authentication != null && authentication.getDetails() instanceof SignedIn who ? who : null;
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

    private static boolean hasBearer(HttpServletRequest request) {
        var header = request.getHeader(HttpHeaders.AUTHORIZATION);
        return header != null && header.startsWith(BEARER);
    }

    /** Finds out who calls, by the token of the command line or the cookie of the console; {@link Guards} says what they may. */
    private static final class SessionFilter extends OncePerRequestFilter {
        private final Sessions sessions;

        SessionFilter(Sessions sessions) {
            this.sessions = sessions;
        }

        @Override
        protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
                throws ServletException, IOException {
            var who = who(request).orElse(null);
            if (who != null) {
                var authentication = UsernamePasswordAuthenticationToken.authenticated(who.login(), null, List.of());
                authentication.setDetails(who);
                var context = SecurityContextHolder.createEmptyContext();
                context.setAuthentication(authentication);
                SecurityContextHolder.setContext(context);
            }
            chain.doFilter(request, response);
        }

        private Optional<SignedIn> who(HttpServletRequest request) {
            if (hasBearer(request)) {
                return sessions.find(
                        request.getHeader(HttpHeaders.AUTHORIZATION).substring(BEARER.length()), Kind.COMMAND_LINE);
            }
            var cookies = request.getCookies();
            for (var cookie : cookies == null ? new Cookie[0] : cookies) {
                if (cookie.getName().equals(AccessController.SESSION)) {
                    return sessions.find(cookie.getValue(), Kind.CONSOLE);
                }
            }
            return Optional.empty();
        }
    }
}
