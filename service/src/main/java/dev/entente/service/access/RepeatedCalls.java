package dev.entente.service.access;

import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.Sql;
import jakarta.servlet.FilterChain;
import jakarta.servlet.ReadListener;
import jakarta.servlet.ServletException;
import jakarta.servlet.ServletInputStream;
import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletRequestWrapper;
import jakarta.servlet.http.HttpServletResponse;
import java.io.BufferedReader;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.InputStreamReader;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Objects;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.support.TransactionTemplate;
import org.springframework.web.filter.OncePerRequestFilter;
import org.springframework.web.util.ContentCachingResponseWrapper;

/**
 * What creates something may be asked for again under the same {@code Idempotency-Key}, such as after an answer that got lost: it
 * is done once, and the first answer is given again (draft-ietf-httpapi-idempotency-key-header). Answers are kept for a day,
 * encrypted, for one may hold a join code. A call that ended in the service's own fault can be repeated.
 */
@Component
class RepeatedCalls {
    static final String HEADER = "Idempotency-Key";
    private static final String RUNNING = RepeatedCalls.class.getName();
    private static final int LONGEST_KEY = 128;
    private static final int LONGEST_ANSWER = 1 << 20;
    private static final Duration KEPT = Duration.ofDays(1);
    /** Longer than any call takes. */
    private static final Duration ANSWERED = Duration.ofMinutes(2);

    private final Session database;
    private final KeyRing keys;
    private final TransactionTemplate transaction;
    private final InstantSource clock;

    RepeatedCalls(Session database, KeyRing keys, TransactionTemplate transaction, InstantSource clock) {
        this.database = database;
        this.keys = keys;
        this.transaction = transaction;
        this.clock = clock;
    }

    private record Call(UUID administrator, byte[] key, byte[] fingerprint) {}

    /** A call that is carried out, for as long as its request lives. */
    private record Running(Call call, ContentCachingResponseWrapper answer) {}

    private record Answer(byte[] fingerprint, Instant madeAt, Integer status, String contentType, byte[] body) {}

    /** To be passed once it is known who calls. */
    OncePerRequestFilter filter() {
        return new OncePerRequestFilter() {
            @Override
            protected boolean shouldNotFilter(HttpServletRequest request) {
                return !request.getMethod().equals("POST") || request.getHeader(HEADER) == null;
            }

            /** What is worked out on another thread, such as the hash of a password, is answered by a dispatch of its own. */
            @Override
            protected boolean shouldNotFilterAsyncDispatch() {
                return false;
            }

            @Override
            protected void doFilterInternal(HttpServletRequest request, HttpServletResponse response, FilterChain chain)
                    throws ServletException, IOException {
                var who = SecurityConfiguration.signedIn();
                if (request.getAttribute(RUNNING) instanceof Running running) {
                    carryOut(running, request, chain);
                } else if (who == null) {
                    chain.doFilter(request, response);
                } else {
                    once(who.administrator(), request, response, chain);
                }
            }
        };
    }

    private void once(UUID who, HttpServletRequest request, HttpServletResponse response, FilterChain chain)
            throws ServletException, IOException {
        var key = request.getHeader(HEADER);
        if (key.isBlank() || key.length() > LONGEST_KEY) {
            Problem.of("idempotency-key").answer(response);
            return;
        }
        var body = request.getInputStream().readAllBytes();
        var call = new Call(
                who,
                keys.blind("idempotency", key),
                digest(request.getRequestURI() + "?" + Objects.requireNonNullElse(request.getQueryString(), ""), body));
        var before = Boolean.TRUE.equals(transaction.execute(status -> begin(call))) ? null : found(call);
        if (before != null) {
            again(call, before, response);
            return;
        }
        var running = new Running(call, new ContentCachingResponseWrapper(response));
        request.setAttribute(RUNNING, running);
        carryOut(running, new Repeatable(request, body), chain);
    }

    private void carryOut(Running running, HttpServletRequest request, FilterChain chain)
            throws ServletException, IOException {
        var answer = running.answer();
        var answered = false;
        try {
            chain.doFilter(request, answer);
            // What was refused to who called did nothing, and may be asked again once they have confirmed it.
            answered =
                    answer.getStatus() < 500 && answer.getStatus() != 403 && answer.getContentSize() <= LONGEST_ANSWER;
        } finally {
            if (!request.isAsyncStarted()) {
                end(running.call(), answered ? answer : null);
                answer.copyBodyToResponse();
            }
        }
    }

