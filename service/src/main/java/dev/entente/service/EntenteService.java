package dev.entente.service;

import dev.entente.service.platform.ServiceSettings;
import org.springframework.boot.SpringApplication;
import org.springframework.boot.autoconfigure.SpringBootApplication;
import org.springframework.boot.context.properties.EnableConfigurationProperties;
import org.springframework.scheduling.annotation.EnableScheduling;

/** Starts one node of the service. */
@SpringBootApplication
@EnableScheduling
@EnableConfigurationProperties(ServiceSettings.class)
public class EntenteService {
    /** Starts it; settings come from {@code application.yaml}, files beside it and the environment. */
    public static void main(String[] arguments) {
        SpringApplication.run(EntenteService.class, arguments);
    }
}
