package dev.entente.bench;

import java.io.IOException;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.regex.Pattern;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/** The stand-in mailbox, as its owner reads it. */
public final class Mailbox {
    private static final Pattern CODE =
            Pattern.compile("(?m)^\\s+([0-9]{4} [0-9]{4}|(?:[a-z0-9]{4}-){3}[a-z0-9]{4})\\s*$");
    private static final Pattern LINK = Pattern.compile("(https?://\\S+/not-me#\\S+)");

    private final URI box;
    private final HttpClient http = HttpClient.newHttpClient();

    /** @param box address of the stand-in */
    public Mailbox(String box) {
        this.box = URI.create(box);
    }

    /**
     * One message.
     *
     * @param html the same as a page; null for none
     * @param quiet where its reader can choose to get no more of its kind, in angle brackets; null for nowhere
     */
    public record Mail(String id, String to, String subject, String text, String html, String quiet, long at) {}

    /** A message as it came, with its headers. */
    public byte[] raw(Mail mail) throws IOException {
        try {
            var at = box.resolve("/mail/raw?" + URLEncoder.encode(mail.id(), StandardCharsets.UTF_8));
            return http.send(HttpRequest.newBuilder(at).build(), HttpResponse.BodyHandlers.ofByteArray())
                    .body();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }

    /** Messages to an address, newest first. */
    public List<Mail> to(String address) {
        try {
            var request =
                    HttpRequest.newBuilder(box.resolve("/mail?to=" + address)).build();
            var body = http.send(request, HttpResponse.BodyHandlers.ofString()).body();
            return JsonMapper.shared().readValue(body, new TypeReference<List<Mail>>() {});
        } catch (IOException e) {
            // The stand-in may be away for a moment; whoever waits for a message asks again.
            return List.of();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IllegalStateException(e);
        }
    }

    /** Waits until more than {@code before} messages are there and returns the newest. */
    public Mail next(String address, int before) {
        for (var round = 0; round < 300; round++) {
            var mails = to(address);
            if (mails.size() > before) {
                return mails.get(0);
            }
            pause(Duration.ofMillis(100));
        }
        throw new IllegalStateException("no message came to " + address);
    }

    /** Waits for a code among the messages that came after so many; the newest. */
    public String nextCode(String address, int before) {
        return next(address, before, CODE);
    }

    /** Waits for what is looked for among the messages that came after so many: the newest, its first group. News may come in between. */
    public String next(String address, int before, Pattern what) {
        for (var round = 0; round < 300; round++) {
            var mails = to(address);
            for (var mail : mails.subList(0, Math.max(0, mails.size() - before))) {
                var found = what.matcher(mail.text());
                if (found.find()) {
                    return found.group(1);
                }
            }
            pause(Duration.ofMillis(100));
        }
        throw new IllegalStateException("no message with " + what + " came to " + address);
    }

    /**
     * Waits for the newest code of one attempt, or for the one that counts for all of this hour; other messages may come in
     * between.
     */
    public String codeOf(String reference, String address) {
        return codeOf(reference, address, 0);
    }

    /** The same, among the messages that came after so many. */
    public String codeOf(String reference, String address, int before) {
        for (var round = 0; round < 1500; round++) {
            var all = to(address);
            for (var mail : all.subList(0, Math.max(0, all.size() - before))) {
                var its = mail.text().contains(reference) || mail.subject().endsWith("a code for the next hour");
                if (its && code(mail).isPresent()) {
                    return code(mail).get();
                }
            }
            pause(Duration.ofMillis(20));
        }
        throw new IllegalStateException("no code came to " + address);
    }

    /** The code in a message. */
    public static Optional<String> code(Mail mail) {
        var match = CODE.matcher(mail.text());
        return match.find() ? Optional.of(match.group(1)) : Optional.empty();
    }

    /** The alarm link in a message. */
    public static Optional<String> link(Mail mail) {
        var match = LINK.matcher(mail.text());
        return match.find() ? Optional.of(match.group(1)) : Optional.empty();
    }

    private static void pause(Duration time) {
        try {
            Thread.sleep(time.toMillis());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
