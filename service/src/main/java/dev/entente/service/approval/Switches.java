package dev.entente.service.approval;

import dev.entente.service.platform.Sql;
import dev.entente.wire.ApprovalApi;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.Map;
import org.hibernate.Session;
import org.springframework.context.event.EventListener;
import org.springframework.http.HttpStatus;
import org.springframework.http.ResponseEntity;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RestController;
import tools.jackson.databind.json.JsonMapper;

/** Switches for the whole service: one row each, off unless somebody turned it on. */
@RestController
@RequestMapping("/api/v1/switches")
@Transactional
public class Switches {
    private static final String KIND = "switches";
    private static final String TEMPORARY = "temporary-passwords";
    private static final String SECOND_FACTOR = "second-factor-required";

    private final Session database;
    private final Approvals approvals;
    private final JsonMapper json;

    Switches(Session database, Approvals approvals, JsonMapper json) {
        this.database = database;
        this.approvals = approvals;
        this.json = json;
    }

    /** What is switched on. */
    @GetMapping
    @Transactional(readOnly = true)
    public ApprovalApi.Switches get() {
        return new ApprovalApi.Switches(on(TEMPORARY), on(SECOND_FACTOR));
    }

    private boolean on(String name) {
        return !Sql.values(database, "SELECT 1 FROM service_switch WHERE name = :name AND turned_on", Integer.class)
                .setParameter("name", name)
                .getResultList()
                .isEmpty();
    }

    /** Turns them; 202 if that waits for another administrator. */
    @PutMapping
    public ResponseEntity<ApprovalApi.Switches> turn(
            @RequestBody ApprovalApi.Switches wanted, @AuthenticationPrincipal String administrator) {
        var before = get();
        var weaker = new ArrayList<String>();
        var stricter = new ArrayList<String>();
        if (wanted.temporaryPasswords() != before.temporaryPasswords()) {
            (wanted.temporaryPasswords() ? weaker : stricter)
                    .add("Temporary passwords were " + word(before.temporaryPasswords()) + " and are "
                            + word(wanted.temporaryPasswords()) + ".");
        }
        if (wanted.secondFactorRequired() != before.secondFactorRequired()) {
            (wanted.secondFactorRequired() ? stricter : weaker)
                    .add("A second factor for every administrator was "
                            + (before.secondFactorRequired() ? "required" : "not required") + " and is "
                            + (wanted.secondFactorRequired() ? "required." : "not required."));
        }
        var made = weaker.isEmpty()
                ? approvals.makeNow(KIND, "", stricter, wanted, administrator)
                : approvals.make(KIND, "", weaker, wanted, administrator);
        return ResponseEntity.status(made ? HttpStatus.OK : HttpStatus.ACCEPTED).body(get());
    }

    private static String word(boolean on) {
        return on ? "switched on" : "switched off";
    }

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void make(Approvals.Approved change) {
        if (!change.kind().equals(KIND)) {
            return;
        }
        var wanted = json.readValue(change.wanted(), ApprovalApi.Switches.class);
        Map<String, Boolean> all = new LinkedHashMap<>();
        all.put(TEMPORARY, wanted.temporaryPasswords());
        all.put(SECOND_FACTOR, wanted.secondFactorRequired());
        all.forEach((name, on) -> Sql.change(database, """
                        INSERT INTO service_switch (name, turned_on, changed_at) VALUES (:name, :on, entente_now())
                        ON CONFLICT (name) DO UPDATE SET turned_on = :on, changed_at = entente_now()""")
                .setParameter("name", name)
                .setParameter("on", on)
                .executeUpdate());
        change.handled().set(true);
    }

    /** Whether administrators may give temporary passwords. */
    @Transactional(readOnly = true)
    public boolean temporaryPasswords() {
        return on(TEMPORARY);
    }
}
