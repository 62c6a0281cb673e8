package dev.entente.core.scope;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dev.entente.core.scope.Expression.AllOf;
import dev.entente.core.scope.Expression.AnyOf;
import dev.entente.core.scope.Expression.InGroup;
import dev.entente.core.scope.Expression.NoneOf;
import java.time.LocalDate;
import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
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
import org.junit.jupiter.params.provider.ValueSource;

class GroupGraphTest {
    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "CN=Deck,DC=x | cn=deck,dc=x",
                "CN=Deck,DC=x | CN=Deck, DC=x",
                "CN=Deck,DC=x | CN = Deck , DC = x",
                "CN=Deck\\, upper,DC=x | cn=deck\\2C upper,dc=x",
                "CN=Øyvind,DC=x | cn=øyvind,dc=x",
                "CN=O'Hara (deck),DC=x | cn=o'hara (deck),dc=x"
            })
    void one_name_written_in_two_ways_is_one(String one, String other) {
        assertThat(GroupGraph.key(one)).isEqualTo(GroupGraph.key(other));
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "CN=Deck,DC=x | CN=Deck,DC=y",
                "CN=Deck,DC=x | CN=Deck,OU=a,DC=x",
                "CN=Deck\\, upper,DC=x | CN=Deck,DC=upper,DC=x",
                "CN=Deck upper,DC=x | CN=Deckupper,DC=x"
            })
    void two_names_stay_two(String one, String other) {
        assertThat(GroupGraph.key(one)).isNotEqualTo(GroupGraph.key(other));
    }

    @ParameterizedTest
    @ValueSource(strings = {"Deck", "=x", "CN=Deck,,DC=x", "CN=Deck,DC"})
    void what_is_no_name_is_refused(String text) {
        assertThatThrownBy(() -> GroupGraph.key(text)).isInstanceOf(IllegalArgumentException.class);
        assertThat(GroupGraph.placeKey(text))
                .as("a system without such names")
                .isEqualTo(text.toLowerCase(Locale.ROOT));
    }

    @Test
    void the_way_is_told_as_the_directory_writes_it() {
        var graph = new GroupGraph(Map.of(
                "CN=Cadets,DC=x", List.of("CN=Ratings,DC=x"),
                "CN=Ratings,DC=x", List.of("cn=Deck Crew,dc=x")));
        assertThat(graph.reach(Set.of("cn=cadets, dc=x")).way("CN=Deck Crew,DC=x"))
                .containsExactly("CN=Cadets,DC=x", "CN=Ratings,DC=x", "cn=Deck Crew,dc=x");
        assertThat(graph.reach(Set.of("CN=Deck Crew,DC=x")).way("CN=Cadets,DC=x"))
                .as("not downwards")
                .isEmpty();
        assertThat(graph.reach(Set.of()).way("CN=Cadets,DC=x")).isEmpty();
    }

    /** Against a search that is as plain as can be. */
    @RepeatedTest(60)
    void the_shortest_way_is_found_through_any_tangle(RepetitionInfo round) {
        var random = new Random(round.getCurrentRepetition());
        var size = 2 + random.nextInt(30);
        var parents = new HashMap<String, List<String>>();
        for (var i = 0; i < size; i++) {
            var above = new ArrayList<String>();
            for (var j = random.nextInt(4); j > 0; j--) {
                above.add(name(random.nextInt(size)));
            }
            parents.put(name(i), above);
        }
        var from = random.nextInt(size);
        var to = random.nextInt(size);
        var steps = distance(parents, name(from), name(to));
        var path = new GroupGraph(parents).reach(Set.of(name(from))).way(name(to));
        assertThat(path).hasSize(steps < 0 ? 0 : steps + 1);
        for (var i = 1; i < path.size(); i++) {
            assertThat(parents.get(path.get(i - 1))).contains(path.get(i));
        }
    }

    private static String name(int group) {
        return "CN=g" + group + ",DC=x";
    }

    private static int distance(Map<String, List<String>> parents, String from, String to) {
        var far = new HashMap<>(Map.of(from, 0));
        var queue = new ArrayDeque<>(List.of(from));
        while (!queue.isEmpty()) {
            var here = queue.remove();
            if (here.equals(to)) {
                return far.get(here);
            }
            for (var above : new HashSet<>(parents.get(here))) {
                if (far.putIfAbsent(above, far.get(here) + 1) == null) {
                    queue.add(above);
                }
            }
        }
        return -1;
    }

    @Test
    void a_scope_says_by_which_way_somebody_is_in_it_or_left_out() {
        var graph = new GroupGraph(Map.of(
                "CN=Cadets,DC=x", List.of("CN=Crew,DC=x"),
                "CN=Masters,DC=x", List.of("CN=Crew,DC=x", "CN=Admins,DC=x")));
        var expression = new AllOf(List.of(
                new AnyOf(List.of(new InGroup("CN=Crew,DC=x"))), new NoneOf(List.of(new InGroup("CN=Admins,DC=x")))));
        var scopes = Map.of("crew", new Scope("crew", "Crew", expression, Optional.empty()));
        for (var expected : Map.of(
                        "CN=Cadets,DC=x", new Membership.Answer(true, "in Crew: member of Cadets, which is in Crew"),
                        "CN=Masters,DC=x",
                                new Membership.Answer(
                                        false, "not in Crew: left out as member of Masters, which is in Admins"),
                        "CN=Cooks,DC=x", new Membership.Answer(false, "not in Crew: not in the group Crew"))
                .entrySet()) {
            var one = Subject.inGroups(new UUID(1, 1), Set.of(expected.getKey()));
            assertThat(new Membership(scopes, one, graph, LocalDate.EPOCH).in("crew"))
                    .isEqualTo(expected.getValue());
        }
    }

    @Test
    void the_short_name_is_the_first_value() {
        assertThat(GroupGraph.shortName("CN=Deck\\, upper,OU=Groups,DC=x")).isEqualTo("Deck, upper");
        assertThat(GroupGraph.shortName("no name")).isEqualTo("no name");
    }

    @Test
    void a_person_s_reach_holds_the_groups_above_and_no_others() {
        var graph = new GroupGraph(Map.of(
                "CN=cadets,DC=x", List.of("CN=crew,DC=x"), "CN=crew,DC=x", List.of(), "CN=bridge,DC=x", List.of()));
        var reach = graph.reach(Set.of("CN=cadets,DC=x"));
        assertThat(reach.holds("cn=cadets,dc=x")).isTrue();
        assertThat(reach.holds("CN=Crew, DC=x")).as("above, written otherwise").isTrue();
        assertThat(reach.holds("CN=bridge,DC=x")).isFalse();
        assertThat(graph.reach(Set.of("CN=crew,DC=x")).holds("CN=cadets,DC=x"))
                .as("below")
                .isFalse();
    }
}
