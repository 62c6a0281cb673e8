package dev.entente.service.platform;

import dev.entente.core.verify.Method;
import dev.entente.wire.MethodName;
import dev.entente.wire.OneOf;
import io.swagger.v3.oas.models.OpenAPI;
import io.swagger.v3.oas.models.info.Info;
import io.swagger.v3.oas.models.info.License;
import io.swagger.v3.oas.models.media.Schema;
import io.swagger.v3.oas.models.servers.Server;
import java.lang.annotation.Annotation;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import org.springdoc.core.customizers.ParameterCustomizer;
import org.springdoc.core.customizers.PropertyCustomizer;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;

/** How the API describes itself; the same wherever it runs. */
@Configuration
class ApiDescription {
    @Bean
    OpenAPI description() {
        return new OpenAPI()
                .info(new Info()
                        .title("Entente")
                        .version("1")
                        .description("Errors are problem documents (RFC 9457). Times are RFC 3339, in UTC.")
                        .license(new License().name("Apache-2.0")))
                .servers(List.of(new Server().url("/")));
    }

    /** Which values a field can have, as {@link OneOf} says. */
    @Bean
    PropertyCustomizer valuesOfFields() {
        return (property, type) -> {
            if (property != null && type.getCtxAnnotations() != null) {
                Arrays.stream(type.getCtxAnnotations()).forEach(said -> limit(property, said));
            }
            return property;
        };
    }

    /** The same for parameters of a query. */
    @Bean
    ParameterCustomizer valuesOfParameters() {
        return (parameter, method) -> {
            if (parameter != null) {
                Arrays.stream(method.getParameterAnnotations()).forEach(said -> limit(parameter.getSchema(), said));
            }
            return parameter;
        };
    }

    @SuppressWarnings("unchecked")
    private static void limit(Schema<?> schema, Annotation said) {
        var values = new ArrayList<Object>();
        if (said instanceof MethodName) {
            Method.known().forEach(method -> values.add(method.label()));
        } else if (said instanceof OneOf one) {
            values.addAll(List.of(one.named()));
            for (var enumeration : one.value()) {
                for (var constant : enumeration.getEnumConstants()) {
                    values.add(constant.name().toLowerCase(Locale.ROOT).replace('_', '-'));
                }
            }
        }
        if (!values.isEmpty()) {
            ((Schema<Object>) schema).setEnum(values);
        }
    }
}
