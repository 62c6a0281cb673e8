package dev.entente.service.overview;

import com.openhtmltopdf.pdfboxout.PdfRendererBuilder;
import dev.entente.core.attempt.Reference;
import dev.entente.core.audit.Checkpoint;
import dev.entente.service.platform.ServiceSettings;
import dev.entente.wire.AttemptApi;
import dev.entente.wire.NotificationApi;
import dev.entente.wire.RecordApi;
import dev.entente.wire.RecordApi.Event;
import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.apache.pdfbox.Loader;
import org.apache.pdfbox.pdmodel.PDDocument;
import org.apache.pdfbox.pdmodel.PDDocumentNameDictionary;
import org.apache.pdfbox.pdmodel.PDEmbeddedFilesNameTreeNode;
import org.apache.pdfbox.pdmodel.common.filespecification.PDComplexFileSpecification;
import org.apache.pdfbox.pdmodel.common.filespecification.PDEmbeddedFile;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/**
 * One attempt for an incident's file: a PDF that people read, with the proofs of all its events attached, so that it can be checked
 * years later by somebody who has nothing but the key.
 */
@Component
class AttemptReport {
    /** What is attached, a proof a line. */
    static final String PROOFS = "proofs.jsonl";

    private static final DateTimeFormatter TIME =
            DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm:ss").withZone(ZoneOffset.UTC);
    private static final String TOLD = "Who was told";
    private static final Set<String> PROVED =
            Set.of("challenge.answered", "attempt.proved", "staff.confirmed", "staff.confirmed-first");

    private final ServiceSettings settings;
    private final JsonMapper json;
    private final InstantSource clock;

    AttemptReport(ServiceSettings settings, JsonMapper json, InstantSource clock) {
        this.settings = settings;
        this.json = json;
        this.clock = clock;
    }

