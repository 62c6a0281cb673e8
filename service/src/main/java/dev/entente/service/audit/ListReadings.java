package dev.entente.service.audit;

import dev.entente.service.platform.Reads;
import dev.entente.wire.Page;
import dev.entente.wire.RecordApi;
import java.nio.charset.StandardCharsets;
import java.util.Collection;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.springframework.core.MethodParameter;
import org.springframework.http.MediaType;
import org.springframework.http.converter.HttpMessageConverter;
import org.springframework.http.server.ServerHttpRequest;
import org.springframework.http.server.ServerHttpResponse;
import org.springframework.security.core.context.SecurityContextHolder;
import org.springframework.web.bind.annotation.RestControllerAdvice;
import org.springframework.web.servlet.mvc.method.annotation.ResponseBodyAdvice;
import org.springframework.web.util.UriComponentsBuilder;
import org.springframework.web.util.UriUtils;

/** Puts on record that an administrator read a list that names people, before they get it. */
@RestControllerAdvice
class ListReadings implements ResponseBodyAdvice<Object> {
    /** Where in it is read, which isn't what is asked for. */
    private static final Set<String> WHERE = Set.of("after", "limit", "from", "positions");

    private final Readings readings;

    ListReadings(Readings readings) {
        this.readings = readings;
    }

    @Override
    public boolean supports(MethodParameter returned, Class<? extends HttpMessageConverter<?>> converter) {
        return returned.hasMethodAnnotation(Reads.class);
    }

    @Override
    public Object beforeBodyWrite(
            Object body,
            MethodParameter returned,
            MediaType type,
            Class<? extends HttpMessageConverter<?>> converter,
            ServerHttpRequest request,
            ServerHttpResponse response) {
        var many = many(body);
        var who = SecurityContextHolder.getContext().getAuthentication();
        if (many > 0 && who != null) {
            readings.ofList(
                    who.getName(), returned.getMethodAnnotation(Reads.class).value(), asked(request), many);
        }
        return body;
    }

    private static int many(Object body) {
        if (body instanceof Page<?> page) {
            return page.items().size();
        }
        if (body instanceof Collection<?> all) {
            return all.size();
        }
        if (body instanceof RecordApi.SealedPart part) {
            return part.events().size();
        }
        return body instanceof RecordApi.AttemptProofs of ? of.proofs().size() : body == null ? 0 : 1;
    }

    private static String asked(ServerHttpRequest request) {
        return UriComponentsBuilder.fromUri(request.getURI()).build().getQueryParams().entrySet().stream()
                .filter(parameter -> !WHERE.contains(parameter.getKey()))
                .sorted(Map.Entry.comparingByKey())
                .map(parameter -> parameter.getKey() + " "
                        + parameter.getValue().stream()
                                .map(ListReadings::decoded)
                                .collect(Collectors.joining(" ")))
                .collect(Collectors.joining(", "));
    }

    private static String decoded(String value) {
        return value == null ? "" : UriUtils.decode(value, StandardCharsets.UTF_8);
    }
}
