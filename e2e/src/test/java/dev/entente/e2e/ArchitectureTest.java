package dev.entente.e2e;

import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.classes;
import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;
import static org.assertj.core.api.Assertions.assertThat;

import com.tngtech.archunit.core.domain.JavaClass;
import com.tngtech.archunit.core.domain.JavaClasses;
import com.tngtech.archunit.core.importer.ClassFileImporter;
import com.tngtech.archunit.lang.ArchCondition;
import com.tngtech.archunit.lang.ConditionEvents;
import com.tngtech.archunit.lang.SimpleConditionEvent;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.DynamicTest;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestFactory;

/** The arrows of ARCHITECTURE.md. */
class ArchitectureTest {
    private static final Path ROOT = Path.of("").toAbsolutePath().getParent();
    private static final List<String> MODULES = List.of("core", "wire", "service", "steward", "cli", "standins");

    private static final JavaClasses ALL = new ClassFileImporter()
            .importPaths(MODULES.stream()
                    .map(m -> ROOT.resolve(m + "/target/classes"))
                    .toList());

    private static final Pattern MAY_CALL = Pattern.compile("<p>May call: ([^.]*)\\.");

    /** Each package of a program and those of the same program that it may call, as its package-info says. */
    private static Map<String, List<String>> arrows(String program) throws IOException {
        var arrows = new TreeMap<String, List<String>>();
        var folder = ROOT.resolve(program + "/src/main/java/dev/entente/" + program);
        try (var found = Files.list(folder)) {
            for (var part : found.filter(Files::isDirectory).toList()) {
                var info = Files.readString(part.resolve("package-info.java")).replaceAll("\\s*\\n \\*\\s*", " ");
                var said = MAY_CALL.matcher(info);
                assertThat(said.find())
                        .as(part + " says whom it may call: <p>May call: {@code …}, or nothing, or everything.")
                        .isTrue();
                arrows.put(
                        part.getFileName().toString(),
                        switch (said.group(1)) {
                            case "nothing" -> List.of();
                            case "everything" -> List.of("everything");
                            default ->
                                List.of(said.group(1)
                                        .replaceAll("[{}]|@code ", "")
                                        .split(", "));
                        });
            }
        }
        return arrows;
    }

    /** Which feature owns which tables. */
    private static final Map<String, List<String>> TABLES = Map.ofEntries(
            Map.entry("platform", List.of("standing", "limit_count", "key_thumbprint")),
            Map.entry(
                    "audit",
                    List.of(
                            "event",
                            "event_waiting",
                            "event_leaf",
                            "checkpoint_told",
                            "event_personal",
                            "event_ordinal",
                            "event_term",
                            "saved_search",
                            "record_key_change",
                            "record_gone",
                            "event_subtree",
                            "legal_hold",
                            "erasure",
                            "record_cut",
                            "retention_run",
                            "checkpoint",
                            "attempt_reference")),
            Map.entry("approval", List.of("approval_rule", "proposed_change", "service_switch")),
            Map.entry(
                    "access",
                    List.of(
                            "administrator",
                            "administrator_code",
                            "administrator_place",
                            "administrator_session",
                            "repeated_call")),
            Map.entry(
                    "directory",
                    List.of(
                            "directory",
                            "steward",
                            "steward_call",
                            "sealing_key",
                            "join_code",
                            "job",
                            "credential_statement")),
            Map.entry(
                    "people",
                    List.of(
                            "person",
                            "account",
                            "account_login",
                            "membership",
                            "directory_group",
                            "directory_ou",
                            "correlation_case")),
            Map.entry(
                    "policy",
                    List.of(
                            "revision",
                            "draft",
                            "planned_change",
                            "stop",
                            "scope_state",
                            "scope_change",
                            "scope_watch")),
            Map.entry(
                    "notification",
                    List.of(
                            "notification",
                            "alarm_link",
                            "mail_channel",
                            "channel_state",
                            "phone_channel",
                            "phone_use",
                            "quiet",
                            "quiet_link",
                            "bounce_mailbox")),
            Map.entry("notice", List.of("notice_choice", "notice_follower", "notice_waiting")),
            Map.entry("reminder", List.of("reminder", "reminder_look")),
            Map.entry("overview", List.of("attention", "attention_look")),
            Map.entry("verify", List.of("enrolment", "awaited")),
            Map.entry("verify/appcode", List.of("app_secret")),
            Map.entry("verify/emailcode", List.of()),
            Map.entry("verify/emaillink", List.of()),
            Map.entry("verify/knowndevice", List.of("known_device")),
            Map.entry("verify/passkey", List.of("passkey")),
            Map.entry("verify/push", List.of("push_device")),
            Map.entry("verify/questions", List.of("security_answer", "question_round")),
            Map.entry("verify/recoverycode", List.of("recovery_code")),
            Map.entry("verify/securitykey", List.of()),
            Map.entry("verify/smscode", List.of()),
            Map.entry("verify/staff", List.of("spoken_answer")),
            Map.entry("helpdesk", List.of()),
            Map.entry("outlet", List.of("outlet", "outlet_offered", "outlet_key")),
            Map.entry("verify/voicecode", List.of()),
            Map.entry(
                    "attempt",
                    List.of(
                            "attempt",
                            "attempt_act",
                            "attempt_proof",
                            "challenge",
                            "closed_person",
                            "known_place",
                            "person_limits",
                            "pressure",
                            "standing_code",
                            "work_done")),
            Map.entry("delivery", List.of("delivery", "sealed_password")));

