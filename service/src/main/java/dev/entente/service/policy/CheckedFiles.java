package dev.entente.service.policy;

import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.ConfigurationProblem;
import dev.entente.core.policy.ConfigurationReader;
import dev.entente.service.platform.Problem;
import dev.entente.wire.DraftApi;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.springframework.stereotype.Component;

/** Files of a configuration, read and checked. */
@Component
class CheckedFiles {
    private final Configurations configurations;

    CheckedFiles(Configurations configurations) {
        this.configurations = configurations;
    }

    /** What is wrong with files, before they are put anywhere. */
    List<DraftApi.Problem> problems(Map<String, String> files) {
        if (files == null || files.size() > ConfigurationReader.MAX_FILES) {
            throw Problem.of("too-many-files").with("maxFiles", ConfigurationReader.MAX_FILES);
        }
        var result = configurations.check(files);
        return Stream.concat(
                        result.problems().stream().map(p -> shown(p, "error")),
                        result.findings().stream().map(p -> shown(p, "warning")))
                .toList();
    }

    /** @throws Problem 422 with everything that is wrong */
    Configuration valid(Map<String, String> files) {
        return valid(configurations.check(files));
    }

    /** The same, for files that were read already. */
    static Configuration valid(ConfigurationReader.Result result) {
        return result.configuration()
                .orElseThrow(() -> Problem.of("draft-invalid")
                        .with("problems", result.problems().size())
                        .with("problems2", result.problems().get(0)));
    }

    static DraftApi.Problem shown(ConfigurationProblem problem, String severity) {
        return new DraftApi.Problem(
                problem.file(), problem.line(), problem.column(), problem.pointer(), problem.message(), severity);
    }
}
