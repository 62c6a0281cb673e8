package dev.entente.core.scope;

import dev.entente.core.scope.Expression.AllOf;
import dev.entente.core.scope.Expression.AnyOf;
import dev.entente.core.scope.Expression.InGroup;
import dev.entente.core.scope.Expression.InOu;
import dev.entente.core.scope.Expression.InScope;
import dev.entente.core.scope.Expression.Named;
import dev.entente.core.scope.Expression.NoneOf;
import dev.entente.core.scope.Expression.Unknowable;
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
    private final Map<String, Finding> known = new HashMap<>();
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

    /** An answer that may be unknown: in a strong three-valued logic (Kleene), where only a sure yes covers. */
    private record Finding(Boolean holds, String because) {
        boolean yes() {
            return Boolean.TRUE.equals(holds);
        }

        boolean no() {
            return Boolean.FALSE.equals(holds);
        }
    }

    /** @param scope one of the scopes */
    public Answer in(String scope) {
        var finding = found(scope);
        return new Answer(finding.yes(), finding.because());
    }

    private Finding found(String scope) {
        var answer = known.get(scope);
        if (answer == null) {
            answer = found(scopes.get(scope));
            known.put(scope, answer);
        }
        return answer;
    }

    private Finding found(Scope scope) {
        var inner = of(scope.expression());
        if (!inner.yes()) {
            return new Finding(inner.holds(), "not in " + scope.title() + ": " + inner.because());
        }
        if (scope.portion().isPresent() && !scope.portion().get().holds(subject.id())) {
            return new Finding(
                    false,
                    "left out of " + scope.title() + " by its portion of "
                            + scope.portion().get());
        }
        return new Finding(true, "in " + scope.title() + ": " + inner.because());
    }

    private Finding of(Expression expression) {
        if (expression instanceof InGroup in) {
            var way = reach.wayTo(in.key());
            return way.isEmpty()
                    ? new Finding(false, "not in the group " + in.name())
                    : new Finding(true, describe(way));
        }
        if (expression instanceof InOu in) {
            var there = places().stream().anyMatch(p -> GroupGraph.isBelow(p, in.key(), in.below()));
            return new Finding(there, (there ? "" : "not ") + "in the OU " + in.name() + (in.below() ? "" : " itself"));
        }
        if (expression instanceof Where where) {
            return where(where);
        }
        if (expression instanceof Named named) {
            var name = named.logins().stream()
                    .filter(l -> subject.logins().contains(l.toLowerCase(Locale.ROOT)))
                    .findFirst();
            return new Finding(name.isPresent(), name.map(n -> "named as " + n).orElse("not named"));
        }
        if (expression instanceof Unknowable unknowable) {
            return new Finding(null, "it can't be known who is " + unknowable.words());
        }
        if (expression instanceof InScope in) {
            // Its own reason is asked for by its own name: reasons of reasons would grow without bound.
            var answer = found(in.scope());
            var title = scopes.get(in.scope()).title();
            return new Finding(answer.holds(), (answer.yes() ? "in " : "not in ") + title);
        }
        if (expression instanceof AnyOf any) {
            return any(any.parts());
        }
        if (expression instanceof AllOf all) {
            return all(all.parts());
        }
        var unknown = (Finding) null;
        for (var part : ((NoneOf) expression).parts()) {
            var answer = of(part);
            if (answer.yes()) {
                return new Finding(false, "left out as " + answer.because());
            }
            unknown = answer.no() ? unknown : answer;
        }
        return unknown == null
                ? new Finding(true, "nothing leaves out")
                : new Finding(null, "left out, since " + unknown.because());
    }

    private Finding where(Where where) {
        Optional<String> value = subject.values(where.attribute()).stream()
                .filter(v -> where.condition().holds(v, today))
                .findFirst();
        return value.map(v -> new Finding(true, where.attribute() + " is " + v))
                .orElseGet(() -> new Finding(
                        false,
                        subject.values(where.attribute()).isEmpty()
                                ? where.attribute() + " has no value"
                                : where.attribute() + " is " + String.join(", ", subject.values(where.attribute()))));
    }

    private Finding any(List<Expression> parts) {
        var against = new ArrayList<String>();
        var unknown = false;
        for (var part : parts) {
            var answer = of(part);
            if (answer.yes()) {
                return answer;
            }
            unknown |= !answer.no();
            against.add(answer.because());
        }
        return new Finding(unknown ? null : Boolean.FALSE, String.join(", ", against));
    }

    private Finding all(List<Expression> parts) {
        var reasons = new ArrayList<String>();
        var unknown = (Finding) null;
        for (var part : parts) {
            var answer = of(part);
            if (answer.no()) {
                return answer;
            }
            unknown = answer.yes() ? unknown : answer;
            if (!(part instanceof NoneOf)) {
                reasons.add(answer.because());
            }
        }
        return unknown != null
                ? unknown
                : new Finding(true, reasons.isEmpty() ? "nothing leaves out" : String.join(" and ", reasons));
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
