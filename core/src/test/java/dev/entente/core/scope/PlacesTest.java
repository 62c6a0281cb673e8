package dev.entente.core.scope;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.scope.Expression.InOu;
import java.time.LocalDate;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.UUID;
import java.util.stream.Collectors;
import javax.naming.InvalidNameException;
import javax.naming.ldap.LdapName;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class PlacesTest {
    /** What happens within names, and what only looks as if it did. */
    private static final List<String> PARTS = List.of(
            "cn", "OU", "dc", "1.2.3", "2x", "a-b", "x", "z", "Z", "A", "0", "9", "deck", "=", "=", "=", ",", ",", ", ",
            " ", "\\,", "\\2C", "+", "\"", "'", "(", ")", ".", "_", "@", "-", "#", "ø", "[", "`", "{", "/", ":");

    /** However a name is written: the short way to compare it and the parser's come to the same. */
    @RepeatedTest(40)
    void a_name_that_needs_no_parser_compares_as_it_would_with_one(RepetitionInfo round) {
        var random = new Random(round.getCurrentRepetition());
        for (var i = 0; i < 500; i++) {
            var name = random.ints(1 + random.nextInt(9), 0, PARTS.size())
                    .mapToObj(PARTS::get)
                    .collect(Collectors.joining());
            assertThat(GroupGraph.placeKey(name)).as(name).isEqualTo(parsed(name));
        }
    }

    private static String parsed(String name) {
        try {
            return new LdapName(name)
                    .getRdns().stream()
                            .map(rdn -> rdn.toString().toLowerCase(Locale.ROOT))
                            .collect(Collectors.joining(","));
        } catch (InvalidNameException | IllegalArgumentException e) {
            return name.toLowerCase(Locale.ROOT);
        }
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "uid=a,OU=Deck,DC=x        | OU=Deck,DC=x | true  | true",
                "uid=a,OU=Night,OU=Deck,DC=x | OU=Deck,DC=x | true  | false",
                "uid=a,OU=Deckhands,DC=x   | OU=Deck,DC=x | false | false",
                "OU=Deck,DC=x              | OU=Deck,DC=x | false | false",
                "DC=x                      | OU=Deck,DC=x | false | false",
                "cn=Nord\\, Anna,OU=Deck,DC=x | ou=deck, dc=x | true | true",
                "cn=a,OU=Deck\\, upper,DC=x | OU=Deck\\, upper,DC=x | true | true",
                "cn=a,OU=Deck\\, upper,DC=x | DC=x | true | false"
            })
    void who_stands_in_an_ou_and_who_below_it(String account, String ou, boolean below, boolean itself) {
        assertThat(GroupGraph.stands(account, ou)).isEqualTo(below);
        var somebody = new Subject(new UUID(1, 1), Set.of(), List.of(account), Set.of(), Map.of());
        for (var wholly : List.of(true, false)) {
            var scopes = Map.of("s", new Scope("s", "S", new InOu(ou, wholly), Optional.empty()));
            var expected = wholly ? below : itself;
            assertThat(new Membership(scopes, somebody, new GroupGraph(Map.of()), LocalDate.EPOCH)
                            .in("s")
                            .covers())
                    .isEqualTo(expected);
            var everybody = new Population();
            everybody.add(somebody);
            assertThat(new ScopeSets(everybody, scopes, LocalDate.EPOCH).of("s").getCardinality())
                    .as("for everybody at once")
                    .isEqualTo(expected ? 1 : 0);
        }
    }

    @Test
    void an_ou_is_told_in_words() {
        assertThat(new InOu("OU=Deck,DC=x", true).words()).isEqualTo("in the OU Deck or below");
        assertThat(new InOu("OU=Deck,DC=x", false).words()).isEqualTo("in the OU Deck itself");
    }
}