    /** Tables that nothing asks any more; migrations only go forward. */
    private static final Set<String> LEFT_BEHIND =
            Set.of("api_token", "event_pending", "spring_session", "spring_session_attributes");

    /** What features let others read: views over tables of their own, each made by a migration. */
    private static final Map<String, List<String>> VIEWS = Map.of(
            "directory", List.of("known_directory"),
            "people",
                    List.of("present_account", "known_group", "open_case", "known_login", "known_name", "password_end"),
            "verify", List.of("method_of_person"),
            "delivery", List.of("delivery_progress"),
            "attempt", List.of("personal_attempt"),
            "audit", List.of("kept_reference", "sealed_events", "hold_in_force", "event_word", "event_pending"),
            "approval", List.of("switched_on"),
            "access", List.of("known_administrator"),
            "notification", List.of("phone_set_up"),
            "platform", List.of("topic_stamp"));

    private static final Pattern TABLE_IN_SQL = Pattern.compile("\\b(?:FROM|JOIN|UPDATE|INTO)\\s+([a-z_]+)\\b");

    private static Map<String, String> owners(Map<String, List<String>> of) {
        var owners = new HashMap<String, String>();
        of.forEach((feature, tables) -> tables.forEach(table -> owners.put(table, feature)));
        return owners;
    }

    @Test
    void no_feature_asks_the_tables_of_another() throws IOException {
        var owners = owners(TABLES);
        var asked = new TreeSet<String>();
        for (var feature : TABLES.keySet()) {
            try (var files = Files.list(ROOT.resolve("service/src/main/java/dev/entente/service/" + feature))) {
                for (var file : files.filter(Files::isRegularFile).toList()) {
                    for (var found : TABLE_IN_SQL
                            .matcher(Files.readString(file))
                            .results()
                            .toList()) {
                        var owner = owners.get(found.group(1));
                        if (owner != null && !owner.equals(feature)) {
                            asked.add(file.getFileName() + " asks " + found.group(1) + " of " + owner);
                        }
                    }
                }
            }
        }
        assertThat(asked).isEmpty();
    }

    @Test
    void every_view_shows_tables_of_its_owner_alone() throws IOException {
        var owners = owners(TABLES);
        var made = new TreeSet<String>();
        for (var migration : migrations()) {
            for (var view : Pattern.compile("CREATE VIEW ([a-z_]+) AS ([^;]+);")
                    .matcher(migration)
                    .results()
                    .toList()) {
                made.add(view.group(1));
                assertThat(TABLE_IN_SQL.matcher(view.group(2)).results().map(t -> owners.get(t.group(1))))
                        .as(view.group(1))
                        .isNotEmpty()
                        .containsOnly(owners(VIEWS).get(view.group(1)));
            }
        }
        assertThat(made).isEqualTo(new TreeSet<>(owners(VIEWS).keySet()));
    }

    private static List<String> migrations() throws IOException {
        try (var files = Files.list(ROOT.resolve("service/src/main/resources/db/migration"))) {
            var texts = new ArrayList<String>();
            for (var file : files.toList()) {
                texts.add(Files.readString(file));
            }
            return texts;
        }
    }

    @Test
    void every_table_has_an_owner() throws IOException {
        var made = new TreeSet<String>();
        var renamed = new HashMap<String, String>();
        for (var migration : migrations()) {
            Pattern.compile("CREATE TABLE (?:IF NOT EXISTS )?([a-z_]+) \\(")
                    .matcher(migration)
                    .results()
                    .forEach(found -> made.add(found.group(1)));
            Pattern.compile("ALTER TABLE ([a-z_]+) RENAME TO ([a-z_]+)")
                    .matcher(migration)
                    .results()
                    .forEach(found -> renamed.put(found.group(1), found.group(2)));
        }
        renamed.forEach((was, is) -> {
            made.remove(was);
            made.add(is);
        });
        var owned = TABLES.values().stream().flatMap(List::stream).collect(Collectors.toCollection(TreeSet::new));
        owned.addAll(LEFT_BEHIND);
        assertThat(made).isEqualTo(owned);
    }

