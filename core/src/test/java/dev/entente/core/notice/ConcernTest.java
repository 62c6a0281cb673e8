package dev.entente.core.notice;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Map;
import org.junit.jupiter.api.Test;

class ConcernTest {
    @Test
    void an_event_belongs_to_one_concern_or_to_none() {
        assertThat(Concern.of("alarm.raised", Map.of())).contains(Concern.ATTACK);
        assertThat(Concern.of("draft.submitted", Map.of())).contains(Concern.APPROVALS);
        assertThat(Concern.of("attempt.started", Map.of())).isEmpty();
    }

    @Test
    void a_finding_is_told_by_what_brought_it_about_or_when_it_appears() {
        assertThat(Concern.of(Concern.APPEARED, Map.of("what", "steward-away"))).contains(Concern.STEWARDS);
        assertThat(Concern.of(Concern.APPEARED, Map.of("what", "alarm"))).isEmpty();
        assertThat(Concern.of(Concern.APPEARED, Map.of("what", "a finding of later")))
                .isEmpty();
    }

    @Test
    void a_title_is_short_enough_for_a_subject() {
        for (var concern : Concern.values()) {
            assertThat(concern.title()).hasSizeLessThan(80).doesNotContain(":", ",");
            assertThat(Concern.labelled(concern.label())).contains(concern);
        }
    }
}
