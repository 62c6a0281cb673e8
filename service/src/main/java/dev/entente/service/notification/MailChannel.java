package dev.entente.service.notification;

import dev.entente.core.policy.MessageText;
import dev.entente.service.approval.Approvals;
import dev.entente.service.audit.EventLog;
import dev.entente.service.audit.NewEvent;
import dev.entente.service.platform.KeyRing;
import dev.entente.service.platform.Problem;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.service.platform.Sql;
import dev.entente.service.platform.Standing;
import dev.entente.service.platform.WhenDue;
import dev.entente.wire.MailApi;
import jakarta.annotation.PreDestroy;
import jakarta.mail.Message;
import jakarta.mail.MessagingException;
import jakarta.mail.Transport;
import jakarta.mail.internet.InternetAddress;
import jakarta.mail.internet.MimeBodyPart;
import jakarta.mail.internet.MimeMessage;
import jakarta.mail.internet.MimeMultipart;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.OutputStream;
import java.io.PrintStream;
import java.nio.charset.StandardCharsets;
import java.sql.Timestamp;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Date;
import java.util.List;
import java.util.Objects;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicBoolean;
import org.hibernate.Session;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.context.event.EventListener;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Propagation;
import org.springframework.transaction.annotation.Transactional;
import org.springframework.transaction.support.TransactionTemplate;
import tools.jackson.databind.json.JsonMapper;

/**
 * How mail is sent: as an administrator set it in the console, else as the node was configured. Knows whether it works, so
 * that nobody is asked for a code that cannot reach them.
 */
@Component
public class MailChannel {
    private static final String WAY = "mail";
    private static final String KIND = "mail-channel";
    private static final String CONTEXT = "password of the mail channel v1";
    private static final int MOST_LINES = 200;
    private static final String DKIM_CONTEXT = "key that signs mail v1";
    private static final int MOST_ADMINISTRATORS = 10;
    private static final int NEWS_A_MINUTE = 300;
    private static final int MOST_NEWS_A_MINUTE = 100_000;

    private final Session database;
    private final EventLog events;
    private final KeyRing keys;
    private final ServiceSettings settings;
    private final TransactionTemplate transaction;
    private final Standing standing;
    private final ChannelStates states;
    private final InstantSource clock;
    private final Approvals approvals;
    private final JsonMapper json;
    private final Set ofNode;
    private volatile Opened kept;
    private final MailConnections connections;

    MailChannel(
            Session database,
            EventLog events,
            KeyRing keys,
            ServiceSettings settings,
            TransactionTemplate transaction,
            Standing standing,
            ChannelStates states,
            InstantSource clock,
            Approvals approvals,
            JsonMapper json,
            @Value("${spring.mail.host}") String host,
            @Value("${spring.mail.port}") int port,
            @Value("${spring.mail.username:}") String login,
            @Value("${spring.mail.password:}") String password) {
        this.database = database;
        this.events = events;
        this.keys = keys;
        this.settings = settings;
        this.transaction = transaction;
        this.standing = standing;
        this.states = states;
        this.clock = clock;
        this.approvals = approvals;
        this.json = json;
        this.connections = new MailConnections(clock);
        this.ofNode = new Set(
                host,
                port,
                // Of a server on this machine no certificate is asked.
                host.equals("127.0.0.1") || host.equals("localhost") ? "none" : "starttls",
                login.isEmpty() ? null : login,
                password.isEmpty() ? null : password,
                settings.mailFrom(),
                settings.administrators(),
                NEWS_A_MINUTE,
                null,
                null);
    }

    /**
     * All that sending needs.
     *
     * @param newsPerMinute how many messages without a code go in a minute
     * @param dkimSelector where in the sender's domain the public key is that mail is signed for (RFC 6376); null if it is not signed
     * @param dkimKey the private one, PKCS #8 in Base64
     */
    record Set(
            String host,
            int port,
            String security,
            String login,
            String password,
            String sender,
            List<String> administrators,
            int newsPerMinute,
            String dkimSelector,
            String dkimKey) {
        Set {
            // A change that was proposed before there was a pace.
            newsPerMinute = newsPerMinute == 0 ? NEWS_A_MINUTE : newsPerMinute;
        }

        String domain() {
            return sender.substring(sender.indexOf('@') + 1);
        }

        /** A record's text would show the password. */
        @Override
        public String toString() {
            return host + ":" + port;
        }
    }

