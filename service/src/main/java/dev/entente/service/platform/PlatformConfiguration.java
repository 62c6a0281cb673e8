package dev.entente.service.platform;

import jakarta.persistence.EntityManagerFactory;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.SecureRandom;
import java.time.Instant;
import java.time.InstantSource;
import java.time.format.DateTimeFormatterBuilder;
import java.time.temporal.ChronoUnit;
import java.util.Locale;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import org.hibernate.Session;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.beans.factory.config.BeanPostProcessor;
import org.springframework.boot.jackson.autoconfigure.JsonMapperBuilderCustomizer;
import org.springframework.context.annotation.Bean;
import org.springframework.context.annotation.Configuration;
import org.springframework.orm.jpa.SharedEntityManagerCreator;
import org.springframework.scheduling.concurrent.ThreadPoolTaskScheduler;
import org.springframework.transaction.interceptor.DefaultTransactionAttribute;
import org.springframework.transaction.interceptor.TransactionAttribute;
import org.springframework.transaction.interceptor.TransactionInterceptor;
import org.springframework.util.StringUtils;
import tools.jackson.core.JsonGenerator;
import tools.jackson.databind.SerializationContext;
import tools.jackson.databind.ValueSerializer;
import tools.jackson.databind.module.SimpleModule;

/** The clock, randomness and timers that everything shares. */
@Configuration
class PlatformConfiguration {
    private static final Logger log = LoggerFactory.getLogger(PlatformConfiguration.class);

    /** Hibernate's own interface of the shared entity manager: its queries are typed. Bound to the running transaction. */
    @Bean
    Session database(EntityManagerFactory factory) {
        return (Session) SharedEntityManagerCreator.createSharedEntityManager(factory);
    }

    /**
     * The system's, in microseconds as the database keeps them, so that a time is the same before and after it was written. Ahead
     * if {@code entente.clock-ahead} names a file with seconds by which it is: for tests, which move time by it.
     */
    @Bean
    InstantSource clock(@Value("${entente.clock-ahead:}") String ahead) {
        InstantSource clock = () -> Instant.now().truncatedTo(ChronoUnit.MICROS);
        return ahead.isEmpty() ? clock : () -> clock.instant().plusSeconds(read(Path.of(ahead)));
    }

    /** Times are as long as each other in every answer (RFC 3339, six digits of a second), whichever moment it was. */
    @Bean
    JsonMapperBuilderCustomizer timesOfOneLength() {
        var form = new DateTimeFormatterBuilder().appendInstant(6).toFormatter(Locale.ROOT);
        return builder -> builder.addModule(new SimpleModule().addSerializer(Instant.class, new ValueSerializer<>() {
            @Override
            public void serialize(Instant time, JsonGenerator json, SerializationContext context) {
                json.writeString(form.format(time));
            }
        }));
    }

    private static long read(Path seconds) {
        try {
            return Long.parseLong(Files.readString(seconds).strip());
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /**
     * Names the transaction manager, of which there is one, for every method that wants a transaction: where none is named, Spring
     * looks through the annotations of the class at each call.
     */
    @Bean
    static BeanPostProcessor namedTransactionManager() {
        return new BeanPostProcessor() {
            @Override
            public Object postProcessBeforeInitialization(Object bean, String name) {
                if (bean instanceof TransactionInterceptor interceptor) {
                    var source = interceptor.getTransactionAttributeSource();
                    interceptor.setTransactionAttributeSource(
                            (method, type) -> named(source.getTransactionAttribute(method, type)));
                }
                return bean;
            }
        };
    }

    private static TransactionAttribute named(TransactionAttribute attribute) {
        if (attribute instanceof DefaultTransactionAttribute ours && !StringUtils.hasText(ours.getQualifier())) {
            ours.setQualifier("transactionManager");
        }
        return attribute;
    }

    @Bean
    SecureRandom secureRandom() {
        return new SecureRandom();
    }

    /** Runs jobs that repeat, apart from the timer, so that a slow database never holds back an answer. */
    @Bean
    ThreadPoolTaskScheduler taskScheduler() {
        var scheduler = new ThreadPoolTaskScheduler();
        scheduler.setPoolSize(4);
        scheduler.setThreadNamePrefix("jobs-");
        // The next round tries again; the whole trace every second would say no more.
        scheduler.setErrorHandler(e -> log.warn("a repeating job failed: {}", e.toString()));
        return scheduler;
    }

    /** Holds back answers and ends long polls; does no work of its own. */
    @Bean(destroyMethod = "shutdownNow")
    ScheduledExecutorService timer() {
        return Executors.newScheduledThreadPool(2);
    }
}
