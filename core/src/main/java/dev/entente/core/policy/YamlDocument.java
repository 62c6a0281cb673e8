package dev.entente.core.policy;

import java.time.Duration;
import java.util.ArrayList;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;
import java.util.regex.Pattern;
import org.snakeyaml.engine.v2.api.LoadSettings;
import org.snakeyaml.engine.v2.api.lowlevel.Compose;
import org.snakeyaml.engine.v2.exceptions.Mark;
import org.snakeyaml.engine.v2.exceptions.MarkedYamlEngineException;
import org.snakeyaml.engine.v2.exceptions.YamlEngineException;
import org.snakeyaml.engine.v2.nodes.MappingNode;
import org.snakeyaml.engine.v2.nodes.Node;
import org.snakeyaml.engine.v2.nodes.ScalarNode;
import org.snakeyaml.engine.v2.nodes.SequenceNode;

/** One YAML file while it is read: values with their places, and every problem instead of the first. */
final class YamlDocument {

    private static final int MAX_LENGTH = 256 * 1024;
    private static final Pattern RATE = Pattern.compile("([1-9][0-9]{0,3}) per ([1-9][0-9]{0,3})([mhd])");
    private static final Pattern SPAN = Pattern.compile("([1-9][0-9]{0,4})([mhd])");

    private final String file;
    private final List<ConfigurationProblem> problems;

    YamlDocument(String file, List<ConfigurationProblem> problems) {
        this.file = file;
        this.problems = problems;
    }

    /** A mapping with its members, and where it is. */
    record Members(Node node, String pointer, Map<String, Node> values) {
        boolean has(String name) {
            return values.containsKey(name);
        }
    }

    String file() {
        return file;
    }

    /** The file's only document as a mapping. */
    Optional<Members> root(String text, Collection<String> names, Collection<String> later) {
        if (text.length() > MAX_LENGTH) {
            problems.add(new ConfigurationProblem(file, 0, 0, "", "the file is longer than 256 KiB"));
            return Optional.empty();
        }
        var settings = LoadSettings.builder()
                .setLabel(file)
                .setAllowDuplicateKeys(false)
                .setMaxAliasesForCollections(10)
                .build();
        try {
            var nodes = new ArrayList<Node>();
            new Compose(settings).composeAllFromString(text).forEach(nodes::add);
            if (nodes.size() != 1) {
                problems.add(new ConfigurationProblem(file, 0, 0, "", "a file holds exactly one document"));
                return Optional.empty();
            }
            return members(nodes.get(0), "", names, later);
        } catch (MarkedYamlEngineException e) {
            var mark = e.getProblemMark();
            problems.add(new ConfigurationProblem(
                    file,
                    mark.map(Mark::getLine).orElse(-1) + 1,
                    mark.map(Mark::getColumn).orElse(-1) + 1,
                    "",
                    "this isn't valid YAML: " + e.getProblem()));
        } catch (YamlEngineException e) {
            problems.add(new ConfigurationProblem(file, 0, 0, "", "this isn't valid YAML: " + e.getMessage()));
        }
        return Optional.empty();
    }

    /** A mapping; names in {@code later} are known words of the format that this version cannot carry out yet. */
    Optional<Members> members(Node node, String pointer, Collection<String> names, Collection<String> later) {
        if (!(node instanceof MappingNode mapping)) {
            problem(node, pointer, "a list of names with values is expected here, such as \"" + first(names) + ": …\"");
            return Optional.empty();
        }
        var values = new LinkedHashMap<String, Node>();
        for (var tuple : mapping.getValue()) {
            var name = tuple.getKeyNode() instanceof ScalarNode scalar ? scalar.getValue() : "?";
            var where = pointer + "/" + name.replace("~", "~0").replace("/", "~1");
            if (later.contains(name)) {
                problem(
                        tuple.getKeyNode(),
                        where,
                        "\"" + name + "\" is not available in this version yet; leave it out");
            } else if (!names.contains(name)) {
                problem(
                        tuple.getKeyNode(),
                        where,
                        "\"" + name + "\" isn't a known setting here" + Nearest.suggestion(name, names));
            } else if (values.put(name, tuple.getValueNode()) != null) {
                problem(tuple.getKeyNode(), where, "\"" + name + "\" appears twice; write it once");
            }
        }
        return Optional.of(new Members(node, pointer, values));
    }

    /** A mapping whose names are not words of the format, such as attributes and languages. */
    Optional<Members> mapping(Node node, String pointer) {
        if (!(node instanceof MappingNode mapping)) {
            return members(node, pointer, List.of("name"), List.of());
        }
        return members(
                node,
                pointer,
                mapping.getValue().stream()
                        .map(t -> t.getKeyNode() instanceof ScalarNode scalar ? scalar.getValue() : "?")
                        .toList(),
                List.of());
    }

