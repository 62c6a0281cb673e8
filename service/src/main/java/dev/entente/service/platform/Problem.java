package dev.entente.service.platform;

import dev.entente.core.problem.ProblemCatalogue;
import dev.entente.core.problem.ProblemKind;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.net.URI;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.http.ProblemDetail;
import tools.jackson.databind.json.JsonMapper;

/**
 * An answer that is an error (RFC 9457), of a kind that {@link ProblemCatalogue} knows. The detail is a sentence that says what to do and
 * holds no secret.
 */
public final class Problem extends RuntimeException {
    private static final JsonMapper JSON = JsonMapper.shared();

    private final transient ProblemKind kind;
    private final transient Map<String, Object> values = new LinkedHashMap<>();

    private Problem(ProblemKind kind) {
        this.kind = kind;
    }

    /**
     * One of a kind.
     *
     * @param key as the catalogue has it, such as {@code code-wrong}
     */
    public static Problem of(String key) {
        return new Problem(ProblemCatalogue.find(key)
                .orElseThrow(() -> new IllegalArgumentException("there is no problem " + key)));
    }

    /** One that others gave a name, or another where the catalogue has none with it. */
    public static Problem named(String key, String otherwise) {
        return of(ProblemCatalogue.find(key).isPresent() ? key : otherwise);
    }

    /** The same with what is filled in, or a member of its document; null leaves it out. */
    public Problem with(String name, Object value) {
        if (!kind.named().contains(name)) {
            throw new IllegalArgumentException("the problem " + kind.key() + " says nothing of " + name);
        }
        values.put(name, value);
        return this;
    }

    @Override
    public String getMessage() {
        return kind.words(values, "en");
    }

    static URI type(String name) {
        return URI.create("urn:entente:problem:" + name);
    }

    /** The document that is sent. */
    ProblemDetail document() {
        var document = ProblemDetail.forStatusAndDetail(status(), getMessage());
        document.setType(type(kind.type()));
        document.setTitle(status().getReasonPhrase());
        kind.members().forEach(member -> {
            if (values.get(member) != null) {
                document.setProperty(member, values.get(member));
            }
        });
        return document;
    }

    /** Answers with it where no controller does. */
    public void answer(HttpServletResponse response) throws IOException {
        response.setStatus(kind.status());
        response.setContentType(MediaType.APPLICATION_PROBLEM_JSON_VALUE + ";charset=UTF-8");
        var document = new LinkedHashMap<String, Object>();
        document.put("type", type(kind.type()).toString());
        document.put("title", status().getReasonPhrase());
        document.put("status", kind.status());
        document.put("detail", getMessage());
        response.getWriter().write(JSON.writeValueAsString(document));
    }

    /** Seconds to wait before trying again, if it says so. */
    Optional<String> retryAfter() {
        return Optional.ofNullable(values.get("retryAfter")).map(Object::toString);
    }

    /** The status. */
    public HttpStatus status() {
        return HttpStatus.valueOf(kind.status());
    }
}
