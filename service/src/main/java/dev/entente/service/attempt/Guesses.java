package dev.entente.service.attempt;

import dev.entente.core.guess.Budget;
import dev.entente.core.guess.Budget.Narrower;
import dev.entente.core.guess.Budget.Try;
import dev.entente.core.guess.Charge;
import dev.entente.core.guess.Familiarity;
import dev.entente.core.guess.GuessingSpace;
import dev.entente.core.policy.Policy;
import dev.entente.core.verify.Answer;
import dev.entente.core.verify.Method;
import dev.entente.core.verify.Verifier;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.notification.PhoneChannel;
import dev.entente.service.people.Addresses;
import dev.entente.service.people.People;
import dev.entente.service.platform.Limits;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.service.verify.Methods;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.UUID;
import org.hibernate.Session;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;

/** What tries and codes take from whose budget, see {@link Budget}. Counts of decoys are nobody's. */
@Component
@Transactional
public class Guesses {
    private static final Duration HOUR = Duration.ofHours(1);
    /** Of what is sent for unknown places, one network can ask for this share and has to leave the rest. */
    private static final int CODES_FOR_ONE_NETWORK = 3;

    private final Session database;
    private final Limits limits;
    private final EventLog events;
    private final Methods methods;
    private final People people;
    private final Addresses addresses;
    private final PhoneChannel phone;
    private final int codesPerHour;
    private final InstantSource clock;

    Guesses(
            Session database,
            Limits limits,
            EventLog events,
            Methods methods,
            People people,
            Addresses addresses,
            PhoneChannel phone,
            ServiceSettings settings,
            InstantSource clock) {
        this.database = database;
        this.limits = limits;
        this.events = events;
        this.methods = methods;
        this.people = people;
        this.addresses = addresses;
        this.phone = phone;
        this.codesPerHour = settings.codesPerHour();
        this.clock = clock;
    }

    /** Whose counts are meant; counts anew after an administrator lifted what was used up. */
    record Whose(String subject) {
        static Whose of(UUID person, int era) {
            return new Whose(person + "/" + era);
        }
    }

    private Whose whose(UUID person) {
        var era = Sql.values(database, "SELECT era FROM person_limits WHERE person = :person", Integer.class)
                .setParameter("person", person)
                .getResultStream()
                .findFirst()
                .orElse(0);
        return new Whose(person + "/" + era);
    }

    /** A try by a method, as the budget knows it. */
    static Try tryOf(Whose whose, Method method, GuessingSpace space, Familiarity from, String network, Policy policy) {
        return new Try(
                whose.subject(),
                method.label(),
                space,
                from,
                network,
                Optional.ofNullable(policy)
                        .map(p -> new Narrower(
                                p.tries().value().count(), p.tries().value().per())));
    }

    /**
     * What one code that is sent takes, each method by itself: strangers in unknown places share what there is for those, and each of
     * their networks has to leave most of it. An attempt with a proof draws only on its own budget.
     *
     * @param proved the attempt, if something was proved in it
     */
    List<Charge> codes(Whose whose, Method method, Familiarity from, String network, Optional<UUID> proved) {
        if (proved.isPresent()) {
            return List.of(new Charge("codes-proved", proved.get() + " " + method.label(), HOUR, 1, codesPerHour));
        }
        var subject = whose.subject() + " " + method.label();
        var charges = new ArrayList<Charge>();
        charges.add(new Charge("codes", subject + " " + from.label(), HOUR, 1, codesPerHour));
        if (from == Familiarity.NONE) {
            charges.add(new Charge(
                    "codes-from", subject + " " + network, HOUR, 1, Math.min(codesPerHour, CODES_FOR_ONE_NETWORK)));
        }
        return charges;
    }

    /** What a message to a person's telephone takes besides; nothing where a method sends none. */
    @Transactional(readOnly = true)
    public List<Charge> telephone(UUID person, Method method, Familiarity from) {
        if (!method.costs()) {
            return List.of();
        }
        return people.find(person)
                .flatMap(p -> addresses.of(p, method.facts().by(), true))
                .map(number -> phone.charges(number, from))
                .orElse(List.of());
    }

    /**
     * Methods whose answers are not taken now where somebody comes from, since tries used up what there is. A code that is
     * sent is always taken: it gets longer instead. To a telephone no more is sent than its limits allow.
     *
     * @param policy whose limit counts besides; null for none
     * @param proved the attempt, if something was proved in it
     */
    @Transactional(readOnly = true)
    public Map<Method, Limits.Reached> spent(UUID person, Origin from, Policy policy, Optional<UUID> proved) {
        var whose = whose(person);
        var costs = new TreeMap<Method, List<Charge>>();
        for (var verifier : methods.verifiers()) {
            if (verifier.rings()) {
                if (verifier.disturbs()) {
                    costs.put(
                            verifier.method(),
                            codes(whose, verifier.method(), from.familiarity(), from.network(), proved));
                }
            } else if (!verifier.method().sent()) {
                var asked = Verifier.Asked.imagined(from.familiarity());
                costs.put(
                        verifier.method(),
                        Budget.charges(
                                tryOf(
                                        whose,
                                        verifier.method(),
                                        verifier.space(asked, Answer.typed("")),
                                        from.familiarity(),
                                        from.network(),
                                        policy),
                                1));
            } else if (verifier.method().costs()) {
                costs.put(verifier.method(), telephone(person, verifier.method(), from.familiarity()));
            }
        }
        var reached = limits.reached(
                costs.values().stream().flatMap(List::stream).distinct().toList());
        var spent = new TreeMap<Method, Limits.Reached>();
        costs.forEach((method, charges) -> reached.stream()
                .filter(r -> charges.contains(r.charge()))
                .findFirst()
                .ifPresent(r -> spent.put(method, r)));
        return spent;
    }

    /**
     * Where somebody comes from.
     *
     * @param network null where it is not known
     */
    public record Origin(Familiarity familiarity, String network) {}

    /** Counts anew for a person, whatever was used up. */
    public void lift(UUID person, String reason, String administrator) {
        Sql.change(database, """
                        INSERT INTO person_limits (person, era, lifted_at) VALUES (:person, 1, :now)
                        ON CONFLICT (person) DO UPDATE SET era = person_limits.era + 1, lifted_at = excluded.lifted_at,
                            told_at = NULL""")
                .setParameter("person", person)
                .setParameter("now", clock.instant())
                .executeUpdate();
        events.write(NewEvent.administration("limits.lifted", administrator)
                .with("person", person.toString())
                .with("reason", reason));
    }

    /** When the person's limits were lifted last; empty if never. */
    @Transactional(readOnly = true)
    public Optional<Instant> lifted(UUID person) {
        return Sql.values(
                        database,
                        "SELECT lifted_at FROM person_limits WHERE person = :person AND lifted_at IS NOT NULL",
                        Instant.class)
                .setParameter("person", person)
                .getResultStream()
                .findFirst();
    }

    /** Whether it is time to tell that strangers try in somebody's name: once a day. */
    @Transactional(propagation = Propagation.MANDATORY)
    public boolean timeToTell(UUID person) {
        return Sql.change(database, """
                        INSERT INTO person_limits (person, told_at) VALUES (:person, :now)
                        ON CONFLICT (person) DO UPDATE SET told_at = excluded.told_at
                        WHERE person_limits.told_at IS NULL OR person_limits.told_at < :since""")
                        .setParameter("person", person)
                        .setParameter("now", clock.instant())
                        .setParameter("since", clock.instant().minus(Duration.ofDays(1)))
                        .executeUpdate()
                == 1;
    }
}
