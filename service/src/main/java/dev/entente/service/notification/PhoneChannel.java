package dev.entente.service.notification;

import dev.entente.core.guess.Charge;
import dev.entente.core.guess.Familiarity;
import dev.entente.core.seal.HttpSignature;
import dev.entente.core.verify.Channel;
import dev.entente.service.approval.Approvals;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.Standing;
import dev.entente.service.platform.WhenDue;
import dev.entente.wire.PhoneApi;
import java.math.BigDecimal;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.sql.Timestamp;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.time.LocalDate;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.EnumSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.hibernate.Session;
import org.springframework.context.event.EventListener;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.json.JsonMapper;

/**
 * How telephones are reached: gateways in an order, each taken up where the one before did not take a message. Every message costs
 * money and disturbs somebody, so there are limits for a number, for numbers that are alike, and for a country.
 */
@Component
public class PhoneChannel {
    /** How both ends call the secret that they sign with. */
    static final String KEY = "entente";

    private static final String KIND = "phone-channel";
    private static final String CONTEXT = "secrets of the phone channel v1";
    private static final Duration HOUR = Duration.ofHours(1);
    private static final int MOST_GATEWAYS = 5;
    private static final int SHOWN_DAYS = 30;
    /** After so long nobody asks a gateway any more what became of a message. */
    private static final Duration ASKED_FOR = Duration.ofHours(1);

    private static final Pattern NUMBER = Pattern.compile("\\+[1-9][0-9]{6,14}(;ext=[0-9]{1,11})?");

    private final Session database;
    private final EventLog events;
    private final KeyRing keys;
    private final Standing standing;
    private final ChannelStates states;
    private final PhoneGateway gateways;
    private final Approvals approvals;
    private final ServiceSettings settings;
    private final JsonMapper json;
    private final InstantSource clock;
    private final TransactionTemplate transaction;

    PhoneChannel(
            Session database,
            EventLog events,
            KeyRing keys,
            Standing standing,
            ChannelStates states,
            PhoneGateway gateways,
            Approvals approvals,
            ServiceSettings settings,
            JsonMapper json,
            InstantSource clock,
            TransactionTemplate transaction) {
        this.database = database;
        this.events = events;
        this.keys = keys;
        this.standing = standing;
        this.states = states;
        this.gateways = gateways;
        this.approvals = approvals;
        this.settings = settings;
        this.json = json;
        this.clock = clock;
        this.transaction = transaction;
    }

    /** All that sending needs; {@code perNumber} and the others as in {@link PhoneApi.PhoneChannel}. */
    record InForce(List<Gateway> gateways, int perNumber, int perPrefix, int perCountry) {
        static final InForce NOTHING = new InForce(List.of(), 6, 60, 1000);

        List<Gateway> sending(Channel channel) {
            return gateways.stream().filter(g -> g.sends().contains(channel)).toList();
        }
    }

    /** One gateway. */
    record Gateway(String name, URI url, String secret, List<Channel> sends, BigDecimal price) {
        URI at(String path) {
            var base = url.toString();
            return URI.create(base.endsWith("/") ? base + path : base + "/" + path);
        }

        String way() {
            return "phone gateway " + name;
        }

        /** Shows nothing of the secret. */
        @Override
        public String toString() {
            return name + " at " + url;
        }
    }

    InForce inForce() {
        return transaction.execute(
                status -> standing.kept(Standing.Topic.CHANNEL, "phone", InForce.class, this::stored));
    }

    private record Stored(byte[] sealed) {}

    /** Settings and secrets are kept together, encrypted. */
    private InForce stored() {
        return Sql.rows(database, "SELECT sealed FROM phone_channel", Stored.class)
                .getResultStream()
                .findFirst()
                .map(s -> json.readValue(keys.decrypt(CONTEXT, s.sealed()), InForce.class))
                .orElse(InForce.NOTHING);
    }

