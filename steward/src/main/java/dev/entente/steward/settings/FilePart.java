package dev.entente.steward.settings;

import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.regex.Pattern;

/** Some settings of the file, read one by one; each mistake is told with the setting's full name. */
record FilePart(String prefix, Map<?, ?> values) {
    private static final Pattern DURATION = Pattern.compile("([0-9]{1,4})(s|m|h)");

    FilePart(String prefix, Object value, Set<String> names) throws StewardFile.Unusable {
        this(prefix, mapping(prefix, value));
        for (var name : values.keySet()) {
            if (!names.contains(String.valueOf(name))) {
                throw new StewardFile.Unusable(prefix + name + " isn't a known setting; there are "
                        + String.join(", ", names.stream().sorted().toList()));
            }
        }
    }

    private static Map<?, ?> mapping(String prefix, Object value) throws StewardFile.Unusable {
        if (value instanceof Map<?, ?> map) {
            return map;
        }
        throw new StewardFile.Unusable(
                prefix.isEmpty() ? "the file is empty" : prefix + " must hold settings, each as NAME: VALUE");
    }

    boolean has(String name) {
        return values.get(name) != null;
    }

    Object required(String name) throws StewardFile.Unusable {
        if (!has(name)) {
            throw new StewardFile.Unusable(prefix + name + " is missing; add it to the file");
        }
        return values.get(name);
    }

    String text(String name) throws StewardFile.Unusable {
        return String.valueOf(required(name));
    }

    Path path(String name, Path here) throws StewardFile.Unusable {
        return has(name) ? here.resolve(text(name)) : null;
    }

    List<String> list(String name) throws StewardFile.Unusable {
        if (!has(name)) {
            return List.of();
        }
        if (values.get(name) instanceof List<?> list) {
            return list.stream().map(String::valueOf).toList();
        }
        throw new StewardFile.Unusable(prefix + name + " must be a list, each entry after a dash");
    }

    Duration duration(String name, Duration otherwise) throws StewardFile.Unusable {
        if (!has(name)) {
            return otherwise;
        }
        var match = DURATION.matcher(text(name));
        if (!match.matches()) {
            throw new StewardFile.Unusable(prefix + name + " must be a time such as 30s, 15m or 2h, not " + text(name));
        }
        var amount = Long.parseLong(match.group(1));
        return switch (match.group(2)) {
            case "s" -> Duration.ofSeconds(amount);
            case "m" -> Duration.ofMinutes(amount);
            default -> Duration.ofHours(amount);
        };
    }

    int number(String name, int otherwise) throws StewardFile.Unusable {
        if (!has(name)) {
            return otherwise;
        }
        if (values.get(name) instanceof Integer number && number > 0) {
            return number;
        }
        throw new StewardFile.Unusable(prefix + name + " must be a whole number above zero, not " + text(name));
    }
}
