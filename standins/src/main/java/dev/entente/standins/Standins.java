package dev.entente.standins;

import com.icegreen.greenmail.store.FolderException;
import com.icegreen.greenmail.store.StoredMessage;
import com.icegreen.greenmail.util.GreenMail;
import com.icegreen.greenmail.util.ServerSetup;
import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import jakarta.mail.MessagingException;
import jakarta.mail.Multipart;
import jakarta.mail.Part;
import jakarta.mail.internet.MimeMessage;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.net.URI;
import java.net.URLDecoder;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Collections;
import java.util.Comparator;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.Executors;
import tools.jackson.databind.json.JsonMapper;

/**
 * A mailbox that takes mail for anybody over SMTP, and a phone network that takes text messages over HTTP; one page shows
 * both. Arguments: SMTP port, HTTP port, and for the phone network the secret of its gateways and the service's address. Keeps everything in memory.
 */
public final class Standins {
    private static final JsonMapper JSON = JsonMapper.shared();
    private static final int MOST = 5000;

    private final GreenMail mail;
    // Hundreds of people may look into their mailbox at once: each message is read once.
    private final Map<MimeMessage, Mail> parsed = Collections.synchronizedMap(new IdentityHashMap<>());
    private final PhoneNetwork phones;

    private Standins(int smtpPort, PhoneNetwork phones) {
        this.phones = phones;
        mail = new GreenMail(new ServerSetup(smtpPort, "127.0.0.1", ServerSetup.PROTOCOL_SMTP));
        mail.start();
    }

    /**
     * A message as its reader has it.
     *
     * @param html the page in it; null for none
     * @param quiet where its reader can choose to get no more of its kind; null for nowhere
     */
    private record Mail(String id, String to, String subject, String text, String html, String quiet, long at) {}

    /** Starts both and stays until the process is stopped. */
    public static void main(String[] arguments) throws IOException {
        var phones = new PhoneNetwork(
                arguments.length > 2 ? arguments[2] : UUID.randomUUID().toString(),
                arguments.length > 3 ? URI.create(arguments[3]) : null,
                "http://127.0.0.1:" + arguments[1]);
        var standins = new Standins(Integer.parseInt(arguments[0]), phones);
        var server = HttpServer.create(new InetSocketAddress("127.0.0.1", Integer.parseInt(arguments[1])), 20);
        server.setExecutor(Executors.newFixedThreadPool(4));
        server.createContext("/", standins::page);
        server.createContext("/mail", standins::mail);
        server.createContext("/mail/page", standins::one);
        server.createContext("/mail/raw", standins::one);
        server.createContext("/phone", phones::phones);
        server.createContext("/gateways", phones::gateway);
        server.createContext("/handset", new Handset()::page);
        server.start();
        System.out.println("stand-ins are ready");
    }

    /** Newest first, {@link #MOST} at most. Each address has a mailbox of its own. */
    private List<Mail> mails(String to) {
        var found = new ArrayList<Mail>();
        for (var message : to.isEmpty() ? List.of(mail.getReceivedMessages()) : inbox(to)) {
            try {
                var shown = parsed.get(message);
                if (shown == null) {
                    shown = shown(message);
                    parsed.put(message, shown);
                }
                found.add(shown);
            } catch (MessagingException | IOException e) {
                System.err.println("a message cannot be read: " + e.getMessage());
            }
        }
        // A mailbox keeps the order in which mail arrived: its dates may be wrong where a test moved the clock.
        Collections.reverse(found);
        if (to.isEmpty()) {
            found.sort(Comparator.comparingLong(Mail::at).reversed());
        }
        return found.subList(0, Math.min(MOST, found.size()));
    }

    private List<MimeMessage> inbox(String address) {
        var user = mail.getUserManager().getUserByEmail(address);
        if (user == null) {
            return List.of();
        }
        try {
            return mail.getManagers().getImapHostManager().getInbox(user).getMessages().stream()
                    .map(StoredMessage::getMimeMessage)
                    .toList();
        } catch (FolderException e) {
            throw new IllegalStateException(e);
        }
    }

    private static Mail shown(MimeMessage message) throws MessagingException, IOException {
        return new Mail(
                message.getMessageID(),
                message.getAllRecipients()[0].toString(),
                message.getSubject(),
                part(message, "text/plain"),
                part(message, "text/html"),
                message.getHeader("List-Unsubscribe", null),
                message.getSentDate() == null ? 0 : message.getSentDate().getTime());
    }