    /** The channels by which nothing can be sent, as far as is known. */
    public Set<Channel> broken() {
        var set = inForce();
        var broken = EnumSet.noneOf(Channel.class);
        for (var channel : List.of(Channel.TEXT, Channel.VOICE)) {
            if (set.sending(channel).stream().noneMatch(this::works)) {
                broken.add(channel);
            }
        }
        return broken;
    }

    private boolean works(Gateway gateway) {
        return states.of(gateway.way()).map(ChannelStates.State::works).orElse(true);
    }

    /**
     * What one message to a number takes. Strangers share what there is for theirs; known browsers and networks have their own, so
     * that nobody who is known is kept from a code by others.
     *
     * @param number E.164
     */
    public List<Charge> charges(String number, Familiarity from) {
        var set = inForce();
        var end = from == Familiarity.NONE ? "" : " " + from.label();
        var plain = number.replaceAll(";.*", "");
        return List.of(
                new Charge("phone-number", plain + end, HOUR, 1, set.perNumber()),
                new Charge("phone-prefix", plain.substring(0, plain.length() - 4) + end, HOUR, 1, set.perPrefix()),
                new Charge("phone-country", PhoneCountries.of(plain) + end, HOUR, 1, set.perCountry()));
    }

    /**
     * Sends one message by the first gateway that takes it; those that did not work last are tried last.
     *
     * @param id stays the same over all tries
     */
    MessageWorker.Taken send(InForce by, Channel channel, UUID id, String to, String text, String language)
            throws NotSent {
        var extension = to.contains(";ext=") ? to.substring(to.indexOf(";ext=") + 5) : null;
        var message = new PhoneApi.Message(
                id.toString(), channel.label(), to.replaceAll(";.*", ""), extension, text, language);
        var why = "no gateway for it is set up";
        for (var gateway : by.sending(channel).stream()
                .sorted(Comparator.comparing(g -> !works(g)))
                .toList()) {
            var answer = send(gateway, channel, message);
            if (answer.reference() != null) {
                return new MessageWorker.Taken(gateway.name(), answer.reference());
            }
            why = gateway.name() + ": " + answer.why();
        }
        // Tried again in any case: by its id a gateway knows a message that it has taken already.
        throw new NotSent(why, NotSent.Fate.LATER);
    }

    private PhoneGateway.Answer send(Gateway gateway, Channel channel, PhoneApi.Message message) {
        var answer = gateways.send(gateway, message);
        if (answer.reference() != null) {
            states.showed(gateway.way(), true, null);
            transaction.executeWithoutResult(status -> spent(gateway.name(), channel.label(), 1, gateway.price()));
        } else if (!answer.works()) {
            states.showed(gateway.way(), false, answer.why());
        }
        return answer;
    }

    /** While one does not work, looks again by itself. */
    @WhenDue(value = "SELECT FROM channel_state WHERE channel LIKE 'phone gateway %' AND NOT works", pause = 5)
    void lookAgain() {
        for (var gateway : inForce().gateways()) {
            if (!works(gateway)) {
                var answer = gateways.look(gateway);
                states.showed(gateway.way(), answer.works(), answer.why());
            }
        }
    }

    private void spent(String gateway, String channel, int messages, BigDecimal cost) {
        Sql.change(database, """
                        INSERT INTO phone_use (day, gateway, channel, messages, cost)
                        VALUES (:day, :gateway, :channel, :messages, :cost)
                        ON CONFLICT (day, gateway, channel) DO UPDATE SET messages = phone_use.messages + excluded.messages,
                            cost = phone_use.cost + excluded.cost""")
                .setParameter("day", LocalDate.ofInstant(clock.instant(), ZoneOffset.UTC))
                .setParameter("gateway", gateway)
                .setParameter("channel", channel)
                .setParameter("messages", messages)
                .setParameter("cost", cost)
                .executeUpdate();
    }