    /** @param signs null where mail is not signed */
    private record Opened(Set set, jakarta.mail.Session session, MailSignature signs) {}

    private Set inForce() {
        return transaction.execute(status -> standing.kept(Standing.Topic.CHANNEL, "mail", Set.class, this::set));
    }

    private Set set() {
        return Sql.rows(
                        database,
                        "SELECT host, port, security, login, password, sender, administrators, news_per_minute, dkim_selector,"
                                + " dkim_key FROM mail_channel",
                        Stored.class)
                .getResultStream()
                .findFirst()
                .map(s -> new Set(
                        s.host(),
                        s.port(),
                        s.security(),
                        s.login(),
                        s.password() == null ? null : keys.decrypt(CONTEXT, s.password()),
                        s.sender(),
                        List.copyOf(s.administrators()),
                        s.newsPerMinute(),
                        s.dkimSelector(),
                        s.dkimKey() == null ? null : keys.decrypt(DKIM_CONTEXT, s.dkimKey())))
                .orElse(ofNode);
    }

    /** @param password encrypted; null if there is none */
    private record Stored(
            String host,
            int port,
            String security,
            String login,
            byte[] password,
            String sender,
            List<String> administrators,
            int newsPerMinute,
            String dkimSelector,
            byte[] dkimKey) {}

    /** Where administrators are told of what concerns them; nobody, if that was not said. */
    public List<String> administrators() {
        return inForce().administrators();
    }

    private static jakarta.mail.Session session(Set set) {
        return MailProtocol.session("smtp", set.security(), set.login() != null);
    }

    /** How messages are sent now, and whether that is known to work. */
    record By(Set set, boolean works) {}

    @Transactional(propagation = Propagation.MANDATORY)
    By by() {
        return new By(inForce(), state().filter(ChannelStates.State::works).isPresent());
    }

    /**
     * Sends one message.
     *
     * @param by as it was when the message was taken up
     * @param id stays the same over all tries, so that a receiver can tell a repetition
     * @param given becomes true as soon as the server has the whole message
     */
    void send(By by, UUID id, Outbox.Letter letter, AtomicBoolean given) throws MessagingException, IOException {
        var opened = kept(by.set());
        send(by.set(), mime(opened, id, letter, given));
    }

    /** A session looks through all libraries for what it can do, so one is kept for as long as the settings stay. */
    private Opened kept(Set set) {
        var known = kept;
        if (known == null || !known.set().equals(set)) {
            known = opened(set, session(set));
            kept = known;
        }
        return known;
    }

    private static Opened opened(Set set, jakarta.mail.Session session) {
        return new Opened(
                set,
                session,
                set.dkimSelector() == null
                        ? null
                        : new MailSignature(set.domain(), set.dkimSelector(), MailSignature.key(set.dkimKey())));
    }