    private static String part(Part part, String type) throws MessagingException, IOException {
        if (part.getContent() instanceof Multipart parts) {
            for (var i = 0; i < parts.getCount(); i++) {
                var found = part(parts.getBodyPart(i), type);
                if (found != null) {
                    return found;
                }
            }
            return null;
        }
        return part.isMimeType(type) ? String.valueOf(part.getContent()) : null;
    }

    /** One message, which the query names by its id: as the page in it, or as it came. */
    private void one(HttpExchange exchange) throws IOException {
        var id = URLDecoder.decode(exchange.getRequestURI().getRawQuery(), StandardCharsets.UTF_8);
        for (var message : mail.getReceivedMessages()) {
            try {
                if (id.equals(message.getMessageID())) {
                    if (exchange.getRequestURI().getPath().endsWith("/page")) {
                        answer(exchange, 200, "text/html; charset=utf-8", part(message, "text/html"));
                        return;
                    }
                    var raw = new ByteArrayOutputStream();
                    message.writeTo(raw);
                    answer(exchange, 200, "message/rfc822", raw.toString(StandardCharsets.ISO_8859_1));
                    return;
                }
            } catch (MessagingException e) {
                throw new IOException(e);
            }
        }
        answer(exchange, 404, "text/plain", "");
    }

    private void mail(HttpExchange exchange) throws IOException {
        answer(exchange, 200, "application/json", JSON.writeValueAsString(mails(query(exchange))));
    }

    private static String query(HttpExchange exchange) {
        var query = exchange.getRequestURI().getQuery();
        return query != null && query.startsWith("to=") ? query.substring(3) : "";
    }

    private void page(HttpExchange exchange) throws IOException {
        var html = new StringBuilder("<!doctype html><html lang=en><meta charset=utf-8><meta name=viewport"
                + " content='width=device-width'><meta http-equiv=refresh content=3><title>Stand-in mailbox and telephones</title>"
                + "<style>body{font:16px/1.5 system-ui;max-width:44rem;margin:2rem auto;padding:0 1rem}"
                + "article{border-top:1px solid #999;padding:.5rem 0}pre{white-space:pre-wrap;font:inherit}</style>"
                + "<h1>Stand-in mailbox</h1><p>What people of the demo receive. Nothing leaves this machine.</p>");
        var mails = mails(query(exchange));
        if (mails.isEmpty()) {
            html.append("<p>Nothing yet.</p>");
        }
        for (var mail : mails) {
            html.append("<article><strong>")
                    .append(escape(mail.subject()))
                    .append("</strong><br>to ")
                    .append(escape(mail.to()))
                    .append(
                            mail.html() == null
                                    ? ""
                                    : ", <a href='/mail/page?" + URLEncoder.encode(mail.id(), StandardCharsets.UTF_8)
                                            + "'>as a page</a>")
                    .append("<pre>")
                    .append(linked(escape(mail.text())))
                    .append("</pre></article>");
        }
        html.append("<h2>Telephones</h2>");
        var texts = new ArrayList<>(phones.arrived());
        Collections.reverse(texts);
        if (texts.isEmpty()) {
            html.append("<p>Nothing yet.</p>");
        }
        for (var text : texts) {
            html.append("<article><strong>")
                    .append(text.get("kind").equals("voice") ? "Call" : "Text message")
                    .append("</strong> to ")
                    .append(escape(String.valueOf(text.get("to"))))
                    .append("<pre>")
                    .append(escape(String.valueOf(text.get("text"))))
                    .append("</pre></article>");
        }
        answer(exchange, 200, "text/html; charset=utf-8", html.append("</html>").toString());
    }

    private static String linked(String escaped) {
        return escaped.replaceAll("(https?://[^\\s<]+)", "<a href='$1'>$1</a>");
    }

    static String escape(String text) {
        return text.replace("&", "&amp;")
                .replace("<", "&lt;")
                .replace(">", "&gt;")
                .replace("'", "&#39;");
    }

    static void answer(HttpExchange exchange, int status, String type, String body) throws IOException {
        var bytes = body.getBytes(StandardCharsets.UTF_8);
        exchange.getResponseHeaders().set("Content-Type", type);
        exchange.sendResponseHeaders(status, bytes.length == 0 ? -1 : bytes.length);
        try (var out = exchange.getResponseBody()) {
            out.write(bytes);
        }
    }
}
