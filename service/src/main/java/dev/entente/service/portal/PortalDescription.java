package dev.entente.service.portal;

import dev.entente.service.platform.AnyCall;
import dev.entente.wire.AttemptAct;
import io.swagger.v3.oas.models.PathItem;
import io.swagger.v3.oas.models.media.StringSchema;
import io.swagger.v3.oas.models.parameters.Parameter;
import java.util.stream.Stream;
import org.springdoc.core.customizers.OpenApiCustomizer;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** What the description of the API says of every call that the portal's pages make. */
@Configuration
class PortalDescription {
    private static final String PATHS = "/api/v1/portal/";
    private static final String ATTEMPT = PATHS + "attempt";

    @Bean
    AnyCall anyCallOfPages() {
        return new AnyCall("AnyCallOfPages", PortalDescription::other, anyPage().toList());
    }

    @Bean
    AnyCall anyCallOnAnAttempt() {
        return new AnyCall(
                "AnyCallOnAnAttempt",
                PortalDescription::onAttempt,
                Stream.concat(anyPage(), Stream.of("act-not-signed", "attempt-elsewhere", "attempt-gone"))
                        .toList());
    }

    private static Stream<String> anyPage() {
        return Stream.concat(AnyCall.EVERYWHERE.stream(), Stream.of("from-elsewhere"));
    }

    private static boolean onAttempt(String path) {
        return path.equals(ATTEMPT) || path.startsWith(ATTEMPT + "/");
    }

    private static boolean other(String path) {
        return path.startsWith(PATHS) && !onAttempt(path);
    }

    /** The page signs each call on its attempt; one that only asks whether there is any may have no key yet. */
    @Bean
    OpenApiCustomizer signedCalls() {
        return described -> described.getPaths().forEach((path, calls) -> {
            if (onAttempt(path)) {
                calls.readOperationsMap().forEach((method, call) -> {
                    if (call.getParameters() != null) {
                        call.getParameters().removeIf(parameter -> AttemptAct.HEADER.equals(parameter.getName()));
                    }
                    call.addParametersItem(new Parameter()
                            .in("header")
                            .name(AttemptAct.HEADER)
                            .required(!(method == PathItem.HttpMethod.GET && path.equals(ATTEMPT)))
                            .description("this very call, signed by the attempt's key: docs/protocol.md")
                            .schema(new StringSchema()));
                });
            }
        });
    }
}