    /** A message on its way through one session: its text, and the same as a page for readers that show one. */
    private MimeMessage mime(Opened opened, UUID id, Outbox.Letter letter, AtomicBoolean given)
            throws MessagingException, IOException {
        var set = opened.set();
        var mime = new MimeMessage(opened.session()) {
            @Override
            public void writeTo(OutputStream out, String[] without) throws IOException, MessagingException {
                super.writeTo(out, without);
                given.set(true);
            }

            @Override
            protected void updateMessageID() throws MessagingException {
                setHeader("Message-ID", "<" + id + "@" + set.domain() + ">");
            }
        };
        mime.setFrom(new InternetAddress(set.sender(), settings.organisation(), StandardCharsets.UTF_8.name()));
        mime.setRecipient(Message.RecipientType.TO, new InternetAddress(letter.to()));
        mime.setSubject(letter.subject(), StandardCharsets.UTF_8.name());
        if (letter.html() == null) {
            mime.setText(letter.text(), StandardCharsets.UTF_8.name());
        } else {
            var text = new MimeBodyPart();
            text.setText(letter.text(), StandardCharsets.UTF_8.name());
            var page = new MimeBodyPart();
            page.setText(letter.html(), StandardCharsets.UTF_8.name(), "html");
            // The last is what a reader prefers that can show it (RFC 2046, section 5.1.4).
            mime.setContent(new MimeMultipart("alternative", text, page));
        }
        if (letter.quiet() != null) {
            mime.setHeader("List-Unsubscribe", "<" + letter.quiet() + ">");
        }
        mime.setSentDate(Date.from(clock.instant()));
        mime.setHeader("Auto-Submitted", "auto-generated");
        mime.saveChanges();
        return opened.signs() == null ? mime : opened.signs().sign(mime, given);
    }

    /** By a connection that is open already, where there is one. */
    private void send(Set set, MimeMessage mime) throws MessagingException {
        var open = connections.take(set).orElse(null);
        if (open == null) {
            open = new MailConnections.Open(set, kept(set).session().getTransport(), 0, clock.instant());
            connect(open.transport(), set);
        }
        try {
            open.transport().sendMessage(mime, mime.getAllRecipients());
        } catch (MessagingException e) {
            MailConnections.close(open);
            throw e;
        }
        connections.give(open);
    }

    @PreDestroy
    void hangUp() {
        connections.sweep(Instant.MAX);
    }

    /** Servers end what is silent; so do we, before they are bothered. */
    @Scheduled(fixedDelay = 5_000)
    void hangUpIdle() {
        connections.sweep(clock.instant().minus(MailConnections.LONGEST_IDLE));
    }

    private static void connect(Transport transport, Set set) throws MessagingException {
        transport.connect(set.host(), set.port(), set.login(), set.password());
    }

    /** Whether codes can be sent by it, as far as is known. */
    public boolean works() {
        return state().map(ChannelStates.State::works).orElse(true);
    }

    private Optional<ChannelStates.State> state() {
        return states.of(WAY);
    }

    /** What the last try showed; a change of it is on record. */
    void showed(boolean works, String why) {
        states.showed(WAY, works, why);
    }

    /** While it does not work, looks again by itself. */
    @WhenDue(value = "SELECT FROM channel_state WHERE channel = 'mail' AND NOT works", pause = 5)
    void lookAgain() {
        if (works()) {
            return;
        }
        var set = inForce();
        try (var transport = session(set).getTransport()) {
            connect(transport, set);
            showed(true, null);
        } catch (MessagingException e) {
            showed(false, reason(e));
        }
    }

    /** How it is set, without the password. */
    MailApi.MailChannel shown() {
        var set = inForce();
        var state = state();
        return new MailApi.MailChannel(
                set.host(),
                set.port(),
                set.security(),
                set.login(),
                set.sender(),
                set.administrators(),
                state.map(ChannelStates.State::works).orElse(null),
                state.map(ChannelStates.State::why).orElse(null),
                state.map(s -> s.since()).orElse(null),
                set.newsPerMinute(),
                set.dkimSelector(),
                set.dkimSelector() == null
                        ? null
                        : set.dkimSelector() + "._domainkey." + set.domain() + " TXT "
                                + MailSignature.record(MailSignature.key(set.dkimKey())));
    }

