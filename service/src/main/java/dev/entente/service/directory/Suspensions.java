package dev.entente.service.directory;

import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import java.time.InstantSource;
import org.springframework.context.ApplicationEventPublisher;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Directories whose deliveries are stopped. */
@Component
public class Suspensions {
    private final Directories directories;
    private final EventLog events;
    private final ApplicationEventPublisher publisher;
    private final InstantSource clock;

    Suspensions(Directories directories, EventLog events, ApplicationEventPublisher publisher, InstantSource clock) {
        this.directories = directories;
        this.events = events;
        this.publisher = publisher;
        this.clock = clock;
    }

    /**
     * Stops its deliveries at once, or lets them go on.
     *
     * @param administrator whose doing it is put on record as; null where a stop ended by itself and says so
     */
    @Transactional
    public void suspend(String name, boolean suspended, String administrator) {
        var row = directories.named(name);
        if (!suspended) {
            publisher.publishEvent(new Directories.Resumed(name, administrator));
        }
        if (suspended != (row.suspendedAt != null)) {
            row.suspendedAt = suspended ? clock.instant() : null;
            if (administrator != null) {
                events.write(
                        NewEvent.administration(suspended ? "directory.suspended" : "directory.resumed", administrator)
                                .with("directory", row.name));
            }
        }
    }
}
