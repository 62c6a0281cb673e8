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
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.roaringbitmap.RoaringBitmap;

/** Who is in which scope, for everybody at once. The same answers as {@link Membership} gives for one person. */
public final class ScopeSets {
    private final Population population;
    private final Map<String, Scope> scopes;
    private final LocalDate today;
    private final Map<String, RoaringBitmap> groups = new HashMap<>();
    private final Map<String, Found> known = new HashMap<>();

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
        return found(scope).sure();
    }

    /** Numbers of the people that an unnamed scope would hold; not to be changed. */
    public RoaringBitmap of(Scope scope) {
        return found(scope).sure();
    }

    /**
     * People who are in it for sure, and those who may be; the same set where everything can be known.
     */
    private record Found(RoaringBitmap sure, RoaringBitmap possible) {
        Found(RoaringBitmap known) {
            this(known, known);
        }

        boolean certain() {
            return sure == possible;
        }
    }

    private Found found(String scope) {
        var set = known.get(scope);
        if (set == null) {
            set = found(scopes.get(scope));
            known.put(scope, set);
        }
        return set;
    }

    private Found found(Scope scope) {
        var inner = of(scope.expression());
        if (scope.portion().isEmpty()) {
            return inner;
        }
        var sure = share(scope.portion().get(), inner.sure());
        return inner.certain()
                ? new Found(sure)
                : new Found(sure, share(scope.portion().get(), inner.possible()));
    }

    private RoaringBitmap share(Scope.Portion portion, RoaringBitmap of) {
        var share = new RoaringBitmap();
        of.forEach((int number) -> {
            if (portion.holds(population.id(number))) {
                share.add(number);
            }
        });
        return share;
    }

    private Found of(Expression expression) {
        if (expression instanceof InGroup in) {
            return new Found(groups.computeIfAbsent(in.key(), population::within));
        }
        if (expression instanceof InOu in) {
            var ou = in.key();
            var all = new RoaringBitmap();
            population.places().forEach((place, people) -> {
                if (place.equals(ou) || in.below() && GroupGraph.isBelow(place, ou, true)) {
                    all.or(people);
                }
            });
            return new Found(all);
        }
        if (expression instanceof Where where) {
            var all = new RoaringBitmap();
            population.values(where.attribute()).forEach((value, people) -> {
                if (where.condition().holds(value, today)) {
                    all.or(people);
                }
            });
            return new Found(all);
        }
        if (expression instanceof Named named) {
            var all = new RoaringBitmap();
            for (var login : named.logins()) {
                var number = population.login(login);
                if (number != null) {
                    all.add(number);
                }
            }
            return new Found(all);
        }
        if (expression instanceof Unknowable) {
            return new Found(new RoaringBitmap(), population.everybody());
        }
        if (expression instanceof InScope in) {
            return found(in.scope());
        }
        if (expression instanceof AnyOf any) {
            return union(any.parts());
        }
        if (expression instanceof AllOf all) {
            return all(all.parts());
        }
        var out = union(((NoneOf) expression).parts());
        var sure = population.everybody();
        sure.andNot(out.possible());
        if (out.certain()) {
            return new Found(sure);
        }
        var possible = population.everybody();
        possible.andNot(out.sure());
        return new Found(sure, possible);
    }

    private Found union(List<Expression> parts) {
        var sure = new RoaringBitmap();
        RoaringBitmap possible = null;
        for (var part : parts) {
            var one = of(part);
            if (possible == null && !one.certain()) {
                possible = sure.clone();
            }
            sure.or(one.sure());
            if (possible != null) {
                possible.or(one.possible());
            }
        }
        return possible == null ? new Found(sure) : new Found(sure, possible);
    }

    private Found all(List<Expression> parts) {
        RoaringBitmap sure = null;
        RoaringBitmap possible = null;
        for (var part : parts) {
            if (part instanceof NoneOf none && sure != null) {
                // What is left out need not be turned into everybody else first.
                for (var out : none.parts()) {
                    var one = of(out);
                    if (possible == null && !one.certain()) {
                        possible = sure.clone();
                    }
                    sure.andNot(one.possible());
                    if (possible != null) {
                        possible.andNot(one.sure());
                    }
                }
                continue;
            }
            var one = of(part);
            if (sure == null) {
                sure = one.sure().clone();
                possible = one.certain() ? null : one.possible().clone();
                continue;
            }
            if (possible == null && !one.certain()) {
                possible = sure.clone();
            }
            sure.and(one.sure());
            if (possible != null) {
                possible.and(one.possible());
            }
        }
        if (sure == null) {
            return new Found(population.everybody());
        }
        return possible == null ? new Found(sure) : new Found(sure, possible);
    }
}
