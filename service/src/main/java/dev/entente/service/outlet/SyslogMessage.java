package dev.entente.service.outlet;

import dev.entente.core.audit.EventKind.Severity;
import dev.entente.wire.RecordApi.Event;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.LinkedHashMap;
import java.util.Map;

/** An event as a syslog message (RFC 5424): structured data for machines, the sentence for people. */
final class SyslogMessage {
    /** Security and authorization messages. */
    private static final int FACILITY = 10;

    private static final int LONGEST_NAME = 32;
    private static final int LONGEST_HOST = 255;

    private SyslogMessage() {}

    /** A message about an event, UTF-8. */
    static byte[] of(Event event, String host, int enterprise) {
        var about = new LinkedHashMap<String, Object>();
        about.put("seq", event.seq());
        about.put("id", event.id());
        about.put("reference", event.reference());
        about.put("revision", event.revision() == 0 ? null : event.revision());
        var says = new LinkedHashMap<String, Object>(event.data());
        says.putAll(event.personal());
        return message(
                severity(event.severity()),
                event.at(),
                host,
                event.kind(),
                element("entente@" + enterprise, about) + element("event@" + enterprise, says),
                event.sentence());
    }

    /** A message that is about nothing. */
    static byte[] test(String outlet, Instant now, String host, int enterprise) {
        return message(
                severity(Severity.INFO.label()),
                now,
                host,
                "test",
                element("entente@" + enterprise, Map.of("outlet", outlet)),
                "A test of the outlet " + outlet + ". Nothing happened.");
    }

    private static byte[] message(int severity, Instant at, String host, String kind, String data, String says) {
        return ("<" + (FACILITY * 8 + severity) + ">1 " + at.truncatedTo(ChronoUnit.MILLIS) + " "
                        + printable(host, LONGEST_HOST) + " entente - " + printable(kind, LONGEST_NAME) + " " + data
                        + " \uFEFF" + says)
                .getBytes(StandardCharsets.UTF_8);
    }

    /** Section 6.2.1. */
    private static int severity(String label) {
        return switch (label) {
            case "alert" -> 1;
            case "warning" -> 4;
            case "notice" -> 5;
            default -> 6;
        };
    }

    /** Section 6.3. */
    private static String element(String id, Map<String, Object> parameters) {
        var element = new StringBuilder("[").append(id);
        parameters.forEach((name, value) -> {
            if (value != null) {
                element.append(' ')
                        .append(printable(name, LONGEST_NAME).replaceAll("[=\\]\"]", "_"))
                        .append("=\"")
                        .append(value.toString().replaceAll("([\"\\\\\\]])", "\\\\$1"))
                        .append('"');
            }
        });
        return element.append(']').toString();
    }

    private static String printable(String text, int longest) {
        var said = text.replaceAll("[^!-~]", "_");
        return said.isEmpty() ? "-" : said.substring(0, Math.min(longest, said.length()));
    }
}
