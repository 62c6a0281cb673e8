package dev.entente.service.notification;

import dev.entente.core.audit.EventKind;
import jakarta.mail.MessagingException;
import jakarta.mail.Part;
import jakarta.mail.internet.InternetHeaders;
import jakarta.mail.internet.MimeMessage;
import jakarta.mail.internet.MimeMultipart;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.Locale;
import java.util.Optional;
import java.util.UUID;
import java.util.regex.Pattern;

/**
 * What a mail server tells about a message that it could not deliver in the end (RFC 3462 and RFC 3464).
 *
 * @param message which of ours came back, by its Message-ID; whoever invents a report would have to know that
 * @param why the status and what the server said, without addresses
 */
record DeliveryReport(UUID message, String why) {
    /** Parts of a report that are looked at, and octets of each. */
    private static final int MOST_PARTS = 10;

    private static final int LONGEST = 64 * 1024;
    private static final Pattern OURS = Pattern.compile("<([0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12})@[^>]*>");
    private static final Pattern FAILED = Pattern.compile("(?im)^action:\\s*failed\\b");
    private static final Pattern STATUS = Pattern.compile("(?im)^status:\\s*(\\d\\.\\d{1,3}\\.\\d{1,3})");
    private static final Pattern DIAGNOSTIC = Pattern.compile("(?im)^diagnostic-code:\\s*(?:[\\w-]+\\s*;)?\\s*(.*)$");

    /** Empty for what is no report, tells only of a delay, or is about nothing of ours. */
    static Optional<DeliveryReport> read(MimeMessage mail) throws MessagingException, IOException {
        if (!mail.isMimeType("multipart/report")) {
            return Optional.empty();
        }
        var parts = new MimeMultipart(mail.getDataHandler().getDataSource());
        String told = null;
        UUID ours = null;
        for (var i = 0; i < Math.min(MOST_PARTS, parts.getCount()); i++) {
            var part = parts.getBodyPart(i);
            if (part.isMimeType("message/delivery-status")) {
                told = failed(text(part));
            } else if (part.isMimeType("message/rfc822") || part.isMimeType("text/rfc822-headers")) {
                ours = ours(part);
            }
        }
        return told == null || ours == null ? Optional.empty() : Optional.of(new DeliveryReport(ours, told));
    }

    private static UUID ours(Part part) throws MessagingException, IOException {
        try (var in = part.getInputStream()) {
            var id = new InternetHeaders(in).getHeader("Message-ID", null);
            var found = OURS.matcher(id == null ? "" : id.toLowerCase(Locale.ROOT));
            return found.find() ? UUID.fromString(found.group(1)) : null;
        }
    }

    private static String text(Part part) throws MessagingException, IOException {
        try (var in = part.getInputStream()) {
            // A line that begins with a space goes on with the one before.
            return new String(in.readNBytes(LONGEST), StandardCharsets.UTF_8).replaceAll("\\r?\\n[ \\t]+", " ");
        }
    }

    /** Of several recipients the first that failed: ours have one. Null if none did. */
    private static String failed(String status) {
        for (var recipient : status.split("\\r?\\n\\s*\\r?\\n")) {
            if (FAILED.matcher(recipient).find()) {
                var code = STATUS.matcher(recipient);
                var said = DIAGNOSTIC.matcher(recipient);
                return "it came back: "
                        + EventKind.withoutAddresses(((code.find() ? code.group(1) + " " : "")
                                        + (said.find() ? said.group(1) : "no reason was given"))
                                .strip());
            }
        }
        return null;
    }
}