    /** A gateway tells what became of a message; it is told once. */
    private void arrived(Gateway gateway, PhoneApi.MessageState state) {
        if (state.state() == null
                || !List.of("delivered", "undelivered", "unknown").contains(state.state())) {
            return;
        }
        transaction.executeWithoutResult(status -> Sql.rows(database, """
                        UPDATE notification SET arrival = :state
                        WHERE gateway = :gateway AND gateway_reference = :reference AND arrival IS NULL
                        RETURNING\s""" + MessageFate.COLUMNS, MessageFate.class)
                .setParameter("state", state.state())
                .setParameter("gateway", gateway.name())
                .setParameter("reference", state.reference())
                .getResultStream()
                .findFirst()
                .ifPresent(row -> {
                    if (state.price() != null) {
                        spent(gateway.name(), row.channel(), 0, state.price().subtract(gateway.price()));
                    }
                    if (!state.state().equals("unknown")) {
                        events.write(row.event("notification." + state.state()).with("why", harmless(state.reason())));
                    }
                }));
    }

    /** A gateway's own words may repeat number or text; only such as can hold neither go on record. */
    private static String harmless(String reason) {
        return reason != null && reason.matches("[A-Za-z ,.'()-]{1,100}") ? reason : null;
    }

    /**
     * A gateway's own call.
     *
     * @param target as the gateway addressed it
     * @throws Problem 401 if the gateway did not sign it
     */
    void told(String name, URI target, byte[] body, String digest, String input, String signature) {
        var gateway = inForce().gateways().stream()
                .filter(g -> g.name().equals(name))
                .findFirst()
                .orElse(null);
        // For a gateway that there is not, the same work is done.
        var secret =
                gateway == null ? keys.derived("no gateway") : gateway.secret().getBytes(StandardCharsets.UTF_8);
        if (!HttpSignature.verifies(
                        "POST", target.toString(), body, digest, input, signature, secret, KEY, clock.instant())
                || gateway == null) {
            throw Problem.of("gateway-signature");
        }
        try {
            arrived(gateway, json.readValue(body, PhoneApi.MessageState.class));
        } catch (JacksonException e) {
            throw Problem.of("gateway-state");
        }
    }

    private record OnItsWay(String gateway, String reference, Instant endedAt) {}

    /** What gateways do not tell they are asked for. */
    @WhenDue(value = """
            SELECT FROM notification WHERE gateway_reference IS NOT NULL AND arrival IS NULL
            AND arrival_asked_at < entente_now() - interval '30 seconds'""", pause = 2)
    void ask() {
        var by = inForce();
        var waiting = transaction.execute(status -> Sql.rows(database, """
                        UPDATE notification SET arrival_asked_at = :now WHERE id IN (
                            SELECT id FROM notification WHERE gateway_reference IS NOT NULL AND arrival IS NULL
                            AND arrival_asked_at < :before ORDER BY arrival_asked_at LIMIT 20 FOR UPDATE SKIP LOCKED)
                        RETURNING gateway, gateway_reference AS reference, ended_at""", OnItsWay.class)
                .setParameter("now", clock.instant())
                .setParameter("before", clock.instant().minusSeconds(30))
                .getResultList());
        for (var one : waiting) {
            var gateway = by.gateways().stream()
                    .filter(g -> g.name().equals(one.gateway()))
                    .findFirst()
                    .orElse(new Gateway(one.gateway(), null, "", List.of(), BigDecimal.ZERO));
            var late = one.endedAt().plus(ASKED_FOR).isBefore(clock.instant());
            var state = gateway.url() == null
                    ? Optional.<PhoneApi.MessageState>empty()
                    : gateways.state(gateway, one.reference());
            state.map(said -> new PhoneApi.MessageState(one.reference(), said.state(), said.reason(), said.price()))
                    .ifPresent(said -> arrived(gateway, said));
            if (late) {
                arrived(gateway, new PhoneApi.MessageState(one.reference(), "unknown", null, null));
            }
        }
    }

    private record Day(LocalDate day, String gateway, String channel, int messages, BigDecimal cost) {}

