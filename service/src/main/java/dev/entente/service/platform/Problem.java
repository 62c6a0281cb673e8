package dev.entente.service.platform;

import java.net.URI;
import java.util.Map;
import java.util.Optional;
import org.springframework.http.HttpStatus;
import org.springframework.http.ProblemDetail;

/** An answer that is an error (RFC 9457). The detail is a sentence that says what to do and holds no secret. */
public final class Problem extends RuntimeException {
    private final HttpStatus status;
    private final String type;
    private final Map<String, Object> more;

    private Problem(HttpStatus status, String type, String detail, Map<String, Object> more) {
        super(detail);
        this.status = status;
        this.type = type;
        this.more = more;
    }

    /** @param type the last part of the stable type, such as {@code code-wrong}; docs/problems.md lists all of them */
    public static Problem of(HttpStatus status, String type, String detail) {
        return new Problem(status, type, detail, Map.of());
    }

    /** With members of its own. */
    public static Problem of(HttpStatus status, String type, String detail, Map<String, Object> more) {
        return new Problem(status, type, detail, more);
    }

    /**
     * Something that isn't there: of the type {@code THING-not-found}.
     *
     * @param thing what it is, such as {@code planned-change}
     * @param which which of them, such as {@code with this id}; the sentence's end without its dot
     */
    public static Problem missing(String thing, String which) {
        return of(
                HttpStatus.NOT_FOUND,
                thing + "-not-found",
                "There is no " + thing.replace('-', ' ') + " " + which + ".");
    }

    /** Something that was asked for wrongly. */
    public static Problem invalid(String type, String detail) {
        return of(HttpStatus.UNPROCESSABLE_CONTENT, type, detail);
    }

    /** Something that doesn't fit what is there now. */
    public static Problem conflict(String type, String detail) {
        return of(HttpStatus.CONFLICT, type, detail);
    }

    static URI type(String name) {
        return URI.create("urn:entente:problem:" + name);
    }

    /** The document that is sent. */
    ProblemDetail document() {
        var document = ProblemDetail.forStatusAndDetail(status, getMessage());
        document.setType(type(type));
        document.setTitle(status.getReasonPhrase());
        more.forEach(document::setProperty);
        return document;
    }

    /** Seconds to wait before trying again, if it says so. */
    Optional<String> retryAfter() {
        return Optional.ofNullable(more.get("retryAfter")).map(Object::toString);
    }

    /** The status. */
    public HttpStatus status() {
        return status;
    }
}
