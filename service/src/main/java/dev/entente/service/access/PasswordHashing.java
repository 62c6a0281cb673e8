package dev.entente.service.access;

import dev.entente.service.platform.Problem;
import jakarta.annotation.PreDestroy;
import java.util.EnumMap;
import java.util.Map;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.RejectedExecutionException;
import java.util.concurrent.ThreadPoolExecutor;
import java.util.concurrent.TimeUnit;
import java.util.function.Supplier;
import org.springframework.security.crypto.argon2.Argon2PasswordEncoder;
import org.springframework.stereotype.Component;
import org.springframework.util.function.SingletonSupplier;
import org.springframework.web.context.request.async.DeferredResult;

/**
 * Argon2id, two at once: each takes memory and a core for a while. Whoever waits, waits in a bounded queue and not on a
 * thread that serves requests, so that a flood of sign-ins holds nothing else up. Administrators who are signed in or use a
 * known browser have a queue of their own, so that strangers only delay strangers.
 */
@Component
class PasswordHashing {
    /** The two queues. */
    enum Lane {
        KNOWN,
        STRANGERS
    }

    private static final int WAITING = 60;

    private final Argon2PasswordEncoder argon2 = Argon2PasswordEncoder.defaultsForSpringSecurity_v5_8();
    private final Supplier<String> nobody = SingletonSupplier.of(() -> argon2.encode("nobody has this password"));
    private final Map<Lane, ThreadPoolExecutor> working = new EnumMap<>(Map.of(
            Lane.KNOWN, lane(),
            Lane.STRANGERS, lane()));

    private static ThreadPoolExecutor lane() {
        return new ThreadPoolExecutor(1, 1, 0, TimeUnit.SECONDS, new ArrayBlockingQueue<>(WAITING));
    }

    /**
     * Does work that hashes, and answers when it is done.
     *
     * @throws Problem 503 if too many wait in this lane
     */
    <T> DeferredResult<T> answer(Lane lane, Supplier<T> work) {
        var answer = new DeferredResult<T>(60_000L);
        try {
            working.get(lane).execute(() -> {
                try {
                    answer.setResult(work.get());
                } catch (RuntimeException e) {
                    answer.setErrorResult(e);
                }
            });
        } catch (RejectedExecutionException e) {
            throw Problem.of("busy").with("retryAfter", 30);
        }
        return answer;
    }

    String hash(String password) {
        return argon2.encode(password);
    }

    /** @param hash null for nobody, which takes the same time */
    boolean matches(String password, String hash) {
        // Made at the first question, whoever it is about.
        var other = nobody.get();
        return argon2.matches(password, hash == null ? other : hash) && hash != null;
    }

    @PreDestroy
    void stop() {
        working.values().forEach(ThreadPoolExecutor::shutdown);
    }
}
