package dev.entente.steward.directory;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import java.util.UUID;
import org.junit.jupiter.api.Test;

/** Security descriptors laid out byte by byte, as [MS-DTYP] 2.4.4 to 2.4.6 describe them. */
class AccessRightsTest {
    private static final String ACCOUNT = "S-1-5-21-1-2-3-1104";
    private static final String GROUP = "S-1-5-21-1-2-3-512";
    private static final UUID RESET = UUID.fromString("00299570-246d-11d0-a768-00aa006e0529");
    private static final UUID LOCKOUT = UUID.fromString("28630ebf-41d5-11d1-a9c1-0000f80367c1");
    private static final UUID USER = UUID.fromString("bf967aba-0de6-11d0-a285-00aa003049e2");
    private static final int ALLOW = 0;
    private static final int DENY = 1;
    private static final int ALLOW_OBJECT = 5;
    private static final int DENY_OBJECT = 6;
    private static final int INHERIT_ONLY = 8;
    private static final int INHERITED = 0x10;

    private static byte[] sid(String text) {
        var parts = text.split("-");
        var bytes = ByteBuffer.allocate(8 + 4 * (parts.length - 3)).order(ByteOrder.LITTLE_ENDIAN);
        bytes.put((byte) 1).put((byte) (parts.length - 3)).put(new byte[5]).put((byte) Integer.parseInt(parts[2]));
        for (var i = 3; i < parts.length; i++) {
            bytes.putInt(Integer.parseUnsignedInt(parts[i]));
        }
        return bytes.array();
    }

    /** Its first three parts are little-endian on the wire. */
    private static byte[] guid(UUID id) {
        var bytes = ByteBuffer.allocate(16).order(ByteOrder.LITTLE_ENDIAN);
        bytes.putInt((int) (id.getMostSignificantBits() >>> 32))
                .putShort((short) (id.getMostSignificantBits() >>> 16))
                .putShort((short) id.getMostSignificantBits());
        return bytes.order(ByteOrder.BIG_ENDIAN)
                .putLong(id.getLeastSignificantBits())
                .array();
    }

    /** @param inheritedBy the class of entries that an object entry is for; null for all */
    private static byte[] ace(int type, int flags, int mask, UUID object, UUID inheritedBy, String sid) {
        var objects = type >= ALLOW_OBJECT ? 4 + (object == null ? 0 : 16) + (inheritedBy == null ? 0 : 16) : 0;
        var size = 8 + objects + sid(sid).length;
        var bytes = ByteBuffer.allocate(size).order(ByteOrder.LITTLE_ENDIAN);
        bytes.put((byte) type).put((byte) flags).putShort((short) size).putInt(mask);
        if (type >= ALLOW_OBJECT) {
            bytes.putInt((object == null ? 0 : 1) | (inheritedBy == null ? 0 : 2));
            if (object != null) {
                bytes.put(guid(object));
            }
            if (inheritedBy != null) {
                bytes.put(guid(inheritedBy));
            }
        }
        return bytes.put(sid(sid)).array();
    }

    private static byte[] ace(int type, int mask, UUID object) {
        return ace(type, INHERITED, mask, object, null, ACCOUNT);
    }

    private static AccessRights rights(byte[]... aces) {
        var list = new ArrayList<>(List.of(aces));
        var length = list.stream().mapToInt(a -> a.length).sum();
        // The owner stands before the list, so that its place is not the usual one.
        var owner = sid(GROUP);
        var bytes = ByteBuffer.allocate(20 + owner.length + 8 + length).order(ByteOrder.LITTLE_ENDIAN);
        bytes.put((byte) 1).put((byte) 0).putShort((short) 0x8004);
        bytes.putInt(20).putInt(0).putInt(0).putInt(20 + owner.length);
        bytes.put(owner);
        bytes.put((byte) 4).put((byte) 0).putShort((short) (8 + length)).putShort((short) list.size());
        bytes.putShort((short) 0);
        list.forEach(bytes::put);
        return new AccessRights(bytes.array());
    }

    private static boolean mayReset(AccessRights rights) {
        return rights.holds(Set.of(ACCOUNT), AccessRights.CONTROL_ACCESS, RESET);
    }

