package dev.entente.steward.order;

import com.unboundid.ldap.sdk.LDAPConnection;
import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.ResultCode;
import dev.entente.core.attempt.Cause;
import dev.entente.core.attempt.Outcome;
import dev.entente.core.seal.Evidence;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Order;
import dev.entente.core.seal.Receipt;
import dev.entente.core.seal.Roster;
import dev.entente.core.seal.Seal;
import dev.entente.steward.directory.DirectoryAdapter;
import dev.entente.steward.directory.DirectoryAdapter.Entry;
import dev.entente.steward.directory.DirectoryAdapter.Judged;
import dev.entente.steward.directory.DirectoryAdapter.Proof;
import dev.entente.steward.directory.Servers;
import dev.entente.steward.link.SealingKeys;
import dev.entente.steward.link.ServiceLink;
import dev.entente.steward.link.StewardState;
import dev.entente.steward.settings.StewardFile;
import java.io.IOException;
import java.time.InstantSource;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.Map;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Carries out orders.
 *
 * <p>The danger is a write whose answer gets lost: written twice it would move what it must not move, and told wrongly it
 * would send a person away without a way in. So the entry's version is noted with the service before the write; after it,
 * and whenever an order is taken over, version and bind on the same server tell what really happened. What they cannot tell
 * is told as unknown.
 */
public final class OrderHandler {
    private static final Logger log = LoggerFactory.getLogger(OrderHandler.class);

    private final StewardState state;
    private final ServiceLink link;
    private final Servers servers;
    private final DirectoryAdapter adapter;
    private final StewardFile file;
    private final Journal journal;
    private final SealOpener opener;
    private final GuardRails guard;
    private final InstantSource clock;

    /** All that an order needs; nothing here is kept between orders but the journal. */
    public OrderHandler(
            StewardState state,
            ServiceLink link,
            Servers servers,
            DirectoryAdapter adapter,
            StewardFile file,
            Journal journal,
            SealingKeys keys,
            InstantSource clock) {
        this.state = state;
        this.link = link;
        this.servers = servers;
        this.adapter = adapter;
        this.file = file;
        this.journal = journal;
        this.opener = new SealOpener(keys);
        this.guard = new GuardRails(file.guard(), adapter, file.directory().base(), journal, clock);
        this.clock = clock;
    }

    /** How an order ends; thrown to leave it from wherever that becomes clear. */
    private static final class Ends extends Exception {
        private final Outcome outcome;
        private final Cause cause;
        private final String detail;

        Ends(Outcome outcome, Cause cause, String detail) {
            super(null, null, false, false);
            this.outcome = outcome;
            this.cause = cause;
            this.detail = detail;
        }
    }

    /** The order is given up without a word: another steward may take it over. */
    private static final class GivenUp extends Exception {
        GivenUp(String message) {
            super(message, null, false, false);
        }
    }

    /** What is known about an order while it is carried out. */
    private static final class Progress {
        private final Order order;
        private final Map<String, Long> phases = new LinkedHashMap<>();
        private long phaseBegun = System.nanoTime();
        private String login;
        private String server;
        private String versionBefore;
        private String versionAfter;
        private String bind;

        Progress(Order order) {
            this.order = order;
        }

        void phase(String name) {
            var now = System.nanoTime();
            phases.merge(name, (now - phaseBegun) / 1_000_000, Long::sum);
            phaseBegun = now;
        }
    }

    /**
     * Carries out one order and hands in its receipt.
     *
     * @param signed as it came
     */
    public void handle(String signed) throws InterruptedException {
        Order order;
        try {
            order = Order.verify(signed, state.serviceKey());
        } catch (InvalidDocument e) {
            journal.note("an order was refused: " + e.getMessage(), Map.of());
            log.warn("an order that the service did not sign was refused: {}", e.getMessage());
            return;
        }
        var progress = new Progress(order);
        try {
            carryOut(progress);
            end(progress, Outcome.DONE, null, null);
        } catch (Ends e) {
            end(progress, e.outcome, e.cause, e.detail);
        } catch (GivenUp e) {
            journal.note("given up: " + e.getMessage(), about(progress));
            log.warn("order {} given up: {}", order.id(), e.getMessage());
        }
        tellUnsent();
    }

    /** Hands in receipts that the service has not taken yet. */
    public void tellUnsent() throws InterruptedException {
        for (var receipt : journal.unsent().entrySet()) {
            try {
                link.receipt(receipt.getKey(), receipt.getValue());
                journal.told(receipt.getKey());
            } catch (ServiceLink.Refused e) {
                if (e.status() >= 500) {
                    return;
                }
                log.warn("a receipt was refused: {}", e.getMessage());
                journal.told(receipt.getKey());
            } catch (IOException e) {
                return;
            }
        }
    }

