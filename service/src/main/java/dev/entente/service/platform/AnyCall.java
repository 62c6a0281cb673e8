package dev.entente.service.platform;

import java.util.List;
import java.util.function.Predicate;

/**
 * What any call below some paths can meet, whatever it is about, for the description of the API.
 *
 * @param name of the answer in the description
 * @param paths whether a path belongs to it
 * @param problems types of the catalogue, and names of statuses that the web framework answers with by itself
 */
public record AnyCall(String name, Predicate<String> paths, List<String> problems) {
    /** What every call can meet. */
    public static final List<String> EVERYWHERE = List.of(
            "bad-request",
            "internal",
            "method-not-allowed",
            "mistyped",
            "not-acceptable",
            "not-found",
            "too-large",
            "unavailable",
            "unreadable",
            "unsupported-media-type",
            "zero-character");
}
