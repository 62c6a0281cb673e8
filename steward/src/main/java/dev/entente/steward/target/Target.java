package dev.entente.steward.target;

import dev.entente.core.attempt.Cause;
import dev.entente.steward.settings.StewardFile.Guard;
import dev.entente.wire.DirectoryApi.Finding;
import dev.entente.wire.StewardApi;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.UUID;

/** A place where passwords are written: a directory, or another system beside this steward. */
public interface Target extends AutoCloseable {
    /**
     * One entry as it stands.
     *
     * @param dn name of the entry; where there are no distinguished names, its login name
     * @param details names and login, for the rule against personal details
     * @param version moves with every change of the password, and maybe more often
     * @param locked whether it is locked after wrong passwords
     * @param wrongTries how many wrong passwords are counted now
     * @param setAt when the password was set, or null
     * @param mustChange whether another password is asked for at the next sign-in
     */
    record Entry(
            UUID id,
            String dn,
            String login,
            List<String> details,
            String version,
            boolean locked,
            int wrongTries,
            Instant setAt,
            boolean mustChange) {}

    /** What a sign-in with a password tells about that password. */
    enum Proof {
        RIGHT,
        WRONG,
        SAYS_NOTHING
    }

    /** A proof and the code that led to it. */
    record Judged(Proof proof, String code) {}

    /** What to read in a sync. */
    record Reading(String correlation, List<String> loginAttributes, List<String> attributes, String cursor) {
        public Reading {
            attributes = attributes == null ? List.of() : List.copyOf(attributes);
        }
    }

    /** Takes what a sync reads, in batches; may make the reader wait. */
    interface Sink {
        void take(StewardApi.Batch batch);
    }

    /** It said no, and nothing was written. */
    final class Refused extends Exception {
        private final Cause cause;

        /** @param detail what it said, never a secret */
        public Refused(Cause cause, String detail) {
            super(detail, null, false, false);
            this.cause = cause;
        }

        /** Why. */
        public Cause reason() {
            return cause;
        }
    }

    /** The way to it broke; whether something was written is not known. */
    final class Lost extends Exception {
        /** @param detail what broke, never a secret */
        public Lost(String detail) {
            super(detail, null, false, false);
        }
    }

    /** Changes since a cursor cannot be told any more; everything has to be read again. */
    final class StaleCursor extends Exception {
        /** @param why for the record */
        public StaleCursor(String why) {
            super(why, null, false, false);
        }
    }

    /** Work with one server of it. Holds a connection where there is one; not for two threads at once. */
    interface Visit extends AutoCloseable {
        /** Where this is, so that a take-over asks the same place. */
        String server();

        /** The entry with an immutable id within the bounds of the steward's file. */
        Optional<Entry> find(UUID id) throws Refused, Lost;

        /** Whether an entry is in any of these groups, at any depth, looked up now. */
        boolean memberOf(Entry entry, List<String> groups) throws Refused, Lost;

        /** Sets a password; fails where it can if the entry is not at its version any more. */
        void reset(Entry entry, String password, boolean clearLockout, boolean mustChange) throws Refused, Lost;

        /** Changes a password that the person knows, under the rules that the place has for changes. */
        void change(Entry entry, String old, String password) throws Refused, Lost;

        /** Clears a lockout and nothing else; doing it twice does no harm. */
        void unlock(Entry entry) throws Refused, Lost;

        /** How many more wrong passwords it takes before it locks, by the strictest guess where that cannot be read. */
        int triesLeft(Entry entry) throws Refused, Lost;

        /** From when it takes another password, where it has a minimum age that can be read. */
        Optional<Instant> earliestChange(Entry entry) throws Refused, Lost;

        /** Whether a password is right, asked of the same server. */
        Judged judge(Entry entry, String password);

        /** Whether {@link #judge} can tell at all; where it cannot, the version alone has to. */
        boolean judges();

        /** Gives a connection back while something else is waited for; the next question takes one to the same server again. */
        default void rest() {}

        @Override
        void close();
    }

    /**
     * Work as this steward, at the preferred server that answers.
     *
     * @throws Lost if none does
     */
    Visit visit() throws Lost;

    /** Work at one server, whatever is preferred. */
    Visit visit(String server) throws Lost;

    /**
     * Reads everybody, and groups with their members, and OUs; or, with a cursor, what changed since.
     *
     * @return the cursor to go on from; null if this place cannot tell changes
     */
    String read(Reading reading, Sink sink) throws Refused, Lost, StaleCursor;

    /**
     * What the guard rails name and this place does not know, a sentence each: with one of them a steward does not start. Empty
     * where all is there.
     */
    List<String> unresolved(Guard guard) throws Refused, Lost;

    /** What is right and what is wrong, all of it in one run. */
    List<Finding> examine(boolean mailNeeded);

    /** Where the work is done now, for people; null before the first visit. */
    String current();

    /** When the certificate of that server ends, where there is one and it could be seen. */
    Optional<Instant> certificateEnds();

    @Override
    void close();
}
