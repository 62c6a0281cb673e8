package dev.entente.core.scope;

import dev.entente.core.scope.Expression.AllOf;
import dev.entente.core.scope.Expression.AnyOf;
import dev.entente.core.scope.Expression.InGroup;
import dev.entente.core.scope.Expression.InOu;
import dev.entente.core.scope.Expression.InScope;
import dev.entente.core.scope.Expression.Named;
import dev.entente.core.scope.Expression.NoneOf;
import dev.entente.core.scope.Expression.Where;
import java.time.LocalDate;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;

/**
 * One person's place in scopes, and why. The same answers as {@link ScopeSets} gives for everybody. Not for use by several
 * threads.
 */
public final class Membership {
    private final Map<String, Scope> scopes;
    private final Subject subject;
    private final GroupGraph.Reach reach;
    private final LocalDate today;
    private final Map<String, Answer> known = new HashMap<>();
    private List<String> places;

    /** @param today the day that dates in conditions are relative to */
    public Membership(Map<String, Scope> scopes, Subject subject, GroupGraph graph, LocalDate today) {
        this.scopes = scopes;
        this.subject = subject;
        this.reach = graph.reach(subject.groups());
        this.today = today;
    }

    /**
     * Whether a person is in a scope, and why.
     *
     * @param covers the answer
     * @param because a sentence without full stop
     */
    public record Answer(boolean covers, String because) {}

    /** @param scope one of the scopes */
    public Answer in(String scope) {
        var answer = known.get(scope);
        if (answer == null) {
            answer = answer(scopes.get(scope));
            known.put(scope, answer);
        }
        return answer;
    }

    private Answer answer(Scope scope) {
        var inner = of(scope.expression());
        if (!inner.covers()) {
            return new Answer(false, "not in " + scope.title() + ": " + inner.because());
        }
        if (scope.portion().isPresent() && !scope.portion().get().holds(subject.id())) {
            return new Answer(
                    false,
                    "left out of " + scope.title() + " by its portion of "
                            + scope.portion().get());
        }
        return new Answer(true, "in " + scope.title() + ": " + inner.because());
    }

    private Answer of(Expression expression) {
        if (expression instanceof InGroup in) {
            var way = reach.wayTo(in.key());
            return way.isEmpty() ? new Answer(false, "not in the group " + in.name()) : new Answer(true, describe(way));
        }
        if (expression instanceof InOu in) {
            var there = places().stream().anyMatch(p -> GroupGraph.isBelow(p, in.key(), in.below()));
            return new Answer(there, (there ? "" : "not ") + "in the OU " + in.name() + (in.below() ? "" : " itself"));
        }
        if (expression instanceof Where where) {
            return where(where);
        }
        if (expression instanceof Named named) {
            var name = named.logins().stream()
                    .filter(l -> subject.logins().contains(l.toLowerCase(Locale.ROOT)))
                    .findFirst();
            return new Answer(name.isPresent(), name.map(n -> "named as " + n).orElse("not named"));
        }
        if (expression instanceof InScope in) {
            // Its own reason is asked for by its own name: reasons of reasons would grow without bound.
            var answer = in(in.scope());
            var title = scopes.get(in.scope()).title();
            return new Answer(answer.covers(), (answer.covers() ? "in " : "not in ") + title);
        }
        if (expression instanceof AnyOf any) {
            return any(any.parts());
        }
        if (expression instanceof AllOf all) {
            return all(all.parts());
        }
        for (var part : ((NoneOf) expression).parts()) {
            var answer = of(part);
            if (answer.covers()) {
                return new Answer(false, "left out as " + answer.because());
            }
        }
        return new Answer(true, "nothing leaves out");
    }

    private Answer where(Where where) {
        Optional<String> value = subject.values(where.attribute()).stream()
                .filter(v -> where.condition().holds(v, today))
                .findFirst();
        return value.map(v -> new Answer(true, where.attribute() + " is " + v))
                .orElseGet(() -> new Answer(
                        false,
                        subject.values(where.attribute()).isEmpty()
                                ? where.attribute() + " has no value"
                                : where.attribute() + " is " + String.join(", ", subject.values(where.attribute()))));
    }

    private Answer any(List<Expression> parts) {
        var against = new ArrayList<String>();
        for (var part : parts) {
            var answer = of(part);
            if (answer.covers()) {
                return answer;
            }
            against.add(answer.because());
        }
        return new Answer(false, String.join(", ", against));
    }

    private Answer all(List<Expression> parts) {
        var reasons = new ArrayList<String>();
        for (var part : parts) {
            var answer = of(part);
            if (!answer.covers()) {
                return answer;
            }
            if (!(part instanceof NoneOf)) {
                reasons.add(answer.because());
            }
        }
        return new Answer(true, reasons.isEmpty() ? "nothing leaves out" : String.join(" and ", reasons));
    }

    private List<String> places() {
        if (places == null) {
            places = subject.places().stream().map(GroupGraph::placeKey).toList();
        }
        return places;
    }

    private static String describe(List<String> way) {
        return "member of "
                + String.join(
                        ", which is in ",
                        way.stream().map(GroupGraph::shortName).toList());
    }
}
