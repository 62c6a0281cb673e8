package dev.entente.service.outlet;

import dev.entente.core.attempt.Reference;
import dev.entente.core.seal.Jws;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.wire.RecordApi.Event;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/**
 * Events as security event tokens (RFC 8417): what other systems act upon when somebody's credentials change. Kinds are those of CAEP
 * (credential changes) and RISC (recovery). The subject (RFC 9493) is a person's id, and an account's name too where the outlet may have
 * what names somebody. Events that no other system acts upon have none.
 */
@Component
// Who signs first makes the key.
@Transactional
class SecurityEvents {
    private static final String TYP = "secevent+jwt";
    private static final String CAEP = "https://schemas.openid.net/secevent/caep/event-type/";
    private static final String RISC = "https://schemas.openid.net/secevent/risc/event-type/";
    private static final String VERIFICATION = "https://schemas.openid.net/secevent/ssf/event-type/verification";

    /** How CAEP calls what people are recognised by. */
    private static final Map<String, String> CREDENTIALS = Map.of(
            "passkey", "fido2-platform",
            "security-key", "fido2-roaming",
            "app-code", "app",
            "push", "app");

    /** Nobody sets it up. */
    private static final String REMEMBERED = "known-device";

    private final Session database;
    private final OutletKeys keys;
    private final ServiceSettings settings;
    private final InstantSource clock;

    SecurityEvents(Session database, OutletKeys keys, ServiceSettings settings, InstantSource clock) {
        this.database = database;
        this.keys = keys;
        this.settings = settings;
        this.clock = clock;
    }

    /** What an event is for others. */
    private record Known(String type, Map<String, Object> says) {}

    private static Optional<Known> known(Event event) {
        return switch (event.kind()) {
            case "attempt.started" ->
                event.data().containsKey("decoy")
                                || !"reset".equals(event.data().get("action"))
                        ? Optional.empty()
                        : Optional.of(new Known(RISC + "recovery-activated", Map.of()));
            case "order.done", "order.settled" ->
                "unlock".equals(event.data().get("action"))
                                || "order.settled".equals(event.kind())
                                        && !"done".equals(event.data().get("state"))
                        ? Optional.empty()
                        : Optional.of(credential("password", "update"));
            case "method.enrolled" -> method(event, "create");
            case "method.removed" -> method(event, "delete");
            case "passkey.cloned" ->
                Optional.of(new Known(RISC + "credential-compromise", Map.of("credential_type", "fido2-platform")));
            default -> Optional.empty();
        };
    }

    private static Optional<Known> method(Event event, String change) {
        var method = String.valueOf(event.data().get("method"));
        if (method.equals(REMEMBERED)) {
            return Optional.empty();
        }
        return Optional.of(Optional.ofNullable(CREDENTIALS.get(method))
                .map(credential -> credential(credential, change))
                .orElse(new Known(RISC + "recovery-information-changed", Map.of())));
    }

    private static Known credential(String credential, String change) {
        return new Known(CAEP + "credential-change", Map.of("credential_type", credential, "change_type", change));
    }

    /** The token for an event; empty if it is none that others act upon, or nobody is known whom it concerns. */
    Optional<String> token(Outlet outlet, Event event) {
        return known(event)
                .flatMap(known -> subject(outlet, event).map(subject -> {
                    var says = new LinkedHashMap<>(known.says());
                    says.put("event_timestamp", event.at().getEpochSecond());
                    var claims = claims(outlet, event.id());
                    claims.put("toe", event.at().getEpochSecond());
                    if (event.reference() != null) {
                        claims.put("txn", event.reference());
                    }
                    claims.put("sub_id", subject);
                    claims.put("events", Map.of(known.type(), says));
                    return Jws.sign(keys.current(), TYP, claims);
                }));
    }

    /** A token that says nothing but that this outlet works. */
    String test(Outlet outlet) {
        var claims = claims(outlet, UUID.randomUUID());
        claims.put("sub_id", opaque(outlet.name()));
        claims.put("events", Map.of(VERIFICATION, Map.of("state", "test")));
        return Jws.sign(keys.current(), TYP, claims);
    }

    private LinkedHashMap<String, Object> claims(Outlet outlet, UUID id) {
        var claims = new LinkedHashMap<String, Object>();
        claims.put("iss", settings.publicUrl().toString());
        claims.put(
                "aud",
                Optional.ofNullable(outlet.audience())
                        .orElseGet(() -> Optional.ofNullable(outlet.goesTo()).orElse(outlet.name())));
        claims.put("jti", id.toString());
        claims.put("iat", clock.instant().getEpochSecond());
        return claims;
    }

    private Optional<Map<String, Object>> subject(Outlet outlet, Event event) {
        var identifiers = new ArrayList<Map<String, Object>>();
        person(event).ifPresent(person -> identifiers.add(opaque(person)));
        var login = event.personal().get("login");
        if (outlet.personal() && login != null) {
            var directory = event.data().get("directory");
            var of = new LinkedHashMap<String, Object>();
            of.put("format", "iss_sub");
            of.put("iss", settings.publicUrl() + (directory == null ? "" : "/directories/" + directory));
            of.put("sub", login);
            identifiers.add(of);
        }
        return identifiers.size() < 2
                ? identifiers.stream().findFirst()
                : Optional.of(Map.of("format", "aliases", "identifiers", List.copyOf(identifiers)));
    }

    private static Map<String, Object> opaque(String id) {
        return Map.of("format", "opaque", "id", id);
    }

    private Optional<String> person(Event event) {
        if (event.data().get("person") instanceof String person) {
            return Optional.of(person);
        }
        return Optional.ofNullable(event.reference())
                .flatMap(Reference::parse)
                .flatMap(reference -> Sql.values(
                                database,
                                "SELECT person FROM personal_attempt WHERE reference = :reference AND person IS NOT NULL",
                                UUID.class)
                        .setParameter("reference", reference.digits())
                        .getResultStream()
                        .findFirst())
                .map(UUID::toString);
    }
}
