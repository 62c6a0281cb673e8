package dev.entente.service.policy;

import dev.entente.core.policy.Action;
import dev.entente.core.policy.Comparison;
import dev.entente.core.policy.Configuration;
import dev.entente.core.policy.Survey;
import dev.entente.core.policy.Weakening;
import dev.entente.wire.DraftApi;
import java.util.Map;
import java.util.UUID;
import org.springframework.stereotype.Component;
import org.springframework.transaction.annotation.Transactional;

/** Two configurations beside each other, as sentences and as lines. */
@Component
@Transactional
class Comparisons {
    private final Configurations configurations;
    private final Everybody everybody;
    private final Drafts drafts;
    private final Revisions revisions;
    private final Ways ways;

    Comparisons(Configurations configurations, Everybody everybody, Drafts drafts, Revisions revisions, Ways ways) {
        this.configurations = configurations;
        this.everybody = everybody;
        this.drafts = drafts;
        this.revisions = revisions;
        this.ways = ways;
    }

    /** What publishing a draft would change. */
    DraftApi.Comparison draft(UUID id) {
        return compare(drafts.row(id).files);
    }

    /** What restoring a revision would change. */
    DraftApi.Comparison revision(int number) {
        return compare(revisions.row(number).files);
    }

    private DraftApi.Comparison compare(Map<String, String> files) {
        var after = CheckedFiles.valid(configurations.readable(files));
        return compare(configurations.current(), revisions.currentFiles(), after, files);
    }

    /** What a revision changed: it beside the one before it. */
    DraftApi.Comparison changes(int number) {
        var files = revisions.row(number).files;
        return compare(
                configurations.revision(number - 1),
                number == 1 ? Map.of() : revisions.row(number - 1).files,
                configurations.revision(number),
                files);
    }

    private DraftApi.Comparison compare(
            Configuration before,
            Map<String, String> filesBefore,
            Configuration after,
            Map<String, String> filesAfter) {
        var comparison = Comparison.of(before, filesBefore, after, filesAfter);
        return new DraftApi.Comparison(
                comparison.sentences(),
                comparison.diff(),
                covered(before),
                covered(after),
                Weakening.of(before, after),
                ways.opened(before, after),
                ways.opened(after, before));
    }

    private int covered(Configuration configuration) {
        var crowd = everybody.now();
        var survey = new Survey(configuration, crowd, Action.RESET, configurations.now(null, null));
        return crowd.population().size() - survey.uncovered().getCardinality();
    }
}
