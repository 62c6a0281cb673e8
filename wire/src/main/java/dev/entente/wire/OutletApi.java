package dev.entente.wire;

import dev.entente.core.audit.EventKind.Severity;
import dev.entente.core.audit.OutletKind;
import dev.entente.core.seal.OrNull;
import java.time.Instant;
import java.util.List;
import java.util.Map;

/** Outlets: places outside that are told what happens, over the administrators' API under {@code /api/v1}. */
public final class OutletApi {
    private OutletApi() {}

    /**
     * All of them, and where the operator lets them lead.
     *
     * @param receivers addresses that are allowed
     * @param files whether files are
     */
    public record Outlets(List<Outlet> outlets, List<String> receivers, boolean files) {}

    /**
     * One outlet.
     *
     * @param to its address; null where events are fetched
     * @param trusts whether it believes an authority of its own
     * @param credential whether it has one
     * @param kinds of events that are told; if there are no parts either, all
     * @param severity the least that is told
     * @param personal whether values that name somebody are told
     * @param state {@code following}, {@code paused} or {@code stopped}
     * @param position of the event that is next
     * @param behind events that it has not taken yet, or looked past
     * @param failures in a row
     * @param why it does not go on; null if it does
     * @param since when
     * @param sentAt when it last took something
     */
    public record Outlet(
            String name,
            @OneOf(OutletKind.class) String kind,
            @OrNull String to,
            boolean trusts,
            @OrNull String audience,
            boolean credential,
            List<String> kinds,
            List<String> parts,
            @OrNull @OneOf(Severity.class) String severity,
            boolean personal,
            String state,
            long position,
            long behind,
            int failures,
            @OrNull String why,
            @OrNull Instant since,
            @OrNull Instant sentAt) {}

    /**
     * An outlet as it shall be.
     *
     * @param to {@code host:port}, an address, or a file's name; null where events are fetched
     * @param authority PEM of an authority whose certificates are believed; null keeps the one before, empty removes it
     * @param audience of security event tokens; null for the address
     * @param credential a token that the receiver asks for; null keeps the one before, empty removes it
     * @param from position of the first event; null for what happens from now on, or to go on where it is
     */
    public record NewOutlet(
            @OneOf(OutletKind.class) String kind,
            @OrNull String to,
            @OrNull String authority,
            @OrNull String audience,
            @OrNull String credential,
            List<String> kinds,
            List<String> parts,
            @OneOf(Severity.class) String severity,
            boolean personal,
            @OrNull Long from) {
        public NewOutlet {
            kinds = kinds == null ? List.of() : kinds;
            parts = parts == null ? List.of() : parts;
        }

        /** The same with the credential of before. */
        public NewOutlet keepingCredential() {
            return new NewOutlet(kind, to, authority, audience, null, kinds, parts, severity, personal, from);
        }

        /** Shows nothing of the credential. */
        @Override
        public String toString() {
            return kind + " to " + to;
        }
    }

    /**
     * What was made.
     *
     * @param fetchWith the token by which events are fetched, shown this once; null for outlets that are told
     */
    public record Made(Outlet outlet, @OrNull String fetchWith) {
        /** Shows nothing of the token. */
        @Override
        public String toString() {
            return outlet.toString();
        }
    }

    /** What came of a test; {@code why} is null if the receiver took it. */
    public record Tried(boolean taken, @OrNull String why) {}

    /**
     * From where to go on.
     *
     * @param from position of the next event; null to go on where it is
     * @param skip leaves out the event that the receiver would not take
     */
    public record GoOn(@OrNull Long from, boolean skip) {}

    /** Public keys (RFC 7517 section 5). */
    public record Keys(List<Map<String, String>> keys) {}

    /** What a receiver asks for that fetches tokens (RFC 8936 section 2.2). */
    public record Poll(
            @OrNull Integer maxEvents,
            @OrNull Boolean returnImmediately,
            @OrNull List<String> ack,
            @OrNull Map<String, SetError> setErrs) {}

    /** Why a receiver would not take a token (RFC 8936 section 2.2). */
    public record SetError(String err, String description) {}

    /** Tokens by their ids (RFC 8936 section 2.3). */
    public record Polled(Map<String, String> sets, boolean moreAvailable) {}
}
