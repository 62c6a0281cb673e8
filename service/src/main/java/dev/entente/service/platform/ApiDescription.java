package dev.entente.service.platform;

import dev.entente.core.problem.ProblemCatalogue;
import dev.entente.core.problem.ProblemKind;
import dev.entente.core.seal.OrNull;
import dev.entente.core.verify.Method;
import dev.entente.wire.MethodName;
import dev.entente.wire.OneOf;
import io.swagger.v3.core.converter.AnnotatedType;
import io.swagger.v3.oas.models.Components;
import io.swagger.v3.oas.models.OpenAPI;
import io.swagger.v3.oas.models.info.Info;
import io.swagger.v3.oas.models.info.License;
import io.swagger.v3.oas.models.media.Content;
import io.swagger.v3.oas.models.media.IntegerSchema;
import io.swagger.v3.oas.models.media.JsonSchema;
import io.swagger.v3.oas.models.media.MediaType;
import io.swagger.v3.oas.models.media.ObjectSchema;
import io.swagger.v3.oas.models.media.Schema;
import io.swagger.v3.oas.models.media.StringSchema;
import io.swagger.v3.oas.models.responses.ApiResponse;
import io.swagger.v3.oas.models.responses.ApiResponses;
import io.swagger.v3.oas.models.servers.Server;
import java.lang.annotation.Annotation;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.springdoc.core.customizers.OpenApiCustomizer;
import org.springdoc.core.customizers.OperationCustomizer;
import org.springdoc.core.customizers.ParameterCustomizer;
import org.springdoc.core.customizers.PropertyCustomizer;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.core.annotation.AnnotatedElementUtils;
import org.springframework.http.HttpStatus;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.method.HandlerMethod;

/**
 * How the API describes itself; the same wherever it runs. What a call takes and answers follows from its handler, with {@link Answers}
 * and {@link Fails}; what is always there, from {@link OrNull}.
 */
@Configuration
class ApiDescription {
    private static final String PROBLEM = "ProblemDocument";
    private static final String PROBLEM_TYPE = "application/problem+json";

    @Bean
    OpenAPI description() {
        return new OpenAPI()
                .info(new Info()
                        .title("Entente")
                        .version("1")
                        .description(
                                "Errors are problem documents (RFC 9457); each answer lists the types that it can have. Times are"
                                        + " RFC 3339, in UTC. What is required is always there, in what is sent and in what is answered."
                                        + " Null and left out mean the same in what is sent; unknown members are refused.")
                        .license(new License().name("Apache-2.0")))
                .servers(List.of(new Server().url("/")))
                .components(new Components().addSchemas(PROBLEM, problem()));
    }

    private static Schema<?> problem() {
        return new ObjectSchema()
                .addProperty("type", new StringSchema().description("urn:entente:problem: and the name of the problem"))
                .addProperty("title", new StringSchema())
                .addProperty("status", new IntegerSchema())
                .addProperty("detail", new StringSchema().description("for people, says what to do; may change"))
                .required(List.of("type", "title", "status", "detail"))
                .description("Some have members of their own.")
                .additionalProperties(true);
    }

    /** What any call below some paths can meet, by the part of the service that sees to it. */
    @Bean
    OpenApiCustomizer whatAnyCallCanMeet(List<AnyCall> parts) {
        return described -> {
            parts.forEach(part -> described
                    .getComponents()
                    .addResponses(part.name(), problems(String.join(", ", new TreeSet<>(part.problems())))));
            described.getPaths().forEach((path, calls) -> {
                var part = parts.stream()
                        .filter(any -> any.paths().test(path))
                        .findFirst()
                        .orElseThrow(() -> new IllegalStateException("nothing is said of any call to " + path));
                calls.readOperations()
                        .forEach(call -> call.getResponses()
                                .addApiResponse(
                                        "default", new ApiResponse().$ref("#/components/responses/" + part.name())));
            });
        };
    }

    @Bean
    AnyCall anyCallOfDevices() {
        return new AnyCall(
                "AnyCallOfDevices",
                path -> path.startsWith("/api/v1/gateways/") || path.startsWith("/api/v1/devices/"),
                AnyCall.EVERYWHERE);
    }

