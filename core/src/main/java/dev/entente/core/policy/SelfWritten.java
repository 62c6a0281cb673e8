package dev.entente.core.policy;

import dev.entente.core.verify.Method;
import java.util.Collection;
import java.util.List;
import java.util.Set;
import org.roaringbitmap.RoaringBitmap;

/**
 * Which contact values people may change in a directory by themselves, so that a signed-in computer is enough to send their codes
 * elsewhere.
 *
 * @param directories most trusted first
 */
public record SelfWritten(List<Directory> directories) {
    /** Nobody may. */
    public static final SelfWritten NOTHING = new SelfWritten(List.of());

    /**
     * One directory.
     *
     * @param trust the lower, the more it is trusted; where a person has accounts in several, only the most trusted count
     * @param methods whose contact value people may write there
     */
    public record Directory(String name, int trust, Set<Method> methods) {
        public Directory {
            methods = Set.copyOf(methods);
        }
    }

    public SelfWritten {
        directories = List.copyOf(directories);
    }

    /** Whether a person with accounts in these directories may. */
    boolean by(Collection<String> accounts, Method method) {
        var known =
                directories.stream().filter(d -> accounts.contains(d.name())).toList();
        var most = known.stream().mapToInt(Directory::trust).min().orElse(0);
        return known.stream().anyMatch(d -> d.trust() == most && d.methods().contains(method));
    }

    /** All who may. */
    RoaringBitmap people(Crowd crowd, Method method) {
        var may = new RoaringBitmap();
        var left = crowd.population().everybody();
        var levels =
                directories.stream().map(Directory::trust).sorted().distinct().toList();
        for (var level : levels) {
            var here = directories.stream().filter(d -> d.trust() == level).toList();
            may.or(RoaringBitmap.and(
                    left,
                    crowd.accountsIn(here.stream()
                            .filter(d -> d.methods().contains(method))
                            .map(Directory::name)
                            .toList())));
            left.andNot(crowd.accountsIn(here.stream().map(Directory::name).toList()));
        }
        return may;
    }
}