    @Test
    void a_right_is_held_by_the_one_it_is_given_to_and_for_what_it_is_given() {
        var rights = rights(ace(ALLOW_OBJECT, AccessRights.CONTROL_ACCESS, RESET));
        assertThat(mayReset(rights)).isTrue();
        assertThat(rights.holds(Set.of(GROUP), AccessRights.CONTROL_ACCESS, RESET))
                .isFalse();
        assertThat(rights.holds(Set.of(ACCOUNT), AccessRights.CONTROL_ACCESS, LOCKOUT))
                .isFalse();
        assertThat(rights.holds(Set.of(ACCOUNT), AccessRights.WRITE_PROPERTY, RESET))
                .isFalse();
    }

    @Test
    void it_may_come_by_a_group_or_by_the_property_set() {
        var byGroup = rights(ace(ALLOW_OBJECT, 0, AccessRights.CONTROL_ACCESS, RESET, USER, GROUP));
        assertThat(byGroup.holds(Set.of(ACCOUNT, GROUP), AccessRights.CONTROL_ACCESS, RESET))
                .isTrue();
        var bySet = rights(ace(ALLOW_OBJECT, AccessRights.WRITE_PROPERTY, USER));
        assertThat(bySet.holds(Set.of(ACCOUNT), AccessRights.WRITE_PROPERTY, LOCKOUT, USER))
                .isTrue();
    }

    @Test
    void a_right_for_everything_holds_for_each_thing() {
        assertThat(mayReset(rights(ace(ALLOW, AccessRights.CONTROL_ACCESS, null))))
                .isTrue();
        assertThat(mayReset(rights(ace(ALLOW_OBJECT, AccessRights.CONTROL_ACCESS, null))))
                .isTrue();
        assertThat(mayReset(rights(ace(ALLOW, 0x10000000, null))))
                .as("generic all")
                .isTrue();
    }

    @Test
    void what_comes_first_counts() {
        var allow = ace(ALLOW_OBJECT, AccessRights.CONTROL_ACCESS, RESET);
        for (var deny : List.of(
                ace(DENY_OBJECT, AccessRights.CONTROL_ACCESS, RESET),
                ace(DENY, AccessRights.CONTROL_ACCESS, null),
                ace(DENY, 0x10000000, null))) {
            assertThat(mayReset(rights(deny, allow))).isFalse();
            assertThat(mayReset(rights(allow, deny))).isTrue();
        }
        assertThat(mayReset(rights(ace(DENY, AccessRights.WRITE_PROPERTY, null), allow)))
                .as("another right is denied")
                .isTrue();
        assertThat(mayReset(
                        rights(ace(DENY, 0, AccessRights.CONTROL_ACCESS, null, null, "S-1-5-21-1-2-3-9999"), allow)))
                .as("somebody else is denied")
                .isTrue();
    }

    @Test
    void what_is_only_for_entries_below_says_nothing_here() {
        assertThat(mayReset(rights(ace(ALLOW_OBJECT, INHERIT_ONLY, AccessRights.CONTROL_ACCESS, RESET, USER, ACCOUNT))))
                .isFalse();
    }

    @Test
    void an_empty_list_and_a_missing_one_give_nothing() {
        assertThat(mayReset(rights())).isFalse();
        var without = ByteBuffer.allocate(20).order(ByteOrder.LITTLE_ENDIAN);
        assertThat(mayReset(new AccessRights(without.put((byte) 1).array()))).isFalse();
    }

    @Test
    void who_may_change_the_list_controls_the_entry() {
        assertThat(rights(ace(ALLOW, AccessRights.WRITE_DACL, null)).controls(Set.of(ACCOUNT)))
                .isTrue();
        assertThat(rights(ace(ALLOW, 0xF01FF, null)).controls(Set.of(ACCOUNT))).isTrue();
        assertThat(rights(ace(ALLOW, 0x10000000, null)).controls(Set.of(GROUP))).isFalse();
        assertThat(rights(ace(ALLOW_OBJECT, AccessRights.CONTROL_ACCESS, RESET)).controls(Set.of(ACCOUNT)))
                .isFalse();
        assertThat(rights(ace(DENY, AccessRights.WRITE_DACL, null)).controls(Set.of(ACCOUNT)))
                .isFalse();
    }

    @Test
    void identifiers_are_written_as_everybody_writes_them() {
        for (var text : List.of(ACCOUNT, "S-1-5-10", "S-1-5-32-544", "S-1-5-21-4294967295-1-2-500")) {
            assertThat(AccessRights.sid(sid(text))).isEqualTo(text);
        }
    }
}