    /** Sets how mail is sent from now on, or proposes it; whether it is set. */
    boolean set(MailApi.MailSettings wanted, String administrator) {
        if (wanted.host() == null || !wanted.host().matches("[A-Za-z0-9.:-]{1,253}")) {
            throw Problem.of("mail-host");
        }
        if (wanted.port() < 1 || wanted.port() > 65_535) {
            throw Problem.of("mail-port");
        }
        if (wanted.security() == null || !List.of("none", "starttls", "tls").contains(wanted.security())) {
            throw Problem.of("mail-security");
        }
        if (wanted.sender() == null || !wanted.sender().matches("[^@\\s]+@[^@\\s]+")) {
            throw Problem.of("mail-sender");
        }
        var administrators = wanted.administrators() == null ? List.<String>of() : wanted.administrators();
        if (administrators.size() > MOST_ADMINISTRATORS
                || !administrators.stream().allMatch(a -> a != null && a.matches("[^@\\s,]+@[^@\\s,]+"))) {
            throw Problem.of("mail-administrators").with("mostAdministrators", MOST_ADMINISTRATORS);
        }
        var before = inForce();
        var login = wanted.login() == null || wanted.login().isBlank() ? null : wanted.login();
        if (login != null && wanted.security().equals("none")) {
            throw Problem.of("mail-password-needs-tls");
        }
        var given = wanted.password() != null && !wanted.password().isEmpty();
        // Kept for the same server only, or whoever may set the channel could have the password sent to their own.
        var kept = wanted.host().equals(before.host())
                        && wanted.port() == before.port()
                        && login != null
                        && login.equals(before.login())
                ? before.password()
                : null;
        var password = login == null ? null : given ? wanted.password() : kept;
        if (login != null && password == null) {
            throw Problem.of("mail-password-missing");
        }
        var pace = wanted.newsPerMinute() == null ? before.newsPerMinute() : wanted.newsPerMinute();
        if (pace < 1 || pace > MOST_NEWS_A_MINUTE) {
            throw Problem.of("mail-pace").with("mostNewsAMinute", MOST_NEWS_A_MINUTE);
        }
        var selector = wanted.dkimSelector() == null
                ? before.dkimSelector()
                : wanted.dkimSelector().isBlank() ? null : wanted.dkimSelector();
        if (selector != null && !selector.matches("[a-z0-9]([a-z0-9-]{0,61}[a-z0-9])?")) {
            throw Problem.of("mail-selector");
        }
        // Another selector gets a key of its own, so that the old one stays good until its record is taken away.
        var key = selector == null
                ? null
                : selector.equals(before.dkimSelector()) ? before.dkimKey() : MailSignature.newKey();
        var after = new Set(
                wanted.host(),
                wanted.port(),
                wanted.security(),
                login,
                password,
                wanted.sender(),
                administrators,
                pace,
                selector,
                key);
        var says = changes(before, after);
        return Boolean.TRUE.equals(transaction.execute(status -> approvals.make(KIND, "", says, after, administrator)));
    }

    /** Old and new values, a sentence each; of the password only that it is another one. */
    private static List<String> changes(Set before, Set after) {
        var says = new ArrayList<String>();
        if (!before.toString().equals(after.toString()) || !before.security().equals(after.security())) {
            says.add("Mail was sent through " + before + " (" + before.security() + ") and is sent through " + after
                    + " (" + after.security() + ").");
        }
        if (!before.sender().equals(after.sender())) {
            says.add("Its sender was " + before.sender() + " and is " + after.sender() + ".");
        }
        if (!Objects.equals(before.login(), after.login()) || !Objects.equals(before.password(), after.password())) {
            says.add("It signs in there otherwise than before.");
        }
        if (before.newsPerMinute() != after.newsPerMinute()) {
            says.add("At most " + before.newsPerMinute() + " messages without a code went in a minute, and "
                    + after.newsPerMinute() + " go.");
        }
        if (!Objects.equals(before.dkimSelector(), after.dkimSelector())) {
            says.add(
                    after.dkimSelector() == null
                            ? "Mail isn't signed any more."
                            : "Mail is signed for " + after.dkimSelector() + "._domainkey." + after.domain() + ".");
        }
        if (!before.administrators().equals(after.administrators())) {
            says.add("Administrators were told at " + listed(before.administrators()) + " and are told at "
                    + listed(after.administrators()) + ".");
        }
        return says;
    }

    private static String listed(List<String> addresses) {
        return addresses.isEmpty() ? "no address" : String.join(", ", addresses);
    }

