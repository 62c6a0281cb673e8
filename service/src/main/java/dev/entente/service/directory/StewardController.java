package dev.entente.service.directory;

import dev.entente.service.audit.AuditTrail;
import dev.entente.service.platform.KeyRing;
import dev.entente.wire.RecordApi;
import dev.entente.wire.StewardApi;
import io.swagger.v3.oas.annotations.Hidden;
import jakarta.servlet.http.HttpServletRequest;
import java.util.UUID;
import org.springframework.http.HttpStatus;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.json.JsonMapper;

/** What stewards call besides orders. Bodies are taken as text, for their digest is part of the signature. */
@Hidden
@RestController
@RequestMapping("/api/v1/steward")
class StewardController {
    private final Directories directories;
    private final Rosters rosters;
    private final SealingKeys sealingKeys;
    private final StewardCalls calls;
    private final StewardPresence presence;
    private final Jobs jobs;
    private final AuditTrail trail;
    private final KeyRing keys;
    private final JsonMapper json;

    StewardController(
            Directories directories,
            Rosters rosters,
            SealingKeys sealingKeys,
            StewardCalls calls,
            StewardPresence presence,
            Jobs jobs,
            AuditTrail trail,
            KeyRing keys,
            JsonMapper json) {
        this.directories = directories;
        this.rosters = rosters;
        this.sealingKeys = sealingKeys;
        this.calls = calls;
        this.presence = presence;
        this.jobs = jobs;
        this.trail = trail;
        this.keys = keys;
        this.json = json;
    }

    /** Hands in public keys with a join code. */
    @PostMapping("/join")
    StewardApi.Joined join(@RequestBody StewardApi.Join join) {
        var joined = rosters.join(join.code(), join.identityKey(), join.version());
        return new StewardApi.Joined(
                joined.steward().id,
                joined.directory().id,
                joined.directory().name,
                keys.serviceKey().publicKey(),
                joined.directory().operatorKey);
    }

    /** The roster in force, and the record as far as it is signed. */
    @PostMapping("/state")
    @Transactional
    public StewardApi.State state(HttpServletRequest request, @RequestBody String body) {
        var caller = calls.check(request, body);
        var asked = json.readValue(body, StewardApi.AskForState.class);
        presence.doubts(caller, asked.doubt());
        return new StewardApi.State(
                directories.get(caller.directory()).roster(),
                trail.extension(asked.kept() == null ? 0 : Math.max(0, asked.kept())),
                trail.keys().now(),
                trail.keyChanges().stream().map(RecordApi.NextKey::change).toList());
    }

    /** A new sealing key. */
    @PostMapping("/sealing-keys")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    @Transactional
    public void sealingKey(HttpServletRequest request, @RequestBody String body) {
        calls.check(request, body);
        sealingKeys.add(
                calls.row(request),
                json.readValue(body, StewardApi.SealingKeyStatement.class).statement());
    }

    /** A batch of what a sync reads. */
    @PostMapping("/jobs/{id}/batch")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    @Transactional
    public void batch(HttpServletRequest request, @PathVariable UUID id, @RequestBody String body) {
        var caller = calls.check(request, body);
        jobs.batch(id, caller.steward(), json.readValue(body, StewardApi.Batch.class));
    }

    /** What changed in a directory. */
    @PostMapping("/changes")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    @Transactional
    public void changes(HttpServletRequest request, @RequestBody String body) {
        jobs.changes(calls.check(request, body), json.readValue(body, StewardApi.Changes.class));
    }

    /** The end of a job. */
    @PostMapping("/jobs/{id}/end")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    @Transactional
    public void end(HttpServletRequest request, @PathVariable UUID id, @RequestBody String body) {
        var caller = calls.check(request, body);
        jobs.end(id, caller.steward(), json.readValue(body, StewardApi.JobEnd.class));
    }
}
