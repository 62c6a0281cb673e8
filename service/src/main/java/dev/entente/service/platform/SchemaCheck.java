package dev.entente.service.platform;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.sql.SQLException;
import java.util.Arrays;
import java.util.regex.Pattern;
import javax.sql.DataSource;
import org.springframework.beans.factory.config.BeanPostProcessor;
import org.springframework.core.io.support.PathMatchingResourcePatternResolver;
import org.springframework.stereotype.Component;

/** Looks whether the migrations were run, before anything else uses the database. */
@Component
class SchemaCheck implements BeanPostProcessor {
    private static final Pattern FILE = Pattern.compile("V(\\d+)__.*\\.sql");

    @Override
    public Object postProcessAfterInitialization(Object bean, String name) {
        if (bean instanceof DataSource source) {
            check(source);
        }
        return bean;
    }

    private static void check(DataSource source) {
        var wanted = wanted();
        int found;
        try (var connection = source.getConnection();
                var statement = connection.createStatement();
                var rows = statement.executeQuery(
                        "SELECT max(cast(version AS int)) FROM flyway_schema_history WHERE success")) {
            rows.next();
            found = rows.getInt(1);
        } catch (SQLException e) {
            if (!"42P01".equals(e.getSQLState()) && !"42501".equals(e.getSQLState())) {
                throw new NotReady(
                        "The database can't be used: "
                                + String.valueOf(e.getMessage())
                                        .lines()
                                        .findFirst()
                                        .orElse(""),
                        "Check ENTENTE_DATABASE_URL, ENTENTE_DATABASE_USER and ENTENTE_DATABASE_PASSWORD, and that"
                                + " PostgreSQL runs.");
            }
            // There is nothing yet, or nothing that this role may see.
            found = 0;
        }
        if (found < wanted) {
            throw new NotReady(
                    "The database is at version " + found + ", and this service needs version " + wanted + ".",
                    "Migrate it as its owner: ENTENTE_OWNER_USER=… ENTENTE_OWNER_PASSWORD=… java -jar"
                            + " entente-service-program.jar migrate");
        }
        if (found > wanted) {
            throw new NotReady(
                    "The database is at version " + found + ", and this service knows only version " + wanted + ".",
                    "Start the newer service that the database was migrated for.");
        }
    }

    private static int wanted() {
        try {
            return Arrays.stream(
                            new PathMatchingResourcePatternResolver().getResources("classpath*:db/migration/V*.sql"))
                    .map(resource -> FILE.matcher(String.valueOf(resource.getFilename())))
                    .filter(matcher -> matcher.matches())
                    .mapToInt(matcher -> Integer.parseInt(matcher.group(1)))
                    .max()
                    .orElse(0);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
