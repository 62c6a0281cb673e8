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
import java.util.HashMap;
import java.util.Map;
import org.roaringbitmap.RoaringBitmap;

/** Who is in which scope, for everybody at once. The same answers as {@link Membership} gives for one person. */
public final class ScopeSets {
    private final Population population;
    private final Map<String, Scope> scopes;
    private final LocalDate today;
    private final Map<String, RoaringBitmap> groups = new HashMap<>();
    private final Map<String, RoaringBitmap> known = new HashMap<>();

    /** @param today the day that dates in conditions are relative to */
    public ScopeSets(Population population, Map<String, Scope> scopes, LocalDate today) {
        this.population = population;
        this.scopes = scopes;
        this.today = today;
    }

    /**
     * Numbers of the people in a scope; not to be changed.
     *
     * @param scope one of the scopes
     */
    public RoaringBitmap of(String scope) {
        var set = known.get(scope);
        if (set == null) {
            set = of(scopes.get(scope));
            known.put(scope, set);
        }
        return set;
    }

    /** Numbers of the people that an unnamed scope would hold; not to be changed. */
    public RoaringBitmap of(Scope scope) {
        var inner = of(scope.expression());
        if (scope.portion().isEmpty()) {
            return inner;
        }
        var portion = scope.portion().get();
        var share = new RoaringBitmap();
        inner.forEach((int number) -> {
            if (portion.holds(population.id(number))) {
                share.add(number);
            }
        });
        return share;
    }

    private RoaringBitmap of(Expression expression) {
        if (expression instanceof InGroup in) {
            return groups.computeIfAbsent(in.key(), population::within);
        }
        if (expression instanceof InOu in) {
            var ou = in.key();
            var all = new RoaringBitmap();
            population.places().forEach((place, people) -> {
                if (place.equals(ou) || in.below() && GroupGraph.isBelow(place, ou, true)) {
                    all.or(people);
                }
            });
            return all;
        }
        if (expression instanceof Where where) {
            var all = new RoaringBitmap();
            population.values(where.attribute()).forEach((value, people) -> {
                if (where.condition().holds(value, today)) {
                    all.or(people);
                }
            });
            return all;
        }
        if (expression instanceof Named named) {
            var all = new RoaringBitmap();
            for (var login : named.logins()) {
                var number = population.login(login);
                if (number != null) {
                    all.add(number);
                }
            }
            return all;
        }
        if (expression instanceof InScope in) {
            return of(in.scope());
        }
        if (expression instanceof AnyOf any) {
            var all = new RoaringBitmap();
            any.parts().forEach(part -> all.or(of(part)));
            return all;
        }
        if (expression instanceof AllOf all) {
            RoaringBitmap left = null;
            for (var part : all.parts()) {
                if (left == null) {
                    left = of(part).clone();
                } else if (part instanceof NoneOf none) {
                    // What is left out need not be turned into everybody else first.
                    for (var out : none.parts()) {
                        left.andNot(of(out));
                    }
                } else {
                    left.and(of(part));
                }
            }
            return left == null ? population.everybody() : left;
        }
        var all = population.everybody();
        ((NoneOf) expression).parts().forEach(part -> all.andNot(of(part)));
        return all;
    }
}
