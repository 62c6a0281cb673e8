package dev.entente.service.verify;

import dev.entente.core.verify.Method;
import dev.entente.core.verify.Verifier;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Function;
import org.springframework.stereotype.Component;

/** Who judges and who sets up each method. A method without one, or with two, keeps the service from starting. */
@Component
public class Methods {
    private final Map<Method, Verifier> verifiers;
    private final Map<Method, Enroller> enrollers;

    Methods(List<Verifier> verifiers, List<Enroller> enrollers) {
        this.verifiers = each("judges", verifiers, Verifier::method, Set.copyOf(Method.known()));
        this.enrollers = each(
                "sets up",
                enrollers,
                Enroller::method,
                Method.set(
                        Method.known().stream().filter(m -> !m.fromTheStart()).toList()));
    }

    private static <T> Map<Method, T> each(
            String does, Collection<T> found, Function<T, Method> method, Set<Method> expected) {
        var by = new TreeMap<Method, T>();
        for (var one : found) {
            if (by.put(method.apply(one), one) != null) {
                throw new IllegalStateException("two classes say that each alone " + does + " " + method.apply(one));
            }
        }
        var missing = new TreeSet<>(expected);
        missing.removeAll(by.keySet());
        if (!missing.isEmpty()) {
            throw new IllegalStateException("nothing " + does + " " + missing);
        }
        return by;
    }

    /** Who judges it. */
    public Verifier verifier(Method method) {
        return verifiers.get(method);
    }

    /** All who judge. */
    public Collection<Verifier> verifiers() {
        return verifiers.values();
    }

    /** Who sets it up; only for methods that people set up, or that come by use. */
    public Enroller enroller(Method method) {
        return enrollers.get(method);
    }
}