    /** A text, if the member is there. */
    Optional<String> text(Members in, String name) {
        return Optional.ofNullable(in.values().get(name)).flatMap(node -> scalar(node, in.pointer() + "/" + name));
    }

    /** A text that has to be there. */
    Optional<String> required(Members in, String name) {
        if (!in.has(name)) {
            problem(in.node(), in.pointer(), "\"" + name + "\" is missing");
        }
        return text(in, name);
    }

    /** Text turned into something else; what cannot be turned is a problem with this expectation. */
    <T> Optional<T> value(Members in, String name, String expected, Function<String, Optional<T>> parse) {
        return text(in, name).flatMap(text -> {
            var value = parse.apply(text);
            if (value.isEmpty()) {
                problem(
                        in.values().get(name),
                        in.pointer() + "/" + name,
                        "\"" + text + "\" isn't possible for " + name + "; " + expected);
            }
            return value;
        });
    }

    Optional<Integer> integer(Members in, String name, int from, int to) {
        return value(in, name, "a whole number from " + from + " to " + to + " is expected", text -> {
            try {
                var number = Integer.parseInt(text);
                return number >= from && number <= to ? Optional.of(number) : Optional.empty();
            } catch (NumberFormatException e) {
                return Optional.empty();
            }
        });
    }

    Optional<Boolean> flag(Members in, String name) {
        return value(in, name, "true or false is expected", text -> switch (text) {
            case "true" -> Optional.of(true);
            case "false" -> Optional.of(false);
            default -> Optional.empty();
        });
    }

    /** A mapping within a mapping, if it is there. */
    Optional<Members> part(Members in, String name, Collection<String> names, Collection<String> later) {
        return Optional.ofNullable(in.values().get(name))
                .flatMap(node -> members(node, in.pointer() + "/" + name, names, later));
    }

    /** A time such as 10m, 24h or 90d. */
    Optional<Duration> span(Members in, String name, Duration from, Duration to) {
        return value(
                in,
                name,
                "a time from " + Policy.span(from) + " to " + Policy.span(to) + " is expected, such as 10m, 24h or 90d",
                text -> {
                    var match = SPAN.matcher(text);
                    return match.matches()
                            ? Optional.of(time(match.group(1), match.group(2)))
                                    .filter(t -> t.compareTo(from) >= 0 && t.compareTo(to) <= 0)
                            : Optional.empty();
                });
    }

    /** So many in a window, such as 3 per 24h. */
    Optional<Policy.Rate> rate(Members in, String name) {
        return value(in, name, "write for example \"3 per 24h\", with a window of at most 31d", text -> {
            var match = RATE.matcher(text);
            return match.matches()
                    ? Optional.of(new Policy.Rate(
                                    Integer.parseInt(match.group(1)), time(match.group(2), match.group(3))))
                            .filter(r -> r.per().compareTo(Duration.ofDays(31)) <= 0)
                    : Optional.empty();
        });
    }

    private static Duration time(String count, String unit) {
        var number = Integer.parseInt(count);
        return switch (unit) {
            case "m" -> Duration.ofMinutes(number);
            case "h" -> Duration.ofHours(number);
            default -> Duration.ofDays(number);
        };
    }

    /** One item of a list and where it is. */
    record Item(Node node, String pointer) {}

    /** The items of a list, if the member is there. */
    Optional<List<Item>> list(Members in, String name) {
        var node = in.values().get(name);
        if (node == null) {
            return Optional.empty();
        }
        var pointer = in.pointer() + "/" + name;
        if (!(node instanceof SequenceNode sequence)) {
            problem(node, pointer, "a list is expected for " + name + ", such as [" + name + "-1, " + name + "-2]");
            return Optional.empty();
        }
        var items = new ArrayList<Item>();
        for (var i = 0; i < sequence.getValue().size(); i++) {
            items.add(new Item(sequence.getValue().get(i), pointer + "/" + i));
        }
        return Optional.of(items);
    }

    /** The texts of a list, if the member is there. */
    Optional<List<String>> texts(Members in, String name) {
        return list(in, name)
                .map(items -> items.stream()
                        .flatMap(item -> scalar(item.node(), item.pointer()).stream())
                        .toList());
    }

    Optional<String> scalar(Node node, String pointer) {
        if (node instanceof ScalarNode scalar && !scalar.getValue().isBlank()) {
            return Optional.of(scalar.getValue().strip());
        }
        problem(node, pointer, "a single value is expected here");
        return Optional.empty();
    }

    void problem(Node node, String pointer, String message) {
        var mark = node.getStartMark();
        problems.add(new ConfigurationProblem(
                file,
                mark.map(Mark::getLine).orElse(-1) + 1,
                mark.map(Mark::getColumn).orElse(-1) + 1,
                pointer,
                message));
    }

    private static String first(Collection<String> names) {
        return names.stream().findFirst().orElse("name");
    }
}