    @EventListener
    @Transactional(propagation = Propagation.MANDATORY)
    public void make(Approvals.Approved change) {
        if (!change.kind().equals(KIND)) {
            return;
        }
        var wanted = json.readValue(change.wanted(), Set.class);
        Sql.change(database, """
                        INSERT INTO mail_channel (host, port, security, login, password, sender, administrators, changed_at,
                            news_per_minute, dkim_selector, dkim_key)
                        VALUES (:host, :port, :security, :login, cast(:password AS bytea), :sender,
                            cast(:administrators AS text[]), :now, :pace, cast(:selector AS text), cast(:key AS bytea))
                        ON CONFLICT (id) DO UPDATE SET host = excluded.host, port = excluded.port,
                            security = excluded.security, login = excluded.login, password = excluded.password,
                            sender = excluded.sender, administrators = excluded.administrators, changed_at = excluded.changed_at,
                            news_per_minute = excluded.news_per_minute, dkim_selector = excluded.dkim_selector,
                            dkim_key = excluded.dkim_key""")
                .setParameter("pace", wanted.newsPerMinute())
                .setParameter("selector", wanted.dkimSelector())
                .setParameter("key", wanted.dkimKey() == null ? null : keys.encrypt(DKIM_CONTEXT, wanted.dkimKey()))
                .setParameter("host", wanted.host())
                .setParameter("port", wanted.port())
                .setParameter("security", wanted.security())
                .setParameter("login", wanted.login())
                .setParameter("password", wanted.password() == null ? null : keys.encrypt(CONTEXT, wanted.password()))
                .setParameter("sender", wanted.sender())
                .setParameter("administrators", wanted.administrators().toArray(String[]::new))
                .setParameter("now", Timestamp.from(clock.instant()))
                .executeUpdate();
        change.handled().set(true);
    }

    /** Sends a test message and keeps what was said on the wire; the sign-in is left out of it. */
    MailApi.MailTried test(String address, String administrator) {
        return test(
                address,
                new MessageText.Filled(
                        "en",
                        settings.organisation() + ": test",
                        "This is a test of the mail channel. You don't need to do anything.\n",
                        null),
                administrator);
    }

    /** The same with a message of some text. */
    public MailApi.MailTried test(String address, MessageText.Filled message, String administrator) {
        if (address == null || !address.matches("[^@\\s]+@[^@\\s]+")) {
            throw Problem.of("mail-test-address");
        }
        var set = inForce();
        var wire = new ByteArrayOutputStream();
        var session = session(set);
        session.setDebugOut(new PrintStream(wire, true, StandardCharsets.UTF_8));
        session.setDebug(true);
        String why = null;
        // On a connection of its own, so that the conversation is whole.
        try (var transport = session.getTransport()) {
            var mime = mime(
                    opened(set, session),
                    UUID.randomUUID(),
                    new Outbox.Letter(
                            address, message.subject(), message.text(), message.html(), message.language(), null),
                    new AtomicBoolean());
            connect(transport, set);
            transport.sendMessage(mime, mime.getAllRecipients());
        } catch (MessagingException | IOException e) {
            why = reason(e);
        }
        showed(why == null, why);
        var said = why;
        transaction.executeWithoutResult(status -> events.write(NewEvent.administration("channel.tested", administrator)
                .with("channel", "mail")
                .with("why", said)));
        var conversation = Arrays.stream(wire.toString(StandardCharsets.UTF_8).split("\\R"))
                .filter(line -> !line.startsWith("DEBUG: "))
                .limit(MOST_LINES)
                .toList();
        return new MailApi.MailTried(why == null, why, conversation);
    }

    /** Why it failed, in one line; servers and certificates say it best themselves. */
    static String reason(Exception e) {
        Throwable inner = e;
        while (inner instanceof MessagingException messaging && messaging.getNextException() != null) {
            inner = messaging.getNextException();
        }
        var said = String.valueOf(inner.getMessage()).lines().findFirst().orElse("");
        var line = inner.getClass().getSimpleName() + ": " + said;
        return line.length() > 200 ? line.substring(0, 200) + "…" : line;
    }
}