    private static ApiResponse problems(String types) {
        return new ApiResponse()
                .description(types)
                .content(new Content()
                        .addMediaType(
                                PROBLEM_TYPE,
                                new MediaType().schema(new Schema<>().$ref("#/components/schemas/" + PROBLEM))));
    }

    /** With which statuses a call answers, and which problems are its own. */
    @Bean
    OperationCustomizer answersOfCalls() {
        return (call, handler) -> {
            var body = call.getResponses().values().stream()
                    .map(ApiResponse::getContent)
                    .filter(content -> content != null)
                    .findFirst()
                    .orElse(null);
            var answers = new ApiResponses();
            var declared = handler.getMethodAnnotation(Answers.class);
            for (var status : statuses(handler)) {
                var empty = status == HttpStatus.NO_CONTENT.value()
                        || declared != null && Arrays.stream(declared.empty()).anyMatch(one -> one == status);
                answers.addApiResponse(
                        String.valueOf(status),
                        new ApiResponse()
                                .description(HttpStatus.valueOf(status).getReasonPhrase())
                                .content(empty ? null : body));
            }
            own(handler)
                    .forEach((status, types) ->
                            answers.addApiResponse(String.valueOf(status), problems(String.join(", ", types))));
            return call.responses(answers);
        };
    }

    private static List<Integer> statuses(HandlerMethod handler) {
        var declared = handler.getMethodAnnotation(Answers.class);
        if (declared != null) {
            return Arrays.stream(declared.value()).boxed().toList();
        }
        var one = handler.getMethodAnnotation(ResponseStatus.class);
        return List.of(one == null ? HttpStatus.OK.value() : one.code().value());
    }

    private static TreeMap<Integer, Set<String>> own(HandlerMethod handler) {
        var types = new LinkedHashSet<String>();
        Stream.of(
                        handler.getMethodAnnotation(Fails.class),
                        AnnotatedElementUtils.findMergedAnnotation(handler.getBeanType(), Fails.class))
                .filter(fails -> fails != null)
                .forEach(fails -> types.addAll(List.of(fails.value())));
        var byStatus = new TreeMap<Integer, Set<String>>();
        for (var type : types) {
            var statuses = kinds(type);
            if (statuses.isEmpty()) {
                throw new IllegalStateException("there is no problem " + type + ", which " + handler + " names");
            }
            statuses.forEach(status ->
                    byStatus.computeIfAbsent(status, s -> new TreeSet<>()).add(type));
        }
        return byStatus;
    }

    private static Set<Integer> kinds(String type) {
        return ProblemCatalogue.all().stream()
                .filter(kind -> kind.type().equals(type))
                .map(ProblemKind::status)
                .collect(Collectors.toSet());
    }

    /** Which members are always there, and which can be null; and which values they can have, as {@link OneOf} says. */
    @Bean
    PropertyCustomizer members() {
        return (property, type) -> {
            if (property == null) {
                return null;
            }
            if (type.getCtxAnnotations() != null) {
                Arrays.stream(type.getCtxAnnotations()).forEach(said -> limit(property, said));
            }
            if (type.getParent() == null || type.getPropertyName() == null) {
                return property;
            }
            if (!annotated(type, OrNull.class)) {
                type.getParent().addRequiredItem(type.getPropertyName());
                return property;
            }
            // What a list holds was taken for the member itself.
            if (property.getItems() != null && property.getItems().getTypes() != null) {
                property.getItems().getTypes().remove("null");
                if (property.getItems().getEnum() != null) {
                    property.getItems().getEnum().remove(null);
                }
            }
            if (property.get$ref() != null) {
                return new JsonSchema()
                        .anyOf(List.of(
                                new JsonSchema().$ref(property.get$ref()), new JsonSchema().types(Set.of("null"))));
            }
            var types = new LinkedHashSet<String>(property.getTypes() == null ? List.of() : property.getTypes());
            types.add("null");
            property.setTypes(types);
            if (property.getEnum() != null) {
                property.getEnum().add(null);
            }
            return property;
        };
    }

    private static boolean annotated(AnnotatedType type, Class<? extends Annotation> by) {
        return type.getCtxAnnotations() != null
                && Arrays.stream(type.getCtxAnnotations()).anyMatch(by::isInstance);
    }

    /** Which values a parameter of a query can have, as {@link OneOf} says. */
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