    private void carryOut(Progress progress) throws Ends, GivenUp, InterruptedException {
        var order = progress.order;
        var before = journal.endedBefore(order.id());
        if (before.isPresent() && before.get().outcome().equals(Outcome.DONE.name())) {
            // The receipt came too late for its epoch; the truth is the same.
            progress.versionBefore = before.get().versionBefore();
            progress.versionAfter = before.get().versionAfter();
            progress.server = before.get().server();
            return;
        }
        var seal = judgeEvidence(order);
        progress.phase("evidence");
        if (!journal.takeSeal(seal.binding().id(), order.account(), order.id(), order.epoch(), about(progress))) {
            throw new Ends(Outcome.REFUSED, Cause.SEEN_BEFORE, "this seal was used before");
        }
        var password = open(seal);
        progress.phase("open");
        try (var connection = connect(order)) {
            progress.server = url(connection);
            var entry = find(progress, connection);
            var forbidden = guard.forbid(connection, entry);
            if (forbidden.isPresent()) {
                throw new Ends(
                        Outcome.REFUSED,
                        forbidden.get().cause(),
                        forbidden.get().detail());
            }
            if (!order.rules().meets(password, entry.details())) {
                throw new Ends(Outcome.REFUSED, Cause.OUR_RULES, "the policy's rules are not met");
            }
            progress.versionBefore = adapter.version(connection, entry);
            progress.phase("look");
            if (order.begun() != null && judgeBefore(progress, entry, password)) {
                return;
            }
            begin(progress);
            progress.phase("begin");
            write(progress, connection, entry, password);
        } catch (LDAPException e) {
            throw lost(progress, e);
        }
    }

    /** Everything that can be judged without opening the seal. */
    private Seal judgeEvidence(Order order) throws Ends, GivenUp, InterruptedException {
        var now = clock.instant();
        if (!order.directory().equals(state.directory())) {
            throw new Ends(Outcome.REFUSED, Cause.BAD_SEAL, "the order is for another directory");
        }
        if (now.toEpochMilli() >= order.exp()) {
            throw new Ends(Outcome.REFUSED, Cause.EXPIRED, "the order has expired");
        }
        Seal seal;
        try {
            seal = Seal.parse(order.seal());
        } catch (InvalidDocument e) {
            throw new Ends(Outcome.REFUSED, Cause.BAD_SEAL, e.getMessage());
        }
        var binding = seal.binding();
        refuseUnless(binding.attempt().equals(order.attempt()), "the seal is bound to another attempt");
        refuseUnless(binding.directory().equals(order.directory()), "the seal is bound to another directory");
        refuseUnless(binding.action().equals(order.action()), "the seal is bound to another action");
        refuseUnless(binding.accounts().contains(order.account()), "the seal is bound to another account");
        if (now.toEpochMilli() >= binding.exp()) {
            throw new Ends(Outcome.REFUSED, Cause.EXPIRED, "the seal has expired");
        }
        refuseUnless(
                binding.exp() - now.toEpochMilli() <= guard.sealAge().toMillis(),
                "the seal is valid for longer than this steward allows");
        refuseUnless(binding.roster().equals(rosterDigest()), "the seal was made for another roster");
        try {
            Evidence.verify(order.evidence(), seal, now);
        } catch (InvalidDocument e) {
            throw new Ends(Outcome.REFUSED, Cause.BAD_EVIDENCE, e.getMessage());
        }
        return seal;
    }

    private String rosterDigest() throws GivenUp, InterruptedException {
        try {
            var standing = link.standing();
            if (!standing.lists(state)) {
                throw new GivenUp("this steward is not on the roster");
            }
            return Roster.digest(standing.signedRoster());
        } catch (IOException | InvalidDocument e) {
            throw new GivenUp("the roster could not be checked: " + e.getMessage());
        }
    }

    private String open(Seal seal) throws Ends {
        try {
            return opener.open(seal);
        } catch (InvalidDocument e) {
            throw new Ends(Outcome.REFUSED, Cause.BAD_SEAL, e.getMessage());
        }
    }

    /** After a take-over the same server is asked that the one before wrote to. */
    private LDAPConnection connect(Order order) throws Ends, GivenUp {
        try {
            return order.begun() == null
                    ? servers.connect()
                    : servers.connectTo(order.begun().server());
        } catch (LDAPException e) {
            if (order.begun() != null) {
                throw new GivenUp("the server that was written to does not answer");
            }
            throw new Ends(
                    Outcome.FAILED,
                    Cause.UNREACHABLE,
                    e.getResultCode().intValue() + " " + e.getResultCode().getName());
        }
    }

    private String url(LDAPConnection connection) {
        return servers.urls().stream()
                .filter(u ->
                        u.contains(connection.getConnectedAddress()) && u.contains(":" + connection.getConnectedPort()))
                .findFirst()
                .orElse("ldaps://" + connection.getConnectedAddress() + ":" + connection.getConnectedPort());
    }

    private Entry find(Progress progress, LDAPConnection connection) throws Ends, LDAPException {
        var entry = adapter.find(connection, file.directory().base(), progress.order.account())
                .orElseThrow(() ->
                        new Ends(Outcome.REFUSED, Cause.NO_ENTRY, "no entry with this id below the steward's base"));
        progress.login = entry.login();
        return entry;
    }

