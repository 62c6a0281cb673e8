package dev.entente.core.verify;

import com.fasterxml.jackson.annotation.JsonCreator;
import com.fasterxml.jackson.annotation.JsonValue;
import java.time.Duration;
import java.util.Collection;
import java.util.Collections;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.ServiceLoader;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.Predicate;

/**
 * A way to verify a person: what is so for everybody who uses it, as data. Each method is a class of its own in a package of its
 * own, named in {@code META-INF/services}, and every list of methods follows from there: {@code docs/contributing-a-method.md}.
 * Names are as in policy files. Two with one name are refused at start.
 */
public abstract class Method implements Comparable<Method> {
    private static final Comparator<Method> ORDER =
            Comparator.<Method>comparingInt(m -> m.facts.place()).thenComparing(Method::label);

    /** Where what is needed to recognise somebody comes from. */
    public enum Source {
        /** What the directories say: an address, a telephone number. */
        DIRECTORY,
        /** People set it up by themselves, once they have verified. */
        PERSON,
        /** Somebody of the staff brings it in or vouches for it. */
        STAFF,
        /** It comes by itself, by use. */
        USE
    }

    /**
     * What is so for everybody.
     *
     * @param label in files and interfaces: lower case and dashes
     * @param place among the others wherever methods are named, lowest first
     * @param factor what it usually counts as; the configuration may say otherwise
     * @param besides a second factor that it always shows as well, such as what unlocks a passkey; null if there is none
     * @param life how long an answer can be given unless the configuration says otherwise; null where the answer has a life of its
     *     own
     * @param tries for one challenge, unless the configuration says otherwise
     * @param alone whether it may suffice by itself, unless the configuration says otherwise
     * @param by how a code is sent to where the directories say that the person is reached; null if none is sent
     * @param holding what an attacker would have to hold to answer in the person's place
     */
    public record Facts(
            String label,
            int place,
            Factor factor,
            Factor besides,
            Duration life,
            int tries,
            boolean alone,
            Source source,
            Channel by,
            Holding holding) {}

    private final Facts facts;
    /** One bit for each that is known; none for one that no list names. */
    private long bit;

    protected Method(Facts facts) {
        this.facts = facts;
    }

    private static final class Registry {
        static final Map<String, Method> BY_LABEL = new TreeMap<>();
        static final List<Method> ALL;
        static final Map<Long, Set<Method>> SETS = new ConcurrentHashMap<>();

        static {
            for (var method : ServiceLoader.load(Method.class, Method.class.getClassLoader())) {
                if (BY_LABEL.putIfAbsent(method.label(), method) != null) {
                    throw new IllegalStateException("two methods are named " + method.label());
                }
            }
            ALL = BY_LABEL.values().stream().sorted().toList();
            for (var method : ALL) {
                method.bit = 1L << ALL.indexOf(method);
            }
        }
    }

    /** All, in the order in which they are named. */
    public static List<Method> known() {
        return Registry.ALL;
    }

    /** Those whose codes are sent by a channel. */
    public static Set<Method> by(Channel channel) {
        return set(known().stream().filter(m -> m.facts.by() == channel).toList());
    }

    /** Those for which what is needed comes from there. */
    public static Set<Method> from(Source source) {
        return set(known().stream().filter(m -> m.facts.source() == source).toList());
    }

    /** The method with this name. */
    public static Optional<Method> labelled(String label) {
        return label == null ? Optional.empty() : Optional.ofNullable(Registry.BY_LABEL.get(label));
    }

    /** The method with this name, which there is; attempts of before wrote {@code EMAIL_CODE} for {@code email-code}. */
    @JsonCreator
    public static Method of(String label) {
        return labelled(label.toLowerCase(Locale.ROOT).replace('_', '-'))
                .orElseThrow(() -> new IllegalArgumentException("there is no method " + label));
    }

    /** These in their order, each set of methods once in memory: a census holds one for each of a million people. */
    public static Set<Method> set(Collection<Method> methods) {
        var bits = 0L;
        for (var method : methods) {
            if (method.bit == 0) {
                return Collections.unmodifiableSet(new TreeSet<>(methods));
            }
            bits |= method.bit;
        }
        return Registry.SETS.computeIfAbsent(bits, b -> Collections.unmodifiableSet(new TreeSet<>(methods)));
    }

    /** What is so for everybody who uses it. */
    public final Facts facts() {
        return facts;
    }

    /** The name in files and interfaces. */
    @JsonValue
    public final String label() {
        return facts.label();
    }

    /** The name in a sentence. */
    public String words() {
        return facts.label().replace('-', ' ');
    }

    /** What it usually counts as; the configuration may say otherwise. */
    public final Factor factor() {
        return facts.factor();
    }

    /** Whether people can set it up by themselves, once they have verified. */
    public final boolean selfEnrolled() {
        return facts.source() == Source.PERSON;
    }

    /** Whether people set something up for it, once they have verified: the method, or what is asked besides. */
    public boolean prepared() {
        return selfEnrolled();
    }

    /** Whether somebody who has done nothing here yet may have it. */
    public final boolean fromTheStart() {
        return facts.source() == Source.DIRECTORY || facts.source() == Source.STAFF;
    }

    /** Whether a code is sent, to where the directories say that the person is reached. */
    public final boolean sent() {
        return facts.by() != null;
    }

    /**
     * Whether somebody who has proved nothing yet can be asked for it. What it shows must then be the same for every name.
     */
    public boolean mayComeFirst() {
        return true;
    }

    /** Whether it may be set to suffice by itself. */
    public boolean mayStandAlone() {
        return true;
    }

    /**
     * A setting that this method alone has, in {@code methods.yaml}: a list of texts, empty if nothing is said.
     *
     * @param each whether a text is one
     * @param says what is expected, to follow a colon
     * @param most texts
     */
    public record OwnSetting(String name, Predicate<String> each, String says, int most) {}

    /** Settings that it has besides those of all methods. */
    public List<OwnSetting> ownSettings() {
        return List.of();
    }

    /** Whether each message costs money, see {@link Channel#costs}. */
    public final boolean costs() {
        return facts.by() != null && facts.by().costs();
    }

    @Override
    public final int compareTo(Method other) {
        return ORDER.compare(this, other);
    }

    @Override
    public final boolean equals(Object other) {
        return other instanceof Method method && method.label().equals(label());
    }

    @Override
    public final int hashCode() {
        return label().hashCode();
    }

    @Override
    public final String toString() {
        return label();
    }
}
