package dev.entente.steward.directory;

import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.UUID;

/**
 * Reads a security descriptor in its self-relative form ([MS-DTYP] sections 2.4.2 to 2.4.6) and tells which rights it gives
 * to some security identifiers on the very entry that carries it. Entries are looked at in their order, as the directory
 * does: what is denied or allowed first counts.
 */
final class AccessRights {
    static final int WRITE_PROPERTY = 0x20;
    static final int CONTROL_ACCESS = 0x100;
    static final int WRITE_DACL = 0x40000;
    private static final int GENERIC_ALL = 0x10000000;
    private static final int FULL_CONTROL = 0xF01FF;
    private static final int INHERIT_ONLY = 8;

    private record Ace(boolean allows, int mask, UUID object, String sid) {}

    private final List<Ace> aces = new ArrayList<>();

    AccessRights(byte[] descriptor) {
        var all = ByteBuffer.wrap(descriptor).order(ByteOrder.LITTLE_ENDIAN);
        var dacl = all.getInt(16);
        if (dacl == 0) {
            return;
        }
        var count = all.getShort(dacl + 4);
        var at = dacl + 8;
        for (var i = 0; i < count; i++) {
            var type = all.get(at);
            var flags = all.get(at + 1);
            var size = Short.toUnsignedInt(all.getShort(at + 2));
            if ((flags & INHERIT_ONLY) == 0) {
                read(all, at, type);
            }
            at += size;
        }
    }

    /** Types: 0 allowed, 1 denied, 5 allowed for an object, 6 denied for an object. */
    private void read(ByteBuffer all, int at, int type) {
        var mask = all.getInt(at + 4);
        if (type == 0 || type == 1) {
            aces.add(new Ace(type == 0, mask, null, sid(all, at + 8)));
        } else if (type == 5 || type == 6) {
            var present = all.getInt(at + 8);
            var next = at + 12;
            UUID object = null;
            if ((present & 1) != 0) {
                object = guid(all, next);
                next += 16;
            }
            if ((present & 2) != 0) {
                next += 16;
            }
            aces.add(new Ace(type == 5, mask, object, sid(all, next)));
        }
    }

    /**
     * Whether one of the identifiers holds a right.
     *
     * @param objects the attribute or extended right, and the property set that it belongs to; any of them will do
     */
    boolean holds(Set<String> sids, int right, UUID... objects) {
        for (var ace : aces) {
            var concerns = ace.object() == null || List.of(objects).contains(ace.object());
            var whole = (ace.mask() & GENERIC_ALL) != 0;
            if (concerns && sids.contains(ace.sid()) && (whole || (ace.mask() & right) != 0)) {
                return ace.allows();
            }
        }
        return false;
    }

    /** Whether one of the identifiers may do everything here, or change who may do what. */
    boolean controls(Set<String> sids) {
        return aces.stream()
                .anyMatch(a -> a.allows()
                        && a.object() == null
                        && sids.contains(a.sid())
                        && ((a.mask() & GENERIC_ALL) != 0
                                || (a.mask() & FULL_CONTROL) == FULL_CONTROL
                                || (a.mask() & WRITE_DACL) != 0));
    }

    /** {@code S-1-…} of a binary identifier. */
    static String sid(byte[] binary) {
        return sid(ByteBuffer.wrap(binary).order(ByteOrder.LITTLE_ENDIAN), 0);
    }

    private static String sid(ByteBuffer all, int at) {
        var text = new StringBuilder("S-").append(all.get(at));
        var parts = all.get(at + 1);
        var authority = 0L;
        for (var i = 0; i < 6; i++) {
            authority = authority << 8 | Byte.toUnsignedLong(all.get(at + 2 + i));
        }
        text.append('-').append(authority);
        for (var i = 0; i < parts; i++) {
            text.append('-').append(Integer.toUnsignedString(all.getInt(at + 8 + 4 * i)));
        }
        return text.toString();
    }

    private static UUID guid(ByteBuffer all, int at) {
        var bytes = new byte[16];
        for (var i = 0; i < 16; i++) {
            bytes[i] = all.get(at + i);
        }
        return ActiveDirectory.guid(bytes);
    }
}
