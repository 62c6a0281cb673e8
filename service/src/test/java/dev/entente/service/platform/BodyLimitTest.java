package dev.entente.service.platform;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import java.util.concurrent.atomic.AtomicBoolean;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What is too long, or of no length, is refused before anything reads it. */
class BodyLimitTest {
    @ParameterizedTest(name = "{1} bytes for {0}, sent {2}: taken {3}")
    @CsvSource({
        "/api/v1/portal/attempt, 1048576, whole, true",
        "/api/v1/portal/attempt, 1048577, whole, false",
        "/api/v1/portal/attempt, -1, chunked, false",
        "/api/v1/drafts, 4194304, whole, true",
        "/api/v1/drafts, 4194305, whole, false",
        "/api/v1/drafts, -1, whole, true",
        "/api/v1/steward/batches, -1, chunked, false",
    })
    void a_body_is_taken_up_to_its_limit(String path, long length, String how, boolean taken) throws Exception {
        var call = new Call(
                path,
                "127.0.0.1",
                length,
                how.equals("chunked") ? Map.of("Transfer-Encoding", List.of("chunked")) : Map.of());
        var passed = new AtomicBoolean();
        new BodyLimit().doFilterInternal(call.request(), call.response(), (request, response) -> passed.set(true));
        assertThat(passed.get()).isEqualTo(taken);
        if (!taken) {
            assertThat(call.status).isEqualTo(413);
            assertThat(call.contentType).isEqualTo("application/problem+json;charset=UTF-8");
            assertThat(call.body.toString()).contains("urn:entente:problem:too-large", "too long");
        }
    }
}