    /** How it is set, without secrets. */
    PhoneApi.PhoneChannel shown() {
        var set = inForce();
        var spent = transaction.execute(status -> Sql.rows(database, """
                        SELECT day, gateway, channel, messages, cost FROM phone_use WHERE day > :since
                        ORDER BY day DESC, gateway, channel""", Day.class)
                .setParameter(
                        "since",
                        LocalDate.ofInstant(clock.instant(), ZoneOffset.UTC).minusDays(SHOWN_DAYS))
                .getResultList());
        return new PhoneApi.PhoneChannel(
                set.gateways().stream()
                        .map(g -> {
                            var state = states.of(g.way());
                            return new PhoneApi.Gateway(
                                    g.name(),
                                    g.url().toString(),
                                    g.sends().stream().map(Channel::label).toList(),
                                    g.price(),
                                    state.map(ChannelStates.State::works).orElse(null),
                                    state.map(ChannelStates.State::why).orElse(null),
                                    state.map(ChannelStates.State::since).orElse(null));
                        })
                        .toList(),
                set.perNumber(),
                set.perPrefix(),
                set.perCountry(),
                spent.stream()
                        .map(d -> new PhoneApi.Spent(d.day(), d.gateway(), d.channel(), d.messages(), d.cost()))
                        .toList());
    }

    /** Sets through whom telephones are reached from now on, or proposes it; whether it is set. */
    boolean set(PhoneApi.PhoneSettings wanted, String administrator) {
        var before = inForce();
        var given = wanted.gateways() == null ? List.<PhoneApi.NewGateway>of() : wanted.gateways();
        if (given.size() > MOST_GATEWAYS) {
            throw Problem.of("too-many-gateways").with("mostGateways", MOST_GATEWAYS);
        }
        var after = new InForce(
                given.stream().map(g -> gateway(g, before)).toList(),
                limit(wanted.perNumber(), before.perNumber()),
                limit(wanted.perPrefix(), before.perPrefix()),
                limit(wanted.perCountry(), before.perCountry()));
        if (after.gateways().stream().map(Gateway::name).distinct().count() < given.size()) {
            throw Problem.of("gateway-name");
        }
        var says = changes(before, after);
        return Boolean.TRUE.equals(transaction.execute(status -> approvals.make(KIND, "", says, after, administrator)));
    }

    private static int limit(Integer wanted, int before) {
        if (wanted != null && (wanted < 1 || wanted > 1_000_000)) {
            throw Problem.of("phone-limit");
        }
        return wanted == null ? before : wanted;
    }

    private static Gateway gateway(PhoneApi.NewGateway wanted, InForce before) {
        if (wanted.name() == null || !wanted.name().matches("[a-z0-9][a-z0-9-]{0,40}")) {
            throw Problem.of("gateway-name/form");
        }
        URI url;
        try {
            url = URI.create(wanted.url() == null ? "" : wanted.url().strip());
        } catch (IllegalArgumentException e) {
            url = URI.create("");
        }
        var here = url.getHost() != null
                && Set.of("127.0.0.1", "localhost", "[::1]").contains(url.getHost());
        if (url.getHost() == null || !("https".equals(url.getScheme()) || here && "http".equals(url.getScheme()))) {
            throw Problem.of("gateway-url");
        }
        var sends = wanted.sends() == null
                ? List.<Channel>of()
                : wanted.sends().stream()
                        .map(s -> Channel.labelled(s)
                                .filter(Channel::costs)
                                .orElseThrow(() -> Problem.of("gateway-sends")))
                        .distinct()
                        .toList();
        if (sends.isEmpty()) {
            throw Problem.of("gateway-sends");
        }
        var price = wanted.price() == null ? BigDecimal.ZERO : wanted.price();
        if (price.signum() < 0 || price.scale() > 6 || price.compareTo(BigDecimal.valueOf(1000)) > 0) {
            throw Problem.of("gateway-price");
        }
        var at = url;
        // Kept for the same address only, or whoever may set the channel could have it used against their own.
        var secret = wanted.secret() != null && !wanted.secret().isEmpty()
                ? wanted.secret()
                : before.gateways().stream()
                        .filter(g -> g.name().equals(wanted.name()) && g.url().equals(at))
                        .findFirst()
                        .map(Gateway::secret)
                        .orElse("");
        if (secret.length() < 16 || secret.length() > 200) {
            throw Problem.of("gateway-secret").with("name", wanted.name());
        }
        return new Gateway(wanted.name(), url, secret, sends, price);
    }

