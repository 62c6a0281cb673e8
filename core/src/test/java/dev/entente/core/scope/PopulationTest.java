package dev.entente.core.scope;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import org.junit.jupiter.api.Test;
import org.roaringbitmap.RoaringBitmap;

class PopulationTest {
    private static final UUID ANNA = new UUID(1, 1);
    private static final UUID BEN = new UUID(2, 2);
    private static final String DECK = "CN=Deck,DC=x";
    private static final String CREW = "CN=Crew,DC=x";

    private static Subject somebody(UUID id, String login, String department, String... groups) {
        return new Subject(
                id,
                Set.of(groups),
                List.of("uid=" + login + ",OU=People,DC=x"),
                Set.of(login),
                Map.of("department", Set.of(department)));
    }

    private static Population both() {
        var all = new Population();
        all.add(somebody(ANNA, "anna", "Deck", DECK));
        all.add(somebody(BEN, "ben", "Deck"));
        all.nest(new GroupGraph(Map.of(DECK, List.of(CREW), CREW, List.of())));
        return all;
    }

    @Test
    void whoever_is_taken_out_is_gone_everywhere_and_comes_back_under_the_same_number() {
        var all = both();
        assertThat(all.size()).isEqualTo(2);
        assertThat(all.members(List.of(CREW, DECK))).isEqualTo(RoaringBitmap.bitmapOf(0));
        all.remove(RoaringBitmap.bitmapOf(0));
        assertThat(all.size()).isEqualTo(1);
        assertThat(all.number(ANNA)).isNull();
        assertThat(all.login("anna")).isNull();
        assertThat(all.members(List.of(CREW)).isEmpty()).isTrue();
        assertThat(all.values("Department")).isEqualTo(Map.of("Deck", RoaringBitmap.bitmapOf(1)));
        assertThat(all.places().values()).containsExactly(RoaringBitmap.bitmapOf(1));
        assertThat(all.add(somebody(ANNA, "anna", "Bridge"))).isZero();
        assertThat(all.number(ANNA)).isZero();
        assertThat(all.id(0)).isEqualTo(ANNA);
        assertThat(all.login("Anna")).isZero();
    }

    @Test
    void nobody_is_there_twice() {
        var all = both();
        var again = somebody(BEN, "ben", "Deck");
        assertThatThrownBy(() -> all.add(again)).isInstanceOf(IllegalArgumentException.class);
        assertThat(all.size()).isEqualTo(2);
    }

    @Test
    void what_becomes_of_a_copy_does_not_reach_the_original() {
        var all = both();
        var copy = all.copy();
        copy.addMember(DECK, BEN);
        copy.addMember(DECK, new UUID(3, 3));
        copy.remove(RoaringBitmap.bitmapOf(0));
        copy.add(somebody(new UUID(4, 4), "cora", "Deck", DECK));
        assertThat(copy.members(List.of(DECK))).isEqualTo(RoaringBitmap.bitmapOf(1, 2));
        assertThat(copy.values("department").get("Deck")).isEqualTo(RoaringBitmap.bitmapOf(1, 2));
        assertThat(all.members(List.of(DECK))).isEqualTo(RoaringBitmap.bitmapOf(0));
        assertThat(all.values("department").get("Deck")).isEqualTo(RoaringBitmap.bitmapOf(0, 1));
        assertThat(all.everybody()).isEqualTo(RoaringBitmap.bitmapOf(0, 1));
        assertThat(all.number(new UUID(4, 4))).isNull();
    }

    @Test
    void members_are_set_anew_and_forgotten_with_their_group() {
        var all = both();
        all.setMembers(DECK, List.of(BEN, new UUID(3, 3)));
        assertThat(all.members(List.of(DECK))).isEqualTo(RoaringBitmap.bitmapOf(1));
        all.setMembers(DECK, List.of());
        assertThat(all.members(List.of(DECK)).isEmpty()).isTrue();
        all.setMembers(DECK, List.of(ANNA));
        all.retainGroups(new GroupGraph(Map.of(CREW, List.of())));
        assertThat(all.members(List.of(DECK)).isEmpty()).isTrue();
    }

    @Test
    void sets_know_who_is_in_them() {
        var sets = new Bitmaps<String>();
        sets.add("a", 1);
        sets.add("a", 2);
        sets.add("b", 2);
        var copy = sets.copy();
        copy.remove(RoaringBitmap.bitmapOf(2));
        copy.add("a", 3);
        assertThat(copy.all()).isEqualTo(Map.of("a", RoaringBitmap.bitmapOf(1, 3)));
        assertThat(sets.all()).isEqualTo(Map.of("a", RoaringBitmap.bitmapOf(1, 2), "b", RoaringBitmap.bitmapOf(2)));
        assertThat(sets.get("c").isEmpty()).isTrue();
    }
}