    /** Whether this is the first call of its key. */
    private boolean begin(Call call) {
        return Sql.change(database, """
                        INSERT INTO repeated_call (administrator, key_hash, fingerprint, made_at)
                        VALUES (:administrator, :key, :fingerprint, :now) ON CONFLICT DO NOTHING""")
                        .setParameter("administrator", call.administrator())
                        .setParameter("key", call.key())
                        .setParameter("fingerprint", call.fingerprint())
                        .setParameter("now", clock.instant())
                        .executeUpdate()
                == 1;
    }

    private Answer found(Call call) {
        return transaction.execute(status -> Sql.rows(database, """
                        SELECT fingerprint, made_at, status, content_type, body FROM repeated_call
                        WHERE administrator = :administrator AND key_hash = :key""", Answer.class)
                .setParameter("administrator", call.administrator())
                .setParameter("key", call.key())
                .getResultStream()
                .findFirst()
                // It ended in a fault this very moment.
                .orElseGet(() -> new Answer(call.fingerprint(), clock.instant(), null, null, null)));
    }

    private void again(Call call, Answer before, HttpServletResponse response) throws IOException {
        if (!MessageDigest.isEqual(call.fingerprint(), before.fingerprint())) {
            Problem.of("idempotency-key-reused").answer(response);
        } else if (before.status() != null) {
            response.setStatus(before.status());
            if (before.body() != null) {
                response.setContentType(before.contentType());
                response.getOutputStream()
                        .write(keys.decrypt(about(call), before.body()).getBytes(StandardCharsets.UTF_8));
            }
        } else if (before.madeAt().isAfter(clock.instant().minus(ANSWERED))) {
            response.setHeader("Retry-After", "2");
            Problem.of("idempotency-key-in-use").answer(response);
        } else {
            Problem.of("idempotency-outcome-unknown").answer(response);
        }
    }

    private void end(Call call, ContentCachingResponseWrapper answer) {
        transaction.executeWithoutResult(status -> {
            if (answer == null) {
                Sql.change(
                                database,
                                "DELETE FROM repeated_call WHERE administrator = :administrator AND key_hash = :key")
                        .setParameter("administrator", call.administrator())
                        .setParameter("key", call.key())
                        .executeUpdate();
                return;
            }
            var body = answer.getContentAsByteArray();
            Sql.change(database, """
                            UPDATE repeated_call SET status = :status, content_type = :type, body = :body
                            WHERE administrator = :administrator AND key_hash = :key""")
                    .setParameter("status", answer.getStatus())
                    .setParameter("type", answer.getContentType())
                    .setParameter(
                            "body",
                            body.length == 0
                                    ? null
                                    : keys.encrypt(about(call), new String(body, StandardCharsets.UTF_8)))
                    .setParameter("administrator", call.administrator())
                    .setParameter("key", call.key())
                    .executeUpdate();
        });
    }

    private static String about(Call call) {
        return "repeated call of " + call.administrator();
    }

    @Scheduled(fixedDelay = 600_000)
    void forget() {
        transaction.executeWithoutResult(
                status -> Sql.change(database, "DELETE FROM repeated_call WHERE made_at < :before")
                        .setParameter("before", clock.instant().minus(KEPT))
                        .executeUpdate());
    }

    private static byte[] digest(String address, byte[] body) {
        try {
            var digest = MessageDigest.getInstance("SHA-256");
            digest.update(address.getBytes(StandardCharsets.UTF_8));
            digest.update((byte) 0);
            return digest.digest(body);
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }

    /** A request whose body was read already. */
    private static final class Repeatable extends HttpServletRequestWrapper {
        private final byte[] body;

        Repeatable(HttpServletRequest request, byte[] body) {
            super(request);
            this.body = body;
        }

        @Override
        public ServletInputStream getInputStream() {
            var in = new ByteArrayInputStream(body);
            return new ServletInputStream() {
                @Override
                public boolean isFinished() {
                    return in.available() == 0;
                }

                @Override
                public boolean isReady() {
                    return true;
                }

                @Override
                public void setReadListener(ReadListener listener) {
                    throw new UnsupportedOperationException();
                }

                @Override
                public int read() {
                    return in.read();
                }
            };
        }

        @Override
        public BufferedReader getReader() {
            return new BufferedReader(new InputStreamReader(getInputStream(), StandardCharsets.UTF_8));
        }
    }
}