    /** Old and new values, a sentence each; of secrets only that they are other ones. */
    private static List<String> changes(InForce before, InForce after) {
        var says = new ArrayList<String>();
        var was = before.gateways().stream().map(PhoneChannel::words).toList();
        var is = after.gateways().stream().map(PhoneChannel::words).toList();
        if (!was.equals(is)) {
            says.add("Telephones were reached through " + listed(was) + " and are reached through " + listed(is) + ".");
        }
        if (!secrets(before).equals(secrets(after))) {
            says.add("Secrets of gateways are other ones than before.");
        }
        if (before.perNumber() != after.perNumber()
                || before.perPrefix() != after.perPrefix()
                || before.perCountry() != after.perCountry()) {
            says.add("Limits within an hour were " + limits(before) + " and are " + limits(after) + ".");
        }
        return says;
    }

    private static Map<String, String> secrets(InForce set) {
        return set.gateways().stream().collect(Collectors.toMap(Gateway::name, Gateway::secret));
    }

    private static String words(Gateway gateway) {
        return gateway + " ("
                + gateway.sends().stream().map(Channel::label).collect(Collectors.joining(", ")) + ", "
                + gateway.price().toPlainString() + " a message)";
    }

    private static String listed(List<String> gateways) {
        return gateways.isEmpty() ? "no gateway" : String.join(", then ", gateways);
    }

    private static String limits(InForce set) {
        return set.perNumber() + " to a number, " + set.perPrefix() + " to numbers that are alike, " + set.perCountry()
                + " to a country";
    }

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void make(Approvals.Approved change) {
        if (!change.kind().equals(KIND)) {
            return;
        }
        inForce().gateways().forEach(g -> states.forget(g.way()));
        Sql.change(database, """
                        INSERT INTO phone_channel (sealed, changed_at) VALUES (:sealed, :now)
                        ON CONFLICT (id) DO UPDATE SET sealed = excluded.sealed, changed_at = excluded.changed_at""")
                .setParameter("sealed", keys.encrypt(CONTEXT, change.wanted()))
                .setParameter("now", Timestamp.from(clock.instant()))
                .executeUpdate();
        change.handled().set(true);
    }

    /** Sends a test to one number. */
    PhoneApi.PhoneTried test(PhoneApi.PhoneTest test, String administrator) {
        var number = test.number() == null ? "" : test.number().replaceAll("[\\s()-]", "");
        if (!NUMBER.matcher(number).matches()) {
            throw Problem.of("phone-test-number");
        }
        var channel = Channel.labelled(test.channel() == null ? "text" : test.channel())
                .filter(Channel::costs)
                .orElseThrow(() -> Problem.of("gateway-sends"));
        var sending = inForce().sending(channel);
        var gateway = sending.stream()
                .filter(g -> test.gateway() == null || g.name().equals(test.gateway()))
                .findFirst()
                .orElseThrow(() -> Problem.of("gateway-not-found")
                        .with("label", channel.label())
                        .with("what", (test.gateway() == null ? "" : " and is named so")));
        var answer = send(
                gateway,
                channel,
                new PhoneApi.Message(
                        UUID.randomUUID().toString(),
                        channel.label(),
                        number.replaceAll(";.*", ""),
                        null,
                        settings.organisation() + ": this is a test. You don't need to do anything.",
                        "en"));
        transaction.executeWithoutResult(status -> events.write(NewEvent.administration("channel.tested", administrator)
                .with("channel", gateway.way())
                .with("why", answer.why())));
        return new PhoneApi.PhoneTried(
                answer.reference() != null,
                gateway.name(),
                answer.said().isEmpty() ? answer.why() : answer.why() + ": " + answer.said());
    }
}
