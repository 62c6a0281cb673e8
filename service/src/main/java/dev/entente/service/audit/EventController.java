package dev.entente.service.audit;

import dev.entente.core.audit.EventCatalogue;
import dev.entente.core.audit.EventKind.Retention;
import dev.entente.core.audit.EventKind.Severity;
import dev.entente.service.platform.Fails;
import dev.entente.service.platform.Reads;
import dev.entente.service.platform.Unconfirmed;
import dev.entente.wire.OneOf;
import dev.entente.wire.Page;
import dev.entente.wire.RecordApi;
import dev.entente.wire.RecordApi.Event;
import io.swagger.v3.oas.annotations.media.Content;
import io.swagger.v3.oas.annotations.media.Schema;
import io.swagger.v3.oas.annotations.responses.ApiResponse;
import jakarta.servlet.http.HttpServletResponse;
import java.io.IOException;
import java.lang.reflect.RecordComponent;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Objects;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;
import org.springdoc.core.annotations.ParameterObject;
import org.springframework.http.ContentDisposition;
import org.springframework.http.HttpHeaders;
import org.springframework.http.HttpStatus;
import org.springframework.security.core.annotation.AuthenticationPrincipal;
import org.springframework.web.bind.annotation.DeleteMapping;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PutMapping;
import org.springframework.web.bind.annotation.RequestBody;
import org.springframework.web.bind.annotation.RequestMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** The record over HTTP: newest first to look, oldest first to follow. */
@RestController
@RequestMapping("/api/v1/events")
class EventController {
    private static final Set<String> FILTERS = Arrays.stream(Filters.class.getRecordComponents())
            .map(RecordComponent::getName)
            .collect(Collectors.toSet());

    private final AuditTrail trail;
    private final EventSearch search;
    private final EventExport export;
    private final SavedSearches saved;
    private final Readings readings;

    EventController(AuditTrail trail, EventSearch search, EventExport export, SavedSearches saved, Readings readings) {
        this.readings = readings;
        this.saved = saved;
        this.trail = trail;
        this.search = search;
        this.export = export;
    }

    /**
     * What is looked for.
     *
     * @param text words in anything that events say, in any language; all of them, each by how it begins
     * @param person a name by which somebody signs in: everything that concerned them, with their attempts
     * @param severity the least: info, notice, warning or alert
     * @param since the first moment, RFC 3339
     * @param until the moment after the last, RFC 3339
     */
    record Filters(
            String text,
            String kind,
            String part,
            String person,
            String reference,
            String administrator,
            String directory,
            String steward,
            String method,
            String policy,
            String network,
            String cause,
            String state,
            String message,
            @OneOf(Severity.class) String severity,
            String since,
            String until) {
        EventSearch.Wanted wanted() {
            var fields = new LinkedHashMap<String, String>();
            fields.put("kind", said(kind));
            fields.put("administrator", said(administrator));
            fields.put("directory", said(directory));
            fields.put("steward", said(steward));
            fields.put("method", said(method));
            fields.put("policy", said(policy));
            fields.put("network", said(network));
            fields.put("cause", said(cause));
            fields.put("state", said(state));
            fields.put("message", said(message));
            fields.values().removeIf(Objects::isNull);
            return new EventSearch.Wanted(
                    fields,
                    said(text),
                    said(part),
                    said(severity),
                    said(person),
                    said(reference),
                    said(since),
                    said(until));
        }
    }

    /**
     * Newest first. Without any filter the sealed ones, by their positions; with some, those that meet all of them, sealed or not
     * yet. A page may hold fewer than were asked for, even none, and still have one after it.
     */
    @Fails({
        "attempt-not-found",
        "event-kind-unknown",
        "event-part-unknown",
        "filter-value-unknown",
        "name-not-found",
        "not-a-network",
        "page-unknown",
        "severity-unknown",
        "several-people",
        "text-without-words",
        "time-unreadable"
    })
    @Reads("events")
    @GetMapping
    Page<Event> list(
            @RequestParam(required = false) String after,
            @RequestParam(defaultValue = "50") int limit,
            @ParameterObject Filters filters,
            @AuthenticationPrincipal String administrator) {
        reads(filters, administrator);
        return search.page(filters.wanted(), said(after), Math.max(1, Math.min(limit, 200)));
    }

