package dev.entente.service.directory;

import dev.entente.core.seal.Roster;
import dev.entente.wire.AdminApi;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Directories for administrators, with what needs attention. */
@Component
@Transactional(readOnly = true)
public class DirectoryList {
    private final Directories directories;
    private final Jobs jobs;
    private final Session database;
    private final InstantSource clock;

    DirectoryList(Directories directories, Jobs jobs, Session database, InstantSource clock) {
        this.directories = directories;
        this.jobs = jobs;
        this.database = database;
        this.clock = clock;
    }

    /** All of them by name. */
    public List<AdminApi.Directory> all() {
        return directories.rows().stream().map(this::shown).toList();
    }

    AdminApi.Directory shown(DirectoryRow row) {
        var listed = row.roster == null
                ? List.<UUID>of()
                : Roster.verify(row.roster, row.operatorKey, row.id).stewards().stream()
                        .map(Roster.Member::id)
                        .toList();
        var since = clock.instant().minus(Directories.CONNECTED);
        var stewards = directories.stewards(row.id).stream()
                .map(s -> new AdminApi.Steward(
                        s.id,
                        s.name,
                        listed.contains(s.id) ? "listed" : "joined",
                        s.identityKey,
                        s.version,
                        s.lastSeen.toEpochMilli(),
                        s.lastSeen.isAfter(since)))
                .toList();
        var preflight = jobs.latest(row.id, "preflight").map(JobRow::shown).orElse(null);
        var sync = jobs.latest(row.id, "sync").map(JobRow::shown).orElse(null);
        return new AdminApi.Directory(
                row.id,
                row.name,
                row.title,
                row.kind,
                row.servers,
                row.base,
                row.serviceAccount,
                row.correlation,
                row.operatorKey.thumbprint(),
                row.rosterVersion,
                row.syncedAt == null ? null : row.syncedAt.toEpochMilli(),
                count("SELECT count(*) FROM account WHERE directory = :directory", row.id),
                count("SELECT count(*) FROM directory_group WHERE directory = :directory", row.id),
                stewards,
                preflight,
                sync,
                count("SELECT count(*) FROM delivery WHERE directory = :directory AND ended_at IS NULL", row.id),
                attention(row, stewards, preflight));
    }

    private static List<String> attention(DirectoryRow row, List<AdminApi.Steward> stewards, AdminApi.Job preflight) {
        var attention = new ArrayList<String>();
        var unsigned = stewards.stream().filter(s -> s.state().equals("joined")).toList();
        if (stewards.isEmpty()) {
            attention.add(
                    "No steward has joined yet. Admit one: entente steward admit --directory " + row.name + " NAME");
        } else if (!unsigned.isEmpty()) {
            attention.add("Not on the roster yet: "
                    + unsigned.stream().map(AdminApi.Steward::name).collect(Collectors.joining(", "))
                    + ". Sign it in: entente steward sign-roster --directory " + row.name);
        } else if (stewards.stream().noneMatch(AdminApi.Steward::connected)) {
            attention.add("No steward of " + row.name + " is connected; nothing can be delivered.");
        }
        if (preflight != null && preflight.endedAt() != null) {
            preflight.findings().stream()
                    .filter(f -> f.severity().equals("error"))
                    .forEach(f -> attention.add(f.cause()));
            if (preflight.state().equals("failed")) {
                attention.add(preflight.message());
            }
        } else if (preflight == null) {
            attention.add("Preflight was never run.");
        }
        if (row.syncedAt == null) {
            attention.add("People have not been read yet: entente directory sync " + row.name);
        }
        return attention;
    }

    private int count(String query, UUID directory) {
        return ((Number) database.createNativeQuery(query, Long.class)
                        .setParameter("directory", directory)
                        .getSingleResult())
                .intValue();
    }
}
