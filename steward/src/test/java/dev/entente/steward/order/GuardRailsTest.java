package dev.entente.steward.order;

import static org.assertj.core.api.Assertions.assertThat;

import dev.entente.core.attempt.Cause;
import dev.entente.steward.settings.StewardFile;
import dev.entente.steward.target.Target;
import dev.entente.steward.target.Target.Entry;
import dev.entente.steward.target.Target.Visit;
import java.io.IOException;
import java.lang.reflect.Proxy;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** What the steward's own file forbids, the service cannot allow. */
class GuardRailsTest {
    private static final String PEOPLE = "ou=people,dc=x";
    private static final StewardFile.Guard GUARD = new StewardFile.Guard(
            List.of(PEOPLE, "ou=guests,dc=x"),
            List.of("cn=captains,ou=groups,dc=x"),
            List.of("bridge", "cn=Chief Engineer,ou=people,dc=x"),
            Duration.ofMinutes(20),
            3,
            5,
            Duration.ofMinutes(10),
            Set.of("reset", "unlock"),
            new StewardFile.Demand(
                    List.of("cn=officers,ou=groups,dc=x"), List.of("ou=bridge,ou=people,dc=x"), Set.of("passkey")));

    @TempDir
    private Path folder;

    private Instant now = Instant.ofEpochSecond(1_800_000_000L);
    private Journal journal;
    private GuardRails rails;
    /** Whether entries are in the group of which a proof is demanded. */
    private boolean officer;

    @BeforeEach
    void open() throws IOException {
        journal = new Journal(folder, () -> now);
        rails = new GuardRails(GUARD, journal, () -> now);
    }

    @AfterEach
    void close() throws IOException {
        journal.close();
    }

    private static Entry entry(String dn, String login) {
        return new Entry(UUID.randomUUID(), dn, login, List.of(), "1", false, 0, null, false);
    }

    private static Entry somebody() {
        return entry("uid=astrid," + PEOPLE, "astrid");
    }

    /** A place that answers one question: who is in which group. */
    private Visit place(Object memberOf) {
        return (Visit) Proxy.newProxyInstance(
                Visit.class.getClassLoader(), new Class<?>[] {Visit.class}, (proxy, method, arguments) -> {
                    if (!method.getName().equals("memberOf")) {
                        throw new UnsupportedOperationException(method.getName());
                    }
                    if (GUARD.demand().groups().equals(arguments[1])) {
                        return officer;
                    }
                    assertThat(arguments[1]).isEqualTo(GUARD.protectedGroups());
                    if (memberOf instanceof Throwable broken) {
                        throw broken;
                    }
                    return memberOf;
                });
    }

    private Cause forbidden(Entry entry, Object memberOf) {
        return rails.forbid(place(memberOf), entry, UUID.randomUUID(), demanded -> Optional.of("none was given"))
                .map(GuardRails.Forbidden::cause)
                .orElse(null);
    }

    private void written(Entry entry) {
        journal.writing(UUID.randomUUID(), entry.id(), Map.of(), Optional::empty);
    }