    @Test
    void modules_point_one_way() {
        noClasses()
                .that()
                .resideInAPackage("dev.entente.core..")
                .should()
                .dependOnClassesThat()
                .resideInAnyPackage(
                        "dev.entente.wire..", "dev.entente.service..", "dev.entente.steward..", "dev.entente.cli..")
                .check(ALL);
        noClasses()
                .that()
                .resideInAPackage("dev.entente.wire..")
                .should()
                .dependOnClassesThat()
                .resideInAnyPackage("dev.entente.service..", "dev.entente.steward..", "dev.entente.cli..")
                .check(ALL);
        for (var one : List.of("service", "steward", "cli")) {
            var others = Stream.of("service", "steward", "cli", "standins")
                    .filter(o -> !o.equals(one))
                    .map(o -> "dev.entente." + o + "..")
                    .toArray(String[]::new);
            noClasses()
                    .that()
                    .resideInAPackage("dev.entente." + one + "..")
                    .should()
                    .dependOnClassesThat()
                    .resideInAnyPackage(others)
                    .check(ALL);
        }
    }

    @Test
    void core_knows_no_framework_no_network_and_no_clock() {
        noClasses()
                .that()
                .resideInAPackage("dev.entente.core..")
                .should()
                .dependOnClassesThat()
                .resideInAnyPackage(
                        "org.springframework..",
                        "org.hibernate..",
                        "jakarta..",
                        "com.unboundid..",
                        "java.net..",
                        "java.sql..")
                .check(ALL);
        noClasses()
                .that()
                .resideInAPackage("dev.entente.core..")
                .should()
                .callMethod(System.class, "currentTimeMillis")
                .orShould()
                .callMethod(java.time.Instant.class, "now")
                .orShould()
                .dependOnClassesThat()
                .haveFullyQualifiedName("java.time.Clock")
                .check(ALL);
    }

    /** Otherwise a row that was read before it changed elsewhere is written back as it was. */
    @Test
    void rows_are_written_back_only_where_they_changed_or_not_at_all() {
        classes()
                .that()
                .areAnnotatedWith("jakarta.persistence.Entity")
                .should(new ArchCondition<JavaClass>("be written back only where they changed, or have a version") {
                    @Override
                    public void check(JavaClass row, ConditionEvents events) {
                        var kept = row.isAnnotatedWith("org.hibernate.annotations.DynamicUpdate")
                                || row.isAnnotatedWith("org.hibernate.annotations.Immutable")
                                || row.getFields().stream()
                                        .anyMatch(field -> field.isAnnotatedWith("jakarta.persistence.Version"));
                        events.add(new SimpleConditionEvent(row, kept, row.getName()));
                    }
                })
                .check(ALL);
    }

    @TestFactory
    Stream<DynamicTest> packages_call_only_whom_their_package_info_names() {
        return Stream.of("core", "service", "steward")
                .map(program -> DynamicTest.dynamicTest(program, () -> {
                    var arrows = arrows(program);
                    // All that is wrong at once.
                    var wrong = new TreeSet<String>();
                    arrows.forEach((from, to) -> {
                        assertThat(arrows.keySet())
                                .as(from + " names packages that there are")
                                .containsAll(to.stream()
                                        .filter(t -> !t.equals("everything"))
                                        .toList());
                        var forbidden = arrows.keySet().stream()
                                .filter(f -> !f.equals(from) && !to.contains(f) && !to.contains("everything"))
                                .map(f -> "dev.entente." + program + "." + f + "..")
                                .toArray(String[]::new);
                        var result = noClasses()
                                .that()
                                .resideInAPackage("dev.entente." + program + "." + from + "..")
                                .should()
                                .dependOnClassesThat()
                                .resideInAnyPackage(forbidden)
                                .evaluate(ALL);
                        wrong.addAll(result.getFailureReport().getDetails());
                    });
                    assertThat(wrong).isEmpty();
                }));
    }

    @Test
    void packages_of_a_program_have_no_cycles() {
        for (var program : List.of("core", "service", "steward")) {
            slices().matching("dev.entente." + program + ".(*)..")
                    .should()
                    .beFreeOfCycles()
                    .check(ALL);
        }
    }

    @Test
    void names_are_words_of_the_trade() {
        classes()
                .that()
                .resideInAPackage("dev.entente..")
                .should()
                .haveSimpleNameNotEndingWith("Util")
                .andShould()
                .haveSimpleNameNotEndingWith("Utils")
                .andShould()
                .haveSimpleNameNotEndingWith("Helper")
                .andShould()
                .haveSimpleNameNotEndingWith("Manager")
                .andShould()
                .haveSimpleNameNotEndingWith("Impl")
                .check(ALL);
    }

    @Test
    void every_package_opens_by_saying_what_it_owns() throws IOException {
        for (var module : MODULES) {
            try (var files = Files.walk(ROOT.resolve(module + "/src/main/java"))) {
                for (var folder : files.filter(Files::isDirectory).toList()) {
                    try (var inside = Files.list(folder)) {
                        if (inside.anyMatch(f -> f.toString().endsWith(".java"))) {
                            assertThat(folder.resolve("package-info.java")).exists();
                        }
                    }
                }
            }
        }
    }
}
