package dev.entente.core.scope;

import java.util.Collection;
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import org.roaringbitmap.RoaringBitmap;

/**
 * Sets of people by something they have. A copy shares the sets that stay as they are, so that a change of a few people costs
 * little however many there are; nobody who reads the original notices what becomes of the copy.
 */
public final class Bitmaps<K> {
    private static final RoaringBitmap NOBODY = new RoaringBitmap();

    private final Map<K, RoaringBitmap> sets;
    private final Set<K> shared;

    /** Without anybody. */
    public Bitmaps() {
        this(new HashMap<>(), new HashSet<>());
    }

    private Bitmaps(Map<K, RoaringBitmap> sets, Set<K> shared) {
        this.sets = sets;
        this.shared = shared;
    }

    /** The same, to be changed by itself; the original is not to be changed any more. */
    public Bitmaps<K> copy() {
        return new Bitmaps<>(new HashMap<>(sets), new HashSet<>(sets.keySet()));
    }

    /** Adds somebody to a set. */
    public void add(K key, int number) {
        var set = sets.get(key);
        if (set == null || shared.remove(key)) {
            set = set == null ? new RoaringBitmap() : set.clone();
            sets.put(key, set);
        }
        set.add(number);
    }

    /** Makes a set of other people; without any there is none. */
    public void put(K key, RoaringBitmap set) {
        shared.remove(key);
        if (set.isEmpty()) {
            sets.remove(key);
        } else {
            sets.put(key, set);
        }
    }

    /** Takes people out of every set. */
    public void remove(RoaringBitmap numbers) {
        for (var each = sets.entrySet().iterator(); each.hasNext(); ) {
            var entry = each.next();
            if (!RoaringBitmap.intersects(entry.getValue(), numbers)) {
                continue;
            }
            shared.remove(entry.getKey());
            var left = RoaringBitmap.andNot(entry.getValue(), numbers);
            if (left.isEmpty()) {
                each.remove();
            } else {
                entry.setValue(left);
            }
        }
    }

    /** Forgets all other sets. */
    public void retain(Collection<K> keys) {
        sets.keySet().retainAll(keys);
    }

    /** Who is in a set; not to be changed. */
    public RoaringBitmap get(K key) {
        return sets.getOrDefault(key, NOBODY);
    }

    /** All sets; not to be changed. */
    public Map<K, RoaringBitmap> all() {
        return Collections.unmodifiableMap(sets);
    }
}
