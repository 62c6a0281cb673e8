package dev.entente.e2e;

import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.classes;
import static com.tngtech.archunit.lang.syntax.ArchRuleDefinition.noClasses;
import static com.tngtech.archunit.library.dependencies.SlicesRuleDefinition.slices;
import static org.assertj.core.api.Assertions.assertThat;

import com.tngtech.archunit.core.domain.JavaClasses;
import com.tngtech.archunit.core.importer.ClassFileImporter;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
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

    /** Each package and the packages of ours that it may call, besides core and wire. */
    private static final Map<String, List<String>> FEATURES = Map.ofEntries(
            Map.entry("platform", List.of()),
            Map.entry("audit", List.of("platform")),
            Map.entry("approval", List.of("audit", "platform")),
            Map.entry("access", List.of("audit", "platform")),
            Map.entry("directory", List.of("approval", "audit", "platform")),
            Map.entry("people", List.of("directory", "audit", "platform")),
            Map.entry("policy", List.of("approval", "directory", "people", "notification", "audit", "platform")),
            Map.entry("notification", List.of("approval", "audit", "platform")),
            Map.entry("enrolment", List.of("people", "audit", "platform")),
            Map.entry("attempt", List.of("enrolment", "policy", "people", "notification", "audit", "platform")),
            Map.entry("delivery", List.of("approval", "attempt", "policy", "directory", "people", "audit", "platform")),
            Map.entry(
                    "portal",
                    List.of(
                            "attempt",
                            "enrolment",
                            "delivery",
                            "policy",
                            "people",
                            "notification",
                            "directory",
                            "audit",
                            "platform")));

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

    @TestFactory
    Stream<DynamicTest> features_call_only_whom_they_may() {
        return FEATURES.entrySet().stream()
                .map(feature -> DynamicTest.dynamicTest(feature.getKey(), () -> {
                    var forbidden = Stream.concat(FEATURES.keySet().stream(), Stream.of("overview"))
                            .filter(f -> !f.equals(feature.getKey())
                                    && !feature.getValue().contains(f))
                            .map(f -> "dev.entente.service." + f + "..")
                            .toArray(String[]::new);
                    noClasses()
                            .that()
                            .resideInAPackage("dev.entente.service." + feature.getKey() + "..")
                            .should()
                            .dependOnClassesThat()
                            .resideInAnyPackage(forbidden)
                            .check(ALL);
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
