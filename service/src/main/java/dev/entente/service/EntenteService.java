package dev.entente.service;

import dev.entente.service.platform.ServiceSettings;
import jakarta.mail.util.StreamProvider;
import java.util.List;
import org.eclipse.angus.mail.util.MailStreamProvider;
import org.springframework.aot.AotDetector;
import org.springframework.boot.SpringApplication;
import org.springframework.boot.autoconfigure.SpringBootApplication;
import org.springframework.boot.context.properties.EnableConfigurationProperties;
import org.springframework.scheduling.annotation.EnableScheduling;
import org.springframework.util.ClassUtils;

/** Starts one node of the service, or carries out a step beside it. */
@SpringBootApplication
@EnableScheduling
@EnableConfigurationProperties(ServiceSettings.class)
public class EntenteService {
    /**
     * Without arguments, starts a node; settings come from {@code application.yaml}, files beside it and the environment.
     * With {@code migrate}, changes the database as the owner and ends; with {@code retain}, takes out of the record what is not to be
     * kept, and ends; with {@code new-record-key}, makes the key that signs the record from the next start on, and ends; with {@code
     * continue-record}, lets a record go on that isn't continued, and ends.
     */
    public static void main(String[] arguments) {
        if (List.of(arguments).contains("migrate")) {
            System.exit(Migrate.run(System.getenv()));
        }
        if (List.of(arguments).contains("retain")) {
            System.exit(Retain.run(System.getenv()));
        }
        if (List.of(arguments).contains("new-record-key")) {
            System.exit(NewRecordKey.run(System.getenv()));
        }
        if (List.of(arguments).contains("continue-record")) {
            System.exit(ContinueRecord.run(System.getenv()));
        }
        // A connection that served a moment ago is not tried before it serves again.
        System.setProperty("com.zaxxer.hikari.aliveBypassWindowMs", "5000");
        // Else it is looked for in every jar again, several times for each mail.
        System.setProperty(StreamProvider.class.getName(), MailStreamProvider.class.getName());
        // What the build worked out ahead of time, unless the command says otherwise.
        if (System.getProperty(AotDetector.AOT_ENABLED) == null && !Boolean.getBoolean("spring.aot.processing")) {
            var prepared = EntenteService.class.getName() + "__ApplicationContextInitializer";
            System.setProperty(AotDetector.AOT_ENABLED, String.valueOf(ClassUtils.isPresent(prepared, null)));
        }
        SpringApplication.run(EntenteService.class, arguments);
    }
}