    /** How many there are with these filters: exactly, or about. */
    @Fails({
        "attempt-not-found",
        "event-kind-unknown",
        "event-part-unknown",
        "filter-value-unknown",
        "name-not-found",
        "not-a-network",
        "severity-unknown",
        "several-people",
        "text-without-words",
        "time-unreadable"
    })
    @GetMapping("/count")
    RecordApi.EventCount count(@ParameterObject Filters filters) {
        return search.count(filters.wanted());
    }

    /** Searches that are kept under a name, for every administrator. */
    @GetMapping("/searches")
    List<RecordApi.SavedSearch> searches() {
        return saved.all();
    }

    /** Keeps a search under a name, in the place of another with that name. */
    @Fails({"filter-too-long", "filter-unknown", "search-for-nothing", "search-name", "too-many-searches"})
    @Unconfirmed
    @PutMapping("/searches/{name}")
    RecordApi.SavedSearch save(
            @PathVariable String name,
            @RequestBody RecordApi.NewSearch search,
            @AuthenticationPrincipal String administrator) {
        return saved.save(name.strip(), search.filters(), FILTERS, administrator);
    }

    /** Removes a saved search. */
    @Fails("search-not-found")
    @Unconfirmed
    @DeleteMapping("/searches/{name}")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void remove(@PathVariable String name, @AuthenticationPrincipal String administrator) {
        saved.remove(name.strip(), administrator);
    }

    /**
     * The same events, all of them, as a table: CSV (RFC 4180) or a workbook, or as JSON documents, a line each. Streamed, in no more memory
     * than a page of it; that it was made is on record.
     *
     * @param format {@code csv}, {@code jsonl} or {@code xlsx}
     * @param after the id of the last event that has come already: what follows is only what comes after it, and CSV has no titles then
     */
    @Fails({
        "attempt-not-found",
        "event-kind-unknown",
        "event-part-unknown",
        "filter-value-unknown",
        "name-not-found",
        "not-a-network",
        "exports-busy",
        "format-unknown",
        "page-unknown",
        "severity-unknown",
        "several-people",
        "text-without-words",
        "time-unreadable"
    })
    @ApiResponse(
            responseCode = "200",
            content = {
                @Content(mediaType = "text/csv", schema = @Schema(type = "string")),
                @Content(mediaType = "application/jsonl", schema = @Schema(type = "string")),
                @Content(
                        mediaType = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
                        schema = @Schema(type = "string", format = "binary"))
            })
    @GetMapping("/export")
    void export(
            @RequestParam(defaultValue = "csv") @OneOf(EventExport.Format.class) String format,
            @RequestParam(required = false) UUID after,
            @ParameterObject Filters filters,
            @AuthenticationPrincipal String administrator,
            HttpServletResponse response)
            throws IOException {
        var form = EventExport.Format.labelled(format);
        reads(filters, administrator);
        export.write(filters.wanted(), form, after, administrator, () -> {
            response.setContentType(form.type());
            response.setHeader(
                    HttpHeaders.CONTENT_DISPOSITION,
                    ContentDisposition.attachment()
                            .filename("events." + form.label())
                            .build()
                            .toString());
            return response.getOutputStream();
        });
    }

    private void reads(Filters filters, String administrator) {
        if (said(filters.person()) != null) {
            readings.ofEvents(administrator, filters.person().strip());
        }
    }

    private static String said(String text) {
        return text == null || text.isBlank() ? null : text.strip();
    }

    /** Every kind that there is or was, with its fields. */
    @GetMapping("/kinds")
    List<RecordApi.EventKind> kinds() {
        return EventCatalogue.all().stream()
                .map(kind -> new RecordApi.EventKind(
                        kind.name(),
                        kind.part(),
                        kind.severity().label(),
                        kind.written(),
                        kind.classes().stream().map(Retention::label).sorted().toList(),
                        kind.fields().entrySet().stream()
                                .map(f -> new RecordApi.EventField(
                                        f.getKey(),
                                        f.getValue().type().label(),
                                        f.getValue().optional()))
                                .toList()))
                .toList();
    }

    /** Oldest first from a position on; ask again from one past the last to follow. */
    @Reads("events")
    @GetMapping("/from/{seq}")
    Page<Event> from(@PathVariable long seq, @RequestParam(defaultValue = "200") int limit) {
        var stretch = trail.stretch(seq, Math.max(1, Math.min(limit, 200)));
        return new Page<>(stretch.events(), String.valueOf(stretch.next()));
    }
}