    @Test
    void somebody_below_a_base_and_in_no_protected_group_may_be_written() {
        assertThat(forbidden(somebody(), false)).isNull();
        assertThat(forbidden(entry("uid=b,ou=deck,OU=People, DC=x", "b"), false))
                .isNull();
        assertThat(forbidden(entry("uid=c,ou=guests,dc=x", "c"), false)).isNull();
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "uid=astrid,ou=admins,dc=x",
                "ou=people,dc=x",
                "uid=astrid,ou=people,dc=x,dc=y",
                "uid=astrid,ou=morepeople,dc=x",
                "uid=astrid\\,ou\\=people\\,dc\\=x,dc=z",
                "not a name"
            })
    void whoever_is_not_below_a_base_is_never_written(String dn) {
        assertThat(forbidden(entry(dn, "astrid"), false)).isEqualTo(Cause.PROTECTED);
    }

    private Cause proving(Entry entry, Object memberOf, String missing) {
        return rails.forbid(place(memberOf), entry, UUID.randomUUID(), demanded -> {
                    assertThat(demanded).containsExactly("passkey");
                    return Optional.ofNullable(missing);
                })
                .map(GuardRails.Forbidden::cause)
                .orElse(null);
    }

    @Test
    void who_is_demanded_of_shows_a_proof_and_is_not_protected_from_themselves() {
        officer = true;
        assertThat(proving(somebody(), false, "none")).isEqualTo(Cause.PROOF_DEMANDED);
        assertThat(proving(somebody(), true, "none")).isEqualTo(Cause.PROOF_DEMANDED);
        assertThat(proving(somebody(), true, null))
                .as("in a protected group, too")
                .isNull();
        assertThat(proving(entry("uid=x," + PEOPLE, "bridge"), false, null))
                .as("protected by name stays protected")
                .isEqualTo(Cause.PROTECTED);
        officer = false;
        var below = entry("uid=y,ou=bridge," + PEOPLE, "y");
        assertThat(proving(below, false, "none")).isEqualTo(Cause.PROOF_DEMANDED);
        assertThat(proving(below, false, null)).isNull();
        assertThat(proving(below, true, null))
                .as("a base demands, but lifts no protection of a group")
                .isEqualTo(Cause.PROTECTED);
        assertThat(proving(somebody(), false, "not asked")).isNull();
    }

    @Test
    void protected_accounts_are_known_by_login_or_by_name_however_it_is_written() {
        assertThat(forbidden(entry("uid=x," + PEOPLE, "Bridge"), false)).isEqualTo(Cause.PROTECTED);
        assertThat(forbidden(entry("CN=chief engineer, OU=People, DC=X", "chief"), false))
                .isEqualTo(Cause.PROTECTED);
    }

    @Test
    void members_of_protected_groups_are_never_written() {
        assertThat(forbidden(somebody(), true)).isEqualTo(Cause.PROTECTED);
    }

    @Test
    void what_cannot_be_looked_up_is_forbidden() {
        assertThat(forbidden(somebody(), new Target.Lost("timeout"))).isEqualTo(Cause.PROTECTED);
        assertThat(forbidden(somebody(), new Target.Refused(Cause.NO_RIGHT, "50")))
                .isEqualTo(Cause.PROTECTED);
    }

    @Test
    void no_more_writes_in_a_minute_and_in_a_day_than_the_file_says() {
        for (var i = 0; i < 3; i++) {
            assertThat(forbidden(somebody(), false)).isNull();
            written(somebody());
        }
        assertThat(forbidden(somebody(), false)).as("in this minute").isEqualTo(Cause.GUARD_RAIL);
        now = now.plusSeconds(61);
        assertThat(forbidden(somebody(), false)).isNull();
        written(somebody());
        written(somebody());
        now = now.plusSeconds(61);
        assertThat(forbidden(somebody(), false)).as("in this day").isEqualTo(Cause.GUARD_RAIL);
        now = now.plus(Duration.ofDays(1));
        assertThat(forbidden(somebody(), false)).isNull();
    }

    @Test
    void orders_side_by_side_pass_no_limit_together() throws InterruptedException {
        var noted = new AtomicInteger();
        var looking = new CountDownLatch(12);
        var orders = Stream.generate(() -> new Thread(() -> {
                    var entry = somebody();
                    var order = UUID.randomUUID();
                    var looked = rails.forbid(place(false), entry, order, demanded -> Optional.of("none was given"));
                    looking.countDown();
                    await(looking);
                    if (looked.isEmpty() && rails.note(entry, order, Map.of()).isEmpty()) {
                        noted.incrementAndGet();
                    }
                }))
                .limit(looking.getCount())
                .toList();
        orders.forEach(Thread::start);
        for (var order : orders) {
            order.join();
        }
        assertThat(noted).hasValue(GUARD.writesPerMinute());
    }

    private static void await(CountDownLatch latch) {
        try {
            latch.await();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    @Test
    void limits_hold_over_a_restart() throws IOException {
        for (var i = 0; i < 3; i++) {
            written(somebody());
        }
        journal.close();
        open();
        assertThat(forbidden(somebody(), false)).isEqualTo(Cause.GUARD_RAIL);
    }

    @Test
    void one_account_rests_between_writes_but_its_own_order_may_go_on() {
        var entry = somebody();
        var order = UUID.randomUUID();
        journal.writing(order, entry.id(), Map.of(), Optional::empty);
        assertThat(forbidden(entry, false)).isEqualTo(Cause.GUARD_RAIL);
        assertThat(rails.forbid(place(false), entry, order, demanded -> Optional.of("none was given")))
                .as("a take-over of the same order")
                .isEmpty();
        assertThat(forbidden(somebody(), false)).as("another account").isNull();
        now = now.plus(GUARD.pausePerAccount()).plusSeconds(1);
        assertThat(forbidden(entry, false)).isNull();
    }

    @Test
    void only_what_is_switched_on_is_done_at_all() {
        assertThat(rails.forbid("reset")).isEmpty();
        assertThat(rails.forbid("unlock")).isEmpty();
        for (var action : List.of("change", "temporary", "retire", "erase")) {
            assertThat(rails.forbid(action).map(GuardRails.Forbidden::cause))
                    .as(action)
                    .contains(Cause.NOT_SWITCHED_ON);
        }
    }
}
