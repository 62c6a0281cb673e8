package dev.entente.core.seal;

import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.UUID;

/**
 * Which stewards serve a directory, signed by the directory's operator key. The service stores and hands out this document
 * but cannot write it.
 *
 * @param v format version, 1
 * @param directory the directory's id
 * @param version counts up from 1; a reader never goes back to a lower one
 * @param issuedAt milliseconds since 1970
 * @param stewards at most 32
 */
public record Roster(int v, UUID directory, int version, long issuedAt, List<Member> stewards) {
    private static final String TYP = "entente-roster+jwt";

    /** One steward and the key that is its identity. */
    public record Member(UUID id, String name, EcKey key) {}

    /** @throws InvalidDocument if the version is unknown, the list too long or a steward listed twice */
    public Roster {
        if (v != 1 || version < 1 || directory == null) {
            throw new InvalidDocument("format", "this roster has a format that is not known here");
        }
        stewards = List.copyOf(stewards);
        var seen = new HashSet<UUID>();
        if (stewards.size() > 32 || !stewards.stream().allMatch(member -> seen.add(member.id()))) {
            throw new InvalidDocument("format", "the roster is too long or lists a steward twice");
        }
    }

    /** The signed text. */
    public String sign(SigningKey operatorKey) {
        return Jws.sign(operatorKey, TYP, this);
    }

    /**
     * Reads a signed roster.
     *
     * @throws InvalidDocument if it is not this operator's, or of another directory
     */
    public static Roster verify(String signed, EcKey operatorKey, UUID directory) {
        var roster = Jws.verify(signed, operatorKey, TYP, Roster.class);
        if (!roster.directory.equals(directory)) {
            throw new InvalidDocument("roster", "this roster is of another directory");
        }
        return roster;
    }

    /** The steward with this id, if it is listed. */
    public Optional<Member> member(UUID steward) {
        return stewards.stream().filter(member -> member.id().equals(steward)).findFirst();
    }

    /** How a seal names the roster it was made for: SHA-256 of the signed text, base64url. */
    public static String digest(String signed) {
        return EcKey.digest(signed);
    }
}