    /**
     * Judges what the holder before did.
     *
     * @return true if the password is in place already
     */
    private boolean judgeBefore(Progress progress, Entry entry, String password) throws Ends {
        var noted = progress.order.begun().version();
        if (progress.versionBefore.equals(noted)) {
            return false;
        }
        progress.versionAfter = progress.versionBefore;
        progress.versionBefore = noted;
        var judged = bind(progress, entry, password);
        progress.phase("judge");
        if (judged.proof() == Proof.RIGHT) {
            return true;
        }
        throw new Ends(
                Outcome.UNKNOWN,
                Cause.LOST_TRACK,
                "the version moved from " + noted + " to " + progress.versionAfter
                        + ", but the password does not bind: " + judged.code());
    }

    private void begin(Progress progress) throws GivenUp, InterruptedException {
        var order = progress.order;
        // The lease begins anew when the service takes this call, so not before it is made.
        var asked = System.nanoTime();
        try {
            if (!link.begin(order.id(), order.epoch(), progress.server, progress.versionBefore)) {
                throw new GivenUp("the lease was over before the write");
            }
        } catch (IOException e) {
            throw new GivenUp("the service could not be asked before the write: " + e.getMessage());
        }
        if (System.nanoTime() - asked >= order.leaseMillis() * 1_000_000) {
            throw new GivenUp("the lease ended just before the write");
        }
    }

    private void write(Progress progress, LDAPConnection connection, Entry entry, String password)
            throws Ends, LDAPException {
        var order = progress.order;
        journal.writing(order.id(), about(progress));
        try {
            connection.modify(
                    adapter.write(entry, progress.versionBefore, password, order.clearLockout(), order.mustChange()));
        } catch (LDAPException e) {
            progress.phase("write");
            if (e.getResultCode().equals(ResultCode.ASSERTION_FAILED)) {
                throw new Ends(
                        Outcome.FAILED, Cause.DIRECTORY_ERROR, "the entry changed while it was looked at; try again");
            }
            if (e.getResultCode().isConnectionUsable()) {
                var refusal = adapter.refusal(e);
                throw new Ends(Outcome.REFUSED, refusal.cause(), refusal.detail());
            }
            throw e;
        }
        progress.phase("write");
        progress.versionAfter = adapter.version(connection, entry);
        var judged = bind(progress, entry, password);
        progress.phase("judge");
        if (judged.proof() == Proof.WRONG || progress.versionAfter.equals(progress.versionBefore)) {
            throw new Ends(
                    Outcome.UNKNOWN,
                    Cause.LOST_TRACK,
                    "the directory took the password, but version " + progress.versionAfter + " and bind "
                            + judged.code() + " do not show it");
        }
    }

    private Judged bind(Progress progress, Entry entry, String password) {
        Judged judged;
        try (var connection = servers.open(progress.server)) {
            connection.bind(entry.dn(), password);
            judged = new Judged(Proof.RIGHT, "0");
        } catch (LDAPException e) {
            judged = adapter.judge(e);
        }
        progress.bind = judged.code();
        return judged;
    }

    /** The connection broke. Before the write that is a failure; after it only a look at the server can tell. */
    private static Ends lost(Progress progress, LDAPException e) throws GivenUp {
        var detail = e.getResultCode().intValue() + " " + e.getResultCode().getName();
        if (progress.phases.containsKey("begin")) {
            throw new GivenUp("the connection broke after the write was begun: " + detail);
        }
        return new Ends(Outcome.FAILED, Cause.UNREACHABLE, detail);
    }

    private void end(Progress progress, Outcome outcome, Cause cause, String detail) {
        var order = progress.order;
        var receipt = new Receipt(
                        1,
                        order.id(),
                        order.epoch(),
                        state.steward(),
                        outcome,
                        cause,
                        detail,
                        progress.server,
                        progress.versionBefore,
                        progress.versionAfter,
                        progress.bind,
                        progress.phases,
                        clock.millis(),
                        journal.head())
                .sign(state.identity());
        var also = about(progress);
        also.put("outcome", outcome.name());
        also.put("cause", cause == null ? null : cause.name());
        also.put("detail", detail);
        also.put("versionBefore", progress.versionBefore);
        also.put("versionAfter", progress.versionAfter);
        also.put("bind", progress.bind);
        journal.ended(order.id(), receipt, also);
        log.info("order {} of {}: {} {}", order.id(), order.reference(), outcome, cause == null ? "" : cause);
    }

    private static Map<String, Object> about(Progress progress) {
        var about = new HashMap<String, Object>();
        about.put("reference", progress.order.reference());
        about.put("order", progress.order.id().toString());
        about.put("epoch", progress.order.epoch());
        about.put("login", progress.login);
        about.put("server", progress.server);
        return about;
    }

    private static void refuseUnless(boolean holds, String otherwise) throws Ends {
        if (!holds) {
            throw new Ends(Outcome.REFUSED, Cause.BAD_SEAL, otherwise);
        }
    }
}
