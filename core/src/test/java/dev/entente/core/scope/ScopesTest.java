package dev.entente.core.scope;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.scope.Condition.After;
import dev.entente.core.scope.Condition.Before;
import dev.entente.core.scope.Condition.Matches;
import dev.entente.core.scope.Condition.OneOf;
import dev.entente.core.scope.Condition.Present;
import dev.entente.core.scope.Condition.StartsWith;
import dev.entente.core.scope.Expression.AllOf;
import dev.entente.core.scope.Expression.AnyOf;
import dev.entente.core.scope.Expression.InGroup;
import dev.entente.core.scope.Expression.InOu;
import dev.entente.core.scope.Expression.InScope;
import dev.entente.core.scope.Expression.Named;
import dev.entente.core.scope.Expression.NoneOf;
import dev.entente.core.scope.Expression.Where;
import dev.entente.core.scope.Scope.Portion;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.UUID;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class ScopesTest {
    private static final LocalDate TODAY = LocalDate.of(2026, 11, 23);
    private static final List<String> OUS =
            List.of("OU=People,DC=x", "OU=Deck,OU=People,DC=x", "OU=Bridge,OU=Deck,OU=People,DC=x", "OU=Other,DC=x");

    private static String group(int number) {
        return "CN=g" + number + ",OU=Groups,DC=x";
    }

    private static Subject someone(Random random, int number) {
        var groups = new HashSet<String>();
        while (random.nextInt(3) > 0) {
            groups.add(group(random.nextInt(8)));
        }
        var attributes = new HashMap<String, Set<String>>();
        if (random.nextBoolean()) {
            attributes.put(
                    "department", Set.of(List.of("Deck", "Engine", "deck hands").get(random.nextInt(3))));
        }
        if (random.nextBoolean()) {
            attributes.put(
                    "contractends", Set.of("2026-1%d-%02d".formatted(random.nextInt(3), 1 + random.nextInt(28))));
        }
        return new Subject(
                new UUID(random.nextLong(), random.nextLong()),
                groups,
                List.of("CN=p" + number + "," + OUS.get(random.nextInt(OUS.size()))),
                Set.of("p" + number),
                attributes);
    }

    private static Expression something(Random random, int depth, Collection<String> scopes) {
        switch (random.nextInt(depth > 2 ? 5 : 8)) {
            case 0:
                return new InGroup(group(random.nextInt(9)).toUpperCase(java.util.Locale.ROOT));
            case 1:
                return new InOu(OUS.get(random.nextInt(OUS.size())), random.nextBoolean());
            case 2:
                return new Where(
                        random.nextBoolean() ? "Department" : "contractEnds",
                        List.of(
                                        new OneOf(List.of("deck", "ENGINE")),
                                        new StartsWith("deck"),
                                        new Present(),
                                        new Matches("*ec?*"),
                                        new Before(-10),
                                        new After(7))
                                .get(random.nextInt(6)));
            case 3:
                return new Named(List.of("P" + random.nextInt(30), "nobody"));
            case 4:
                return scopes.isEmpty()
                        ? new Named(List.of("p1"))
                        : new InScope(new ArrayList<>(scopes).get(random.nextInt(scopes.size())));
            default:
                var parts = new ArrayList<Expression>();
                for (var i = random.nextInt(4); i >= 0; i--) {
                    parts.add(something(random, depth + 1, scopes));
                }
                return switch (random.nextInt(3)) {
                    case 0 -> new AnyOf(parts);
                    case 1 -> new AllOf(parts);
                    default -> new NoneOf(parts);
                };
        }
    }

    @RepeatedTest(300)
    void one_person_and_everybody_get_the_same_answer(RepetitionInfo round) {
        var random = new Random(round.getCurrentRepetition());
        var parents = new HashMap<String, List<String>>();
        for (var i = 0; i < 8; i++) {
            parents.put(group(i), List.of(group(random.nextInt(8)), group(random.nextInt(8))));
        }
        var graph = new GroupGraph(parents);
        var population = new Population();
        var people = new ArrayList<Subject>();
        for (var i = 0; i < 30; i++) {
            people.add(someone(random, i));
            population.add(people.get(i));
        }
        population.nest(graph);
        var scopes = new LinkedHashMap<String, Scope>();
        for (var i = 0; i < 5; i++) {
            scopes.put(
                    "s" + i,
                    new Scope(
                            "s" + i,
                            "S" + i,
                            something(random, 0, List.copyOf(scopes.keySet())),
                            random.nextInt(3) > 0
                                    ? Optional.empty()
                                    : Optional.of(new Portion(1 + random.nextInt(9_999), "s" + i))));
        }
        var sets = new ScopeSets(population, scopes, TODAY);
        for (var i = 0; i < people.size(); i++) {
            var one = new Membership(scopes, people.get(i), graph, TODAY);
            for (var name : scopes.keySet()) {
                var answer = one.in(name);
                assertThat(sets.of(name).contains(i))
                        .as("%s: %s", scopes.get(name), answer.because())
                        .isEqualTo(answer.covers());
                assertThat(answer.because()).contains("S" + name.substring(1));
            }
        }
    }

    @RepeatedTest(20)
    void a_portion_keeps_everybody_when_it_grows_and_is_as_large_as_it_says(RepetitionInfo round) {
        var random = new Random(round.getCurrentRepetition());
        var people = new ArrayList<UUID>();
        for (var i = 0; i < 20_000; i++) {
            people.add(new UUID(random.nextLong(), random.nextLong()));
        }
        var seed = "ring " + round.getCurrentRepetition();
        var before = Set.<UUID>of();
        for (var share : List.of(1, 50, 1_000, 2_500, 9_999, 10_000)) {
            var portion = new Portion(share, seed);
            var inside = new HashSet<UUID>();
            people.stream().filter(portion::holds).forEach(inside::add);
            assertThat(inside.containsAll(before)).isTrue();
            assertThat(inside.size() / 20_000.0 - share / 10_000.0)
                    .as("%s", portion)
                    .isBetween(-0.015, 0.015);
            before = inside;
        }
        var other = new Portion(5_000, seed + " other");
        var same = people.stream()
                .filter(p -> new Portion(5_000, seed).holds(p) == other.holds(p))
                .count();
        assertThat(same / 20_000.0).as("another seed chooses others").isBetween(0.45, 0.55);
    }

    @ParameterizedTest
    @CsvSource({"25%,2500", "0.5%,50", "0.05%,5", "12.25%,1225", "100%,10000"})
    void a_portion_is_written_as_it_is_read(String text, int basisPoints) {
        assertThat(new Portion(basisPoints, "x")).hasToString(text);
    }

    @ParameterizedTest
    @CsvSource({
        "deck*, Deck crew, true",
        "*crew, Deck crew, true",
        "*k?crew, Deck crew, true",
        "*z*, Deck crew, false",
        "d*d*d*d*e, ddddddddddddddddddddddddddddddddddddddddddddddddddd, false",
        "deck, Deck crew, false",
        "*, '', true",
    })
    void patterns_fit(String pattern, String value, boolean fits) {
        assertThat(new Matches(pattern).holds(value, TODAY)).isEqualTo(fits);
    }

    @ParameterizedTest
    @CsvSource({
        "20261122101500Z, true",
        "20261123000000.0Z, false",
        "2026-11-22, true",
        "2026-11-23T10:00:00Z, false",
        // A file time of the day before.
        "134082864000000000, true",
        "not a date, false",
        "20261399000000Z, false",
    })
    void dates_are_read_as_directories_write_them(String value, boolean before) {
        assertThat(new Before(0).holds(value, TODAY)).isEqualTo(before);
    }

    @Test
    void a_change_of_one_group_is_followed() {
        var population = new Population();
        var crew = someone(new Random(1), 1);
        population.add(crew);
        population.nest(new GroupGraph(Map.of("CN=cadets,DC=x", List.of("CN=crew,DC=x"))));
        var scopes = Map.of("crew", new Scope("crew", "Crew", new InGroup("CN=crew,DC=x"), Optional.empty()));
        assertThat(new ScopeSets(population, scopes, TODAY).of("crew").isEmpty())
                .isTrue();
        population.setMembers("CN=Cadets,DC=x", List.of(crew.id()));
        assertThat(new ScopeSets(population, scopes, TODAY).of("crew").contains(0))
                .isTrue();
        population.setMembers("CN=Cadets,DC=x", List.of());
        assertThat(new ScopeSets(population, scopes, TODAY).of("crew").isEmpty())
                .isTrue();
    }
}
