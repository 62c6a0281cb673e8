package dev.entente.service.outlet;

import dev.entente.core.seal.SigningKey;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Sql;
import dev.entente.wire.OutletApi;
import java.security.SecureRandom;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** The keys that sign for receivers. The newest is used; the one before stays public, for what was signed with it is still on its way. */
@Component
@Transactional
class OutletKeys {
    private static final int PUBLIC = 2;

    private final Session database;
    private final KeyRing keys;
    private final EventLog events;
    private final SecureRandom random;
    private final InstantSource clock;

    OutletKeys(Session database, KeyRing keys, EventLog events, SecureRandom random, InstantSource clock) {
        this.database = database;
        this.keys = keys;
        this.events = events;
        this.random = random;
        this.clock = clock;
    }

    private record Stored(String thumbprint, byte[] key) {}

    private List<Stored> stored() {
        return Sql.rows(
                        database,
                        "SELECT thumbprint, key FROM outlet_key ORDER BY made_at DESC, thumbprint LIMIT " + PUBLIC,
                        Stored.class)
                .getResultList();
    }

    private SigningKey read(Stored stored) {
        return SigningKey.decode(keys.decrypt("outlet key " + stored.thumbprint(), stored.key()));
    }

    /** The key to sign with; made when first asked for. */
    SigningKey current() {
        var stored = stored();
        if (!stored.isEmpty()) {
            return read(stored.get(0));
        }
        // Two nodes at once make one each: the later is used from then on, and both are public.
        return make();
    }

    private SigningKey make() {
        var made = SigningKey.generate(random);
        var thumbprint = made.publicKey().thumbprint();
        Sql.change(database, "INSERT INTO outlet_key (thumbprint, made_at, key) VALUES (:thumbprint, :now, :key)")
                .setParameter("thumbprint", thumbprint)
                .setParameter("now", clock.instant())
                .setParameter("key", keys.encrypt("outlet key " + thumbprint, made.encoded()))
                .executeUpdate();
        return made;
    }

    /** Signs with a new key from now on. */
    OutletApi.Keys rotate(String administrator) {
        current();
        make();
        Sql.change(database, """
                        DELETE FROM outlet_key WHERE thumbprint NOT IN
                            (SELECT thumbprint FROM outlet_key ORDER BY made_at DESC, thumbprint LIMIT :most)""").setParameter("most", PUBLIC).executeUpdate();
        events.write(NewEvent.administration("outlet.key-rotated", administrator));
        return shown();
    }

    /** The public halves (RFC 7517). */
    OutletApi.Keys shown() {
        current();
        return new OutletApi.Keys(stored().stream()
                .map(stored -> read(stored).publicKey())
                .map(key -> Map.of(
                        "kty", key.kty(),
                        "crv", key.crv(),
                        "x", key.x(),
                        "y", key.y(),
                        "kid", key.thumbprint(),
                        "alg", "ES256",
                        "use", "sig"))
                .toList());
    }
}
