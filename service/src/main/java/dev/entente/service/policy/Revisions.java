package dev.entente.service.policy;

import dev.entente.service.platform.Problem;
import dev.entente.wire.DraftApi;
import java.util.List;
import java.util.Map;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** What was published, and when. */
@Component
@Transactional
class Revisions {
    private final Session database;
    private final Configurations configurations;

    Revisions(Session database, Configurations configurations) {
        this.database = database;
        this.configurations = configurations;
    }

    List<DraftApi.Revision> list() {
        return database.createQuery("FROM RevisionRow ORDER BY number DESC", RevisionRow.class)
                .setMaxResults(200)
                .getResultStream()
                .map(r -> shown(r, false))
                .toList();
    }

    DraftApi.Revision show(int number) {
        return shown(row(number), true);
    }

    RevisionRow row(int number) {
        var row = database.find(RevisionRow.class, number);
        if (row == null) {
            throw Problem.of("revision-not-found").with("number", number);
        }
        return row;
    }

    /** The number in force; 0 before the first. */
    int current() {
        return configurations.currentRow().map(row -> row.number).orElse(0);
    }

    /** The files in force; none before the first. */
    Map<String, String> currentFiles() {
        return configurations.currentRow().map(row -> row.files).orElse(Map.of());
    }

    static DraftApi.Revision shown(RevisionRow row, boolean files) {
        return new DraftApi.Revision(
                row.number, row.author, row.approvedBy, row.note, row.publishedAt, files ? row.files : Map.of());
    }
}
