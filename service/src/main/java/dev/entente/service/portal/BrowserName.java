package dev.entente.service.portal;

import java.util.List;
import java.util.Map;

/** What a browser calls itself (RFC 9110 section 10.1.5), in words that its person knows it by; nothing is decided by it. */
final class BrowserName {
    /** Those that name others as well come first. */
    private static final List<Map.Entry<String, String>> BROWSERS = List.of(
            Map.entry("Edg", "Edge"),
            Map.entry("OPR/", "Opera"),
            Map.entry("SamsungBrowser", "Samsung Internet"),
            Map.entry("Firefox/", "Firefox"),
            Map.entry("FxiOS/", "Firefox"),
            Map.entry("CriOS/", "Chrome"),
            Map.entry("Chrome/", "Chrome"),
            Map.entry("Safari/", "Safari"));

    private static final List<Map.Entry<String, String>> SYSTEMS = List.of(
            Map.entry("iPhone", "an iPhone"),
            Map.entry("iPad", "an iPad"),
            Map.entry("Android", "Android"),
            Map.entry("Windows", "Windows"),
            Map.entry("CrOS", "ChromeOS"),
            Map.entry("Mac OS X", "a Mac"),
            Map.entry("Linux", "Linux"));

    private BrowserName() {}

    /** Such as "Firefox on Windows". */
    static String of(String userAgent) {
        var said = userAgent == null ? "" : userAgent;
        return found(BROWSERS, said, "A browser")
                + found(SYSTEMS, said, "").transform(s -> s.isEmpty() ? "" : " on " + s);
    }

    private static String found(List<Map.Entry<String, String>> among, String said, String otherwise) {
        return among.stream()
                .filter(known -> said.contains(known.getKey()))
                .map(Map.Entry::getValue)
                .findFirst()
                .orElse(otherwise);
    }
}
