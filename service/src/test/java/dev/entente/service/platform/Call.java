package dev.entente.service.platform;

import jakarta.servlet.http.HttpServletRequest;
import jakarta.servlet.http.HttpServletResponse;
import java.io.PrintWriter;
import java.io.StringWriter;
import java.lang.reflect.Proxy;
import java.util.Collections;
import java.util.List;
import java.util.Map;

/** A request and what is answered, as far as filters look at them. */
final class Call {
    final StringWriter body = new StringWriter();
    int status = 200;
    String contentType;
    private final String path;
    private final String from;
    private final long length;
    private final Map<String, List<String>> headers;

    Call(String path, String from, long length, Map<String, List<String>> headers) {
        this.path = path;
        this.from = from;
        this.length = length;
        this.headers = headers;
    }

    HttpServletRequest request() {
        return (HttpServletRequest) Proxy.newProxyInstance(
                Call.class.getClassLoader(),
                new Class<?>[] {HttpServletRequest.class},
                (proxy, method, arguments) -> switch (method.getName()) {
                    case "getRequestURI" -> path;
                    case "getRemoteAddr" -> from;
                    case "getContentLengthLong" -> length;
                    case "getHeader" ->
                        headers.getOrDefault(arguments[0], List.of()).stream()
                                .findFirst()
                                .orElse(null);
                    case "getHeaders" -> Collections.enumeration(headers.getOrDefault(arguments[0], List.of()));
                    default -> throw new UnsupportedOperationException(method.getName());
                });
    }

    HttpServletResponse response() {
        return (HttpServletResponse) Proxy.newProxyInstance(
                Call.class.getClassLoader(), new Class<?>[] {HttpServletResponse.class}, (proxy, method, arguments) -> {
                    switch (method.getName()) {
                        case "setStatus" -> status = (Integer) arguments[0];
                        case "setContentType" -> contentType = (String) arguments[0];
                        case "getWriter" -> {
                            return new PrintWriter(body, true);
                        }
                        default -> throw new UnsupportedOperationException(method.getName());
                    }
                    return null;
                });
    }
}
