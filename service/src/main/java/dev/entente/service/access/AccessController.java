package dev.entente.service.access;

import dev.entente.service.platform.ClientNetwork;
import dev.entente.service.platform.Problem;
import dev.entente.wire.AdminApi;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.net.InetAddress;
import java.net.UnknownHostException;
import java.util.List;
import org.springframework.http.HttpStatus;
import org.springframework.security.authentication.UsernamePasswordAuthenticationToken;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.security.web.context.HttpSessionSecurityContextRepository;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** Signing in and out. */
@RestController
@RequestMapping("/api/v1")
class AccessController {
    private final Administrators administrators;
    private final FirstStart firstStart;
    private final ClientNetwork networks;
    private final HttpSessionSecurityContextRepository sessions = new HttpSessionSecurityContextRepository();

    AccessController(Administrators administrators, FirstStart firstStart, ClientNetwork networks) {
        this.administrators = administrators;
        this.firstStart = firstStart;
        this.networks = networks;
    }

    /** Starts a session for the console. */
    @PostMapping("/session")
    AdminApi.Administrator signIn(
            @RequestBody AdminApi.SignIn signIn, HttpServletRequest request, HttpServletResponse response) {
        var administrator = administrators.signIn(signIn, networks.of(request));
        if (request.getSession(false) != null) {
            request.changeSessionId();
        }
        var context = SecurityContextHolder.createEmptyContext();
        context.setAuthentication(
                UsernamePasswordAuthenticationToken.authenticated(administrator.login(), null, List.of()));
        SecurityContextHolder.setContext(context);
        sessions.saveContext(context, request, response);
        return administrator;
    }

    /** Who is signed in. */
    @GetMapping("/session")
    AdminApi.Administrator session(@AuthenticationPrincipal String login) {
        return new AdminApi.Administrator(login, login);
    }

    /** Ends the session. */
    @DeleteMapping("/session")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void signOut(HttpServletRequest request) {
        if (request.getSession(false) != null) {
            request.getSession(false).invalidate();
        }
    }

    /** Everybody who administers. */
    @GetMapping("/administrators")
    List<AdminApi.Administrator> all() {
        return administrators.all();
    }

    /** Makes another administrator. */
    @PostMapping("/administrators")
    @ResponseStatus(HttpStatus.CREATED)
    AdminApi.Administrator add(@RequestBody AdminApi.NewAdministrator wanted, @AuthenticationPrincipal String by) {
        return administrators.add(wanted, by);
    }

    /** Makes a token for the command line. */
    @PostMapping("/tokens")
    AdminApi.Token token(@RequestBody AdminApi.SignIn signIn, HttpServletRequest request) {
        return administrators.token(administrators.signIn(signIn, networks.of(request)));
    }

    /** Makes the first administrator, from the service's own machine only. */
    @PostMapping("/first-administrator")
    @ResponseStatus(HttpStatus.CREATED)
    AdminApi.Administrator first(@RequestBody AdminApi.FirstAdministrator wanted, HttpServletRequest request)
            throws UnknownHostException {
        if (!InetAddress.getByName(networks.of(request)).isLoopbackAddress()) {
            throw Problem.of(
                    HttpStatus.FORBIDDEN,
                    "loopback-only",
                    "The first administrator is made from the machine that the service runs on.");
        }
        if (!firstStart.redeem(wanted.token())) {
            throw Problem.of(
                    HttpStatus.FORBIDDEN,
                    "link-expired",
                    "This link was used or is too old. Restart the service to get a new one.");
        }
        try {
            return administrators.first(wanted);
        } catch (Problem problem) {
            firstStart.giveBack(wanted.token());
            throw problem;
        }
    }
}
