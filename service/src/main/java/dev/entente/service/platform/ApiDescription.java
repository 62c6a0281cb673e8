package dev.entente.service.platform;

import dev.entente.wire.OneOf;
import io.swagger.v3.oas.models.OpenAPI;
import io.swagger.v3.oas.models.info.Info;
import io.swagger.v3.oas.models.info.License;
import io.swagger.v3.oas.models.media.Schema;
import io.swagger.v3.oas.models.servers.Server;
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
                Arrays.stream(type.getCtxAnnotations())
                        .filter(OneOf.class::isInstance)
                        .forEach(said -> limit(property, (OneOf) said));
            }
            return property;
        };
    }

    /** The same for parameters of a query. */
    @Bean
    ParameterCustomizer valuesOfParameters() {
        return (parameter, method) -> {
            var said = method.getParameterAnnotation(OneOf.class);
            if (parameter != null && said != null) {
                limit(parameter.getSchema(), said);
            }
            return parameter;
        };
    }

    @SuppressWarnings("unchecked")
    private static void limit(Schema<?> schema, OneOf said) {
        var values = new ArrayList<Object>(List.of(said.named()));
        for (var enumeration : said.value()) {
            for (var constant : enumeration.getEnumConstants()) {
                values.add(constant.name().toLowerCase(Locale.ROOT).replace('_', '-'));
            }
        }
        ((Schema<Object>) schema).setEnum(values);
    }
}