    /** The document, at most a few hundred kilobytes. */
    byte[] of(
            AttemptApi.AttemptDetail attempt,
            List<NotificationApi.Notification> messages,
            RecordApi.AttemptProofs proofs,
            String administrator) {
        try {
            var drawn = new ByteArrayOutputStream();
            new PdfRendererBuilder()
                    .useFont(AttemptReport::font, "Report")
                    .withHtmlContent(page(attempt, messages, proofs, administrator), null)
                    .useUriResolver((base, uri) -> null)
                    .toStream(drawn)
                    .run();
            return proofs.proofs().isEmpty() ? drawn.toByteArray() : attached(drawn.toByteArray(), proofs);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** Latin, Greek and Cyrillic letters; comes with the library. */
    private static InputStream font() {
        return PDDocument.class.getResourceAsStream("/org/apache/pdfbox/resources/ttf/LiberationSans-Regular.ttf");
    }

    private byte[] attached(byte[] drawn, RecordApi.AttemptProofs proofs) throws IOException {
        try (var document = Loader.loadPDF(drawn)) {
            var lines =
                    proofs.proofs().stream().map(json::writeValueAsString).collect(Collectors.joining("\n", "", "\n"));
            var bytes = lines.getBytes(StandardCharsets.UTF_8);
            var file = new PDEmbeddedFile(document, new ByteArrayInputStream(bytes));
            file.setSubtype("application/jsonl");
            file.setSize(bytes.length);
            var about = new PDComplexFileSpecification();
            about.setFile(PROOFS);
            about.setFileUnicode(PROOFS);
            about.setEmbeddedFile(file);
            var files = new PDEmbeddedFilesNameTreeNode();
            files.setNames(Map.of(PROOFS, about));
            var names = new PDDocumentNameDictionary(document.getDocumentCatalog());
            names.setEmbeddedFiles(files);
            document.getDocumentCatalog().setNames(names);
            var out = new ByteArrayOutputStream();
            document.save(out);
            return out.toByteArray();
        }
    }

    private String page(
            AttemptApi.AttemptDetail attempt,
            List<NotificationApi.Notification> messages,
            RecordApi.AttemptProofs proofs,
            String administrator) {
        var row = attempt.attempt();
        var timeline = attempt.timeline();
        var body = new StringBuilder();
        body.append("<p class='kind'>Report of one attempt</p><h1>")
                .append(text(row.reference()))
                .append("</h1>");
        body.append("<table class='facts'>");
        fact(body, "What", row.action() == null ? "purged by now; the record keeps what happened" : row.action());
        fact(body, "Person", row.personName() == null ? "no one by that name" : row.personName());
        fact(body, "Came to", row.state());
        fact(body, "Policy", row.policy() == null ? "none" : row.policy() + revision(timeline));
        fact(body, "Network", network(timeline));
        fact(body, "Browser", browser(timeline));
        fact(body, "Started", utc(row.createdAt() == null ? first(timeline) : row.createdAt()));
        fact(body, "Ended", row.endedAt() == null ? "not yet" : utc(row.endedAt()) + took(row));
        body.append("</table>");
        if (attempt.reason() != null) {
            body.append("<p class='note'>")
                    .append(text("It could not succeed: " + attempt.reason()))
                    .append("</p>");
        }
        part(body, "How it was known who it was", timeline, e -> PROVED.contains(e.kind()), "Nothing was proved.");
        deliveries(body, attempt.deliveries());
        if (messages.isEmpty()) {
            part(body, TOLD, timeline, e -> e.kind().startsWith("notification."), "No message was sent.");
        } else {
            told(body, messages);
        }
        part(body, "Everything that happened", timeline, e -> true, "Nothing is on record any more.");
        proof(body, proofs);
        return """
                <html lang='en'><head><title>%s</title><meta name='author' content='%s'/><style>
                @page { size: A4; margin: 22mm 20mm 24mm 20mm;
                  @bottom-left { content: '%s'; font: 8pt Report; color: #5d6b70 }
                  @bottom-right { content: 'Page ' counter(page) ' of ' counter(pages); font: 8pt Report; color: #5d6b70 } }
                body { font: 9.5pt/1.45 Report; color: #1c2a2f }
                .kind { margin: 0; color: #14606b; font-size: 10pt }
                h1 { margin: 0 0 5mm 0; font-size: 24pt; font-weight: normal; border-bottom: 1.2pt solid #14606b; padding-bottom: 3mm }
                h2 { margin: 7mm 0 2mm 0; font-size: 12.5pt; font-weight: normal; color: #14606b; page-break-after: avoid }
                table { width: 100%%; border-collapse: collapse; -fs-table-paginate: paginate }
                td, th { text-align: left; font-weight: normal; vertical-align: top; padding: 1.4mm 3mm 1.4mm 0;
                  border-bottom: .4pt solid #d5dcdd }
                th { color: #5d6b70; font-size: 8.5pt }
                tr { page-break-inside: avoid }
                .facts td:first-child { width: 28mm; color: #5d6b70 }
                .when { width: 34mm; color: #5d6b70; white-space: nowrap }
                .after { width: 18mm; color: #5d6b70; text-align: right; padding-right: 0; white-space: nowrap }
                .told th:first-child { width: 34mm } .answers th { width: 20mm } .answers th:nth-child(2) { width: 36mm } .answers th:nth-child(5) { width: auto }
                .grave { color: #a1260d }
                .note { background: #eef4f4; padding: 2.5mm 3.5mm }
                .code { font-size: 8pt; word-wrap: break-word; color: #1c2a2f }
                </style></head><body>%s</body></html>""".formatted(
                text("Attempt " + row.reference()),
                text(settings.organisation()),
                css(settings.organisation() + "  ·  made " + time(clock.instant()) + " UTC by " + administrator),
                body);
    }

    private static String revision(List<Event> timeline) {
        return timeline.stream()
                .mapToInt(Event::revision)
                .filter(number -> number > 0)
                .mapToObj(number -> ", revision " + number)
                .findFirst()
                .orElse("");
    }

    private static Instant first(List<Event> timeline) {
        return timeline.isEmpty() ? null : timeline.get(0).at();
    }

    private static String took(AttemptApi.AttemptRow row) {
        return row.createdAt() == null ? "" : ", after " + span(Duration.between(row.createdAt(), row.endedAt()));
    }

    private static void fact(StringBuilder body, String name, String value) {
        body.append("<tr><td>")
                .append(name)
                .append("</td><td>")
                .append(text(value))
                .append("</td></tr>");
    }

    private static void part(
            StringBuilder body, String title, List<Event> timeline, Predicate<Event> which, String otherwise) {
        body.append("<h2>").append(title).append("</h2>");
        if (timeline.stream().noneMatch(which)) {
            body.append("<p>").append(otherwise).append("</p>");
            return;
        }
        body.append("<table>");
        Instant before = null;
        for (var event : timeline) {
            if (which.test(event)) {
                var grave =
                        event.severity().equals("warning") || event.severity().equals("alert");
                body.append("<tr><td class='when'>").append(time(event.at())).append("</td><td");
                body.append(grave ? " class='grave'>" : ">").append(text(event.sentence()));
                body.append("</td><td class='after'>");
                body.append(before == null ? "" : "+" + span(Duration.between(before, event.at())))
                        .append("</td></tr>");
                before = event.at();
            }
        }
        body.append("</table>");
    }

    private static void deliveries(StringBuilder body, List<AttemptApi.Delivery> deliveries) {
        body.append("<h2>What the directories answered</h2>");
        if (deliveries.isEmpty()) {
            body.append("<p>Nothing was carried to a directory, or it is purged by now.</p>");
            return;
        }
        body.append(
                "<table class='answers'><thead><tr><th>Directory</th><th>Account</th><th>Came to</th><th>By</th><th>Server, version</th>");
        body.append("</tr></thead>");
        for (var one : deliveries) {
            body.append("<tr>");
            for (var cell : List.of(
                    one.directory(),
                    said(one.login()),
                    one.state() + (one.cause() == null ? "" : ": " + one.cause()),
                    said(one.steward()),
                    said(one.server())
                            + (one.versionAfter() == null
                                    ? ""
                                    : ", " + said(one.versionBefore()) + " → " + one.versionAfter()))) {
                body.append("<td>").append(text(cell)).append("</td>");
            }
            body.append("</tr>");
        }
        body.append("</table>");
    }

    private static String network(List<Event> timeline) {
        return timeline.stream()
                .flatMap(event -> Stream.ofNullable(event.personal().get("network")))
                .findFirst()
                .orElse("not on record any more");
    }

    /** Whether the browser was known, as it was when something was asked for first. */
    private static String browser(List<Event> timeline) {
        return timeline.stream()
                .flatMap(event -> Stream.ofNullable(event.data().get("from")))
                .findFirst()
                .map(from -> switch (from.toString()) {
                    case "browser" -> "known";
                    case "network" -> "unknown, on a known network";
                    default -> "unknown, on an unknown network";
                })
                .orElse("nothing was asked for");
    }

    /** People and administrators, each by what they can be told apart by. */
    private static void told(StringBuilder body, List<NotificationApi.Notification> messages) {
        body.append("<h2>").append(TOLD).append("</h2><table class='told'><thead><tr>");
        body.append("<th>When</th><th>To</th><th>By</th><th>Message</th><th>Came to</th></tr></thead>");
        for (var one : messages) {
            body.append("<tr>");
            for (var cell : List.of(
                    time(one.endedAt() == null ? one.createdAt() : one.endedAt()),
                    (one.administrator() == null ? "" : one.administrator() + ", ") + said(one.recipient()),
                    one.channel(),
                    one.kind(),
                    one.state() + (one.why() == null ? "" : ": " + one.why()))) {
                body.append("<td>").append(text(cell)).append("</td>");
            }
            body.append("</tr>");
        }
        body.append("</table>");
    }

    /** What isn't there isn't left out in silence. */
    private static void gone(StringBuilder body, RecordApi.AttemptProofs of) {
        if (!of.missing().isEmpty()) {
            body.append("<p>")
                    .append(text("Missing events of this attempt: "
                            + (of.missing().size() == 1 ? "number " : "numbers ")
                            + of.missing().stream().map(String::valueOf).collect(Collectors.joining(", "))
                            + ". They were cut off or removed; entente event verify shows which."))
                    .append("</p>");
        }
        var without = of.proofs().stream()
                .filter(proof -> !proof.personal()
                        .keySet()
                        .containsAll(proof.event().commitments().keySet()))
                .count();
        if (without > 0) {
            body.append("<p>")
                    .append(text(
                            "Personal values are missing from " + (without == 1 ? "one event" : without + " events")
                                    + ". They were erased or removed; entente event verify shows which."))
                    .append("</p>");
        }
        var elsewhere = of.proofs().stream()
                .map(proof -> proof.event().reference())
                .filter(Objects::nonNull)
                .map(digits -> new Reference(digits).toString())
                .filter(called -> !called.equals(of.reference()))
                .distinct()
                .collect(Collectors.joining(", "));
        if (!elsewhere.isEmpty()) {
            body.append("<p>")
                    .append(text("These events were sealed under a different reference: " + elsewhere + "."))
                    .append("</p>");
        }
        if (of.waiting() > 0) {
            body.append("<p>")
                    .append(text((of.waiting() == 1 ? "One event isn't" : of.waiting() + " events aren't")
                            + " sealed yet. Make the report again in a moment."))
                    .append("</p>");
        }
    }

    private static void proof(StringBuilder body, RecordApi.AttemptProofs of) {
        var proofs = of.proofs();
        body.append("<h2>Proof</h2>");
        gone(body, of);
        if (proofs.isEmpty()) {
            body.append("<p>Nothing of this is sealed yet. Make the report again in a moment.</p>");
            return;
        }
        var key = proofs.get(0).key();
        var signed = Checkpoint.verify(proofs.get(0).checkpoint(), key);
        body.append("<p>").append(proofs.size()).append(proofs.size() == 1 ? " event is" : " events are");
        body.append(text(" proven by the attached file " + PROOFS + ": each is in the record of " + signed.size()
                + " events that was signed " + time(Instant.ofEpochMilli(signed.at()))
                + " UTC, as RFC 9162 describes it. To check, without the service:"));
        body.append("</p><p class='code'>entente event check ").append(PROOFS).append(" --key ");
        body.append(text(key.thumbprint())).append("</p><table class='facts'>");
        fact(body, "Key", key.thumbprint());
        fact(body, "Root", signed.root());
        body.append("</table>");
    }

    private static String span(Duration duration) {
        var millis = duration.toMillis();
        return millis < 10_000
                ? "%.1f s".formatted(millis / 1000.0)
                : millis < 120_000 ? millis / 1000 + " s" : duration.toMinutes() + " min";
    }

    private static String time(Instant at) {
        return at == null ? "" : TIME.format(at);
    }

    private static String utc(Instant at) {
        return at == null ? "" : time(at) + " UTC";
    }

    private static String said(String text) {
        return text == null ? "" : text;
    }

    /** Nothing that a directory or a person said becomes markup. */
    private static String text(String said) {
        return said.replaceAll("[\\p{Cntrl}]+", " ")
                .replace("&", "&amp;")
                .replace("<", "&lt;")
                .replace(">", "&gt;")
                .replace("'", "&#39;")
                .replace("\"", "&quot;");
    }

    /** A string of CSS, inside markup. */
    private static String css(String said) {
        return text(said.replaceAll("[\\\\'<>\"&\\p{Cntrl}]", " "));
    }
}
