package dev.entente.service.access;

import dev.entente.service.platform.ForOneself;
import dev.entente.service.platform.ForStaff;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Unconfirmed;
import dev.entente.wire.AccessApi;
import jakarta.servlet.DispatcherType;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.lang.annotation.Annotation;
import java.time.InstantSource;
import java.util.Set;
import org.springframework.context.annotation.Configuration;
import org.springframework.web.method.HandlerMethod;
import org.springframework.web.servlet.HandlerInterceptor;
import org.springframework.web.servlet.config.annotation.InterceptorRegistry;
import org.springframework.web.servlet.config.annotation.WebMvcConfigurer;

/**
 * Decides which calls a signed-in administrator may make, by the handler and not by the address, which can be written in several ways.
 * Staff may make the calls {@linkplain ForStaff for staff} and those {@linkplain ForOneself about themselves}; an administrator who must
 * first set up a second factor only the latter. A call that changes something asks for the second factor again unless it is marked
 * {@linkplain Unconfirmed harmless}.
 */
@Configuration
class Guards implements WebMvcConfigurer, HandlerInterceptor {
    private static final Set<String> READING = Set.of("GET", "HEAD", "OPTIONS");

    private final SignIns signIns;
    private final InstantSource clock;

    Guards(SignIns signIns, InstantSource clock) {
        this.signIns = signIns;
        this.clock = clock;
    }

    @Override
    public void addInterceptors(InterceptorRegistry registry) {
        registry.addInterceptor(this).addPathPatterns("/api/**");
    }

    /** @throws Problem 403 that says what is in the way */
    @Override
    public boolean preHandle(HttpServletRequest request, HttpServletResponse response, Object handler) {
        var who = SecurityConfiguration.signedIn();
        // What was worked out on another thread was let in when it was asked for.
        if (who == null
                || request.getDispatcherType() != DispatcherType.REQUEST
                || !(handler instanceof HandlerMethod method)) {
            return true;
        }
        var own = declared(method, ForOneself.class);
        if (who.setUpFirst() && !own) {
            throw Problem.of("second-factor-needed");
        }
        if (AccessApi.STAFF.equals(who.role()) && !own && !declared(method, ForStaff.class)) {
            throw Problem.of("not-for-staff");
        }
        if (!who.setUpFirst()
                && !READING.contains(request.getMethod())
                && !declared(method, Unconfirmed.class)
                && !signIns.fresh(who, clock.instant())) {
            throw Problem.of("confirm");
        }
        return true;
    }

    private static boolean declared(HandlerMethod method, Class<? extends Annotation> as) {
        return method.hasMethodAnnotation(as) || method.getBeanType().isAnnotationPresent(as);
    }
}
