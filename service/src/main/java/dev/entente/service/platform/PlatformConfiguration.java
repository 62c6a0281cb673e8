package dev.entente.service.platform;

import jakarta.persistence.EntityManagerFactory;
import java.security.SecureRandom;
import java.time.Clock;
import java.time.InstantSource;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import org.hibernate.Session;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.orm.jpa.SharedEntityManagerCreator;

/** The clock, randomness and timers that everything shares. */
@Configuration
class PlatformConfiguration {
    /** Hibernate's own interface of the shared entity manager: its queries are typed. Bound to the running transaction. */
    @Bean
    Session database(EntityManagerFactory factory) {
        return (Session) SharedEntityManagerCreator.createSharedEntityManager(factory);
    }

    @Bean
    InstantSource clock() {
        return Clock.systemUTC();
    }

    @Bean
    SecureRandom secureRandom() {
        return new SecureRandom();
    }

    /** Holds back answers and ends long polls; does no work of its own. */
    @Bean(destroyMethod = "shutdownNow")
    ScheduledExecutorService timer() {
        return Executors.newScheduledThreadPool(2);
    }
}
