package dev.entente.service.platform;

import io.swagger.v3.oas.models.OpenAPI;
import io.swagger.v3.oas.models.info.Info;
import io.swagger.v3.oas.models.info.License;
import io.swagger.v3.oas.models.servers.Server;
import java.util.List;
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
                        .description("Errors are problem documents (RFC 9457). Times are milliseconds since 1970.")
                        .license(new License().name("Apache-2.0")))
                .servers(List.of(new Server().url("/")));
    }
}
