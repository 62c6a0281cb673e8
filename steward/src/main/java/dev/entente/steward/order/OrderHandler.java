package dev.entente.steward.order;

import dev.entente.core.attempt.Cause;
import dev.entente.core.attempt.Outcome;
import dev.entente.core.seal.Credential;
import dev.entente.core.seal.CredentialStatement;
import dev.entente.core.seal.EcKey;
import dev.entente.core.seal.Evidence;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.core.seal.Order;
import dev.entente.core.seal.Receipt;
import dev.entente.core.seal.Roster;
import dev.entente.core.seal.Seal;
import dev.entente.core.verify.Page;
import dev.entente.steward.link.OrderCalls;
import dev.entente.steward.link.SealingKeys;
import dev.entente.steward.link.StewardState;
import dev.entente.steward.order.SealOpener.Content;
import dev.entente.steward.settings.StewardFile;
import dev.entente.steward.target.Target;
import dev.entente.steward.target.Target.Entry;
import dev.entente.steward.target.Target.Judged;
import dev.entente.steward.target.Target.Lost;
import dev.entente.steward.target.Target.Proof;
import dev.entente.steward.target.Target.Refused;
import dev.entente.steward.target.Target.Visit;
import java.io.IOException;
import java.security.SecureRandom;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Base64;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutionException;
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
    private final OrderCalls link;
    private final Target target;
    private final Journal journal;
    private final SealOpener opener;
    private final GuardRails guard;
    private final CredentialStore credentials;
    private final OwnProofs proofs;
    private final InstantSource clock;
    private final Set<UUID> telling = ConcurrentHashMap.newKeySet();

    /** All that an order needs; nothing here is kept between orders but the journal. */
    public OrderHandler(
            StewardState state,
            OrderCalls link,
            Target target,
            StewardFile file,
            Journal journal,
            SealingKeys keys,
            InstantSource clock) {
        this.state = state;
        this.link = link;
        this.target = target;
        this.journal = journal;
        this.opener = new SealOpener(keys);
        this.guard = new GuardRails(file.guard(), journal, clock);
        this.credentials = new CredentialStore(file.state());
        this.proofs = new OwnProofs(credentials, file.guard().sealAge().multipliedBy(2), clock);
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
        private String dn;
        /** Whose stewards may state credentials besides the operator; null for none of them. */
        private Roster roster;

        private String server;
        private String versionBefore;
        private String versionAfter;
        private String bind;
        private Instant retryAt;
        private long writeUntil;
        /** Who agreed: the thumbprint of the attempt's key; null where nobody did. */
        private String key;

        /** Whether this steward demands a proof for the entry: only then it takes credentials for it. */
        private boolean demanded;

        private List<Credential> brought = List.of();
        private List<String> withdrawn = List.of();
        private List<String> recognised = List.of();

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
            log.warn("refused an order that the service didn't sign: {}", e.getMessage());
            return;
        }
        var progress = new Progress(order);
        try {
            carryOut(progress);
            recognise(progress);
            end(progress, Outcome.DONE, null, null);
        } catch (Ends e) {
            end(progress, e.outcome, e.cause, e.detail);
        } catch (GivenUp e) {
            journal.note("given up: " + e.getMessage(), about(progress));
            log.warn("gave up order {}: {}", order.id(), e.getMessage());
        }
    }

    /** Hands in receipts that the service has not taken yet, and waits for its answers. */
    public void tellUnsent() throws InterruptedException {
        var answers = journal.unsent().entrySet().stream()
                .map(receipt -> tell(receipt.getKey(), receipt.getValue()))
                .toArray(CompletableFuture[]::new);
        try {
            CompletableFuture.allOf(answers).get();
        } catch (ExecutionException e) {
            // They are handed in again with the next round.
        }
    }

    /** Nobody waits for the answer to a receipt: it is kept here until the service has it. */
    private CompletableFuture<Void> tell(UUID order, String receipt) {
        if (!telling.add(order)) {
            return CompletableFuture.completedFuture(null);
        }
        return link.receipt(order, receipt).handle((taken, problem) -> {
            telling.remove(order);
            if (problem == null) {
                if (!taken) {
                    log.warn("the service refused the receipt for order {}; it stays in the journal", order);
                }
                journal.told(order);
            }
            return null;
        });
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
        end(guard.forbid(order.action()));
        if (order.action().equals("retire")) {
            judgeOrder(order);
            work(progress, new Content(1, random(), null));
        } else if (order.seal() == null) {
            judgeUnlock(progress);
            progress.roster = order.credentials().isEmpty() ? null : roster();
            progress.phase("evidence");
            work(progress, null);
        } else {
            var seal = judgeEvidence(progress);
            progress.phase("evidence");
            if (!journal.takeSeal(seal.binding().id(), order.account(), order.id(), order.epoch(), about(progress))) {
                throw new Ends(Outcome.REFUSED, Cause.SEEN_BEFORE, "this seal was used before");
            }
            var content = open(seal);
            progress.phase("open");
            work(progress, content);
        }
    }

    private static void end(Optional<GuardRails.Forbidden> forbidden) throws Ends {
        if (forbidden.isPresent()) {
            throw new Ends(
                    Outcome.REFUSED, forbidden.get().cause(), forbidden.get().detail());
        }
    }

    /** @param content null for an unlock */
    private void work(Progress progress, Content content) throws Ends, GivenUp, InterruptedException {
        var order = progress.order;
        try (var visit = visit(order)) {
            progress.server = visit.server();
            var entry = visit.find(order.account())
                    .orElseThrow(() -> new Ends(
                            Outcome.REFUSED, Cause.NO_ENTRY, "no entry with this id below the steward's base"));
            progress.login = entry.login();
            progress.dn = entry.dn();
            takeStatements(progress, entry);
            progress.versionBefore = entry.version();
            // Before anything else is asked of the directory: what may not be written may not be tried either.
            var forbidden = guard.forbid(visit, entry, order.id(), demanded -> missing(progress, demanded));
            if (forbidden.isPresent()
                    && order.begun() != null
                    && !entry.version().equals(order.begun().version())) {
                throw new Ends(
                        Outcome.UNKNOWN,
                        Cause.LOST_TRACK,
                        "what was written before may not be judged here: "
                                + forbidden.get().detail());
            }
            progress.demanded = guard.demands(visit, entry);
            if (order.check()) {
                check(progress, visit, entry, content);
                return;
            }
            end(forbidden);
            if (content != null && order.rules() != null && !order.rules().meets(content.password(), entry.details())) {
                throw new Ends(Outcome.REFUSED, Cause.OUR_RULES, "the policy's rules are not met");
            }
            progress.phase("look");
            if (order.action().equals("retire")) {
                refuseToRetire(order, entry);
            } else if (order.begun() != null && judgeBefore(progress, visit, entry, content)) {
                return;
            }
            if (order.action().equals("change")) {
                lookBeforeChange(visit, entry);
                if (progress.demanded) {
                    // A service that was taken over could try passwords by changes: as few as by looks.
                    end(guard.noteJudging(entry, order.id(), about(progress)));
                }
            }
            visit.rest();
            begin(progress);
            progress.phase("begin");
            write(progress, visit, entry, content);
        } catch (Refused e) {
            // Away for now: nothing was done, and nobody said no.
            throw new Ends(
                    e.reason() == Cause.UNREACHABLE ? Outcome.FAILED : Outcome.REFUSED, e.reason(), e.getMessage());
        } catch (Lost e) {
            // Before the write that is a failure; after it only a look at the server can tell.
            if (progress.phases.containsKey("begin")) {
                throw new GivenUp("the connection broke after the write was begun: " + e.getMessage());
            }
            if (order.begun() != null) {
                throw new GivenUp("the server that was written to does not answer: " + e.getMessage());
            }
            throw new Ends(Outcome.FAILED, Cause.UNREACHABLE, e.getMessage());
        }
    }

    /** After a take-over the same server is asked that the one before wrote to. */
    private Visit visit(Order order) throws Lost {
        return order.begun() == null || order.action().equals("retire")
                ? target.visit()
                : target.visit(order.begun().server());
    }

    private void judgeOrder(Order order) throws Ends {
        if (!order.directory().equals(state.directory())) {
            throw new Ends(Outcome.REFUSED, Cause.BAD_SEAL, "the order is for another directory");
        }
        if (clock.millis() >= order.exp()) {
            throw new Ends(Outcome.REFUSED, Cause.EXPIRED, "the order has expired");
        }
    }

    private void judgeUnlock(Progress progress) throws Ends {
        var order = progress.order;
        judgeOrder(order);
        if (!order.action().equals("unlock")) {
            throw new Ends(Outcome.REFUSED, Cause.BAD_SEAL, "only an unlock comes without a seal");
        }
        try {
            Evidence.verifyUnlock(
                    order.evidence(), order.attempt(), order.directory(), order.account(), clock.instant());
            progress.key = Evidence.key(order.evidence());
        } catch (InvalidDocument e) {
            throw new Ends(Outcome.REFUSED, Cause.BAD_EVIDENCE, e.getMessage());
        }
    }

    /** Everything that can be judged without opening the seal. */
    private Seal judgeEvidence(Progress progress) throws Ends, GivenUp, InterruptedException {
        var order = progress.order;
        judgeOrder(order);
        var now = clock.instant();
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
        progress.roster = judgeRoster(binding.roster());
        try {
            var evidence = Evidence.verify(order.evidence(), seal, now);
            progress.brought = evidence.credentials();
            progress.withdrawn = evidence.withdrawn();
            progress.key = binding.key();
        } catch (InvalidDocument e) {
            throw new Ends(Outcome.REFUSED, Cause.BAD_EVIDENCE, e.getMessage());
        }
        return seal;
    }

    /** The roster in force, for an unlock, whose evidence names none. */
    private Roster roster() throws GivenUp, InterruptedException {
        try {
            return link.standingFor("").roster();
        } catch (IOException | InvalidDocument e) {
            throw new GivenUp("the roster could not be checked: " + e.getMessage());
        }
    }

    /** The roster is asked for anew when a seal names another one than is known here. */
    private Roster judgeRoster(String digest) throws Ends, GivenUp, InterruptedException {
        try {
            var standing = link.standingFor(digest);
            if (!standing.lists(state)) {
                throw new GivenUp("this steward is not on the roster");
            }
            refuseUnless(digest.equals(Roster.digest(standing.signedRoster())), "the seal was made for another roster");
            return standing.roster();
        } catch (IOException | InvalidDocument e) {
            throw new GivenUp("the roster could not be checked: " + e.getMessage());
        }
    }

    /** Statements are compared with the entry, so they are taken once it is found; what is odd about them goes into the journal. */
    private void takeStatements(Progress progress, Entry entry) {
        var order = progress.order;
        var signers = new ArrayList<EcKey>();
        signers.add(state.operatorKey());
        if (progress.roster != null) {
            progress.roster.stewards().forEach(member -> signers.add(member.key()));
        }
        credentials
                .accept(order.credentials(), signers, state.operatorKey(), order.directory(), entry)
                .forEach(doubt -> journal.note(doubt, about(progress)));
    }

    /** The page that began the attempt, as the evidence's key and the order name it. */
    private static Page page(Progress progress) {
        return new Page(progress.key, progress.order.reference(), progress.order.action());
    }

    /** Whether the order shows that the person agreed; a change shows it by the password that they have. */
    private Optional<String> missing(Progress progress, Set<String> demanded) {
        var order = progress.order;
        if (order.action().equals("change")) {
            return Optional.empty();
        }
        return progress.key == null
                ? Optional.of("and nobody agreed to this")
                : proofs.missing(order.proofs(), page(progress), order.account(), demanded);
    }

    /**
     * Takes the credentials that the person brought, and forgets those that they withdrew, once it is sure that it was them: they
     * knew the password that they changed, or had another credential that is known here.
     */
    private void recognise(Progress progress) {
        var order = progress.order;
        // Where nothing is demanded yet, a planted credential would count from the day on which something is.
        var brought = progress.demanded ? progress.brought : List.<Credential>of();
        if (brought.isEmpty() && progress.withdrawn.isEmpty()
                || !order.action().equals("change")
                        && proofs.missing(order.proofs(), page(progress), order.account(), guard.demanded())
                                .isPresent()) {
            return;
        }
        progress.recognised = new ArrayList<>();
        credentials.add(order.account(), brought).forEach(c -> progress.recognised.add(stated(progress, c, false)));
        credentials
                .withdraw(order.account(), progress.withdrawn)
                .forEach(c -> progress.recognised.add(stated(progress, c, true)));
    }

    private String stated(Progress progress, Credential credential, boolean removed) {
        var order = progress.order;
        return CredentialStatement.of(
                        order.directory(),
                        order.account(),
                        progress.login,
                        progress.dn,
                        credential,
                        removed,
                        clock.millis())
                .sign(state.identity());
    }

    private Content open(Seal seal) throws Ends {
        try {
            return opener.open(seal);
        } catch (InvalidDocument e) {
            throw new Ends(Outcome.REFUSED, Cause.BAD_SEAL, e.getMessage());
        }
    }

    /** Nobody ever learns it; it is as long as every known directory takes. */
    private static String random() {
        var bytes = new byte[36];
        new SecureRandom().nextBytes(bytes);
        return "aA1-" + Base64.getUrlEncoder().withoutPadding().encodeToString(bytes);
    }

    /** A temporary password that was used, or set anew, is no longer ours to replace. */
    private static void refuseToRetire(Order order, Entry entry) throws Ends {
        if (order.begun() == null || !entry.version().equals(order.begun().version()) || !entry.mustChange()) {
            throw new Ends(Outcome.REFUSED, Cause.DIRECTORY_RULES, "the temporary password was used or replaced");
        }
    }

    /** A wrong old password counts as the directory counts: it is not tried where it could lock the account. */
    private static void lookBeforeChange(Visit visit, Entry entry) throws Ends, Refused, Lost {
        if (entry.locked()) {
            throw new Ends(Outcome.REFUSED, Cause.LOCKED, "the account is locked");
        }
        var left = visit.triesLeft(entry);
        if (left <= 1) {
            throw new Ends(
                    Outcome.REFUSED,
                    Cause.NEAR_LOCKOUT,
                    entry.wrongTries() + " wrong tries are counted and " + Math.max(0, left) + " left");
        }
    }

    /** What became of a write that nobody could tell about; nothing is written. */
    private void check(Progress progress, Visit visit, Entry entry, Content content) throws Ends {
        var noted = progress.order.begun().version();
        if (entry.version().equals(noted)) {
            throw new Ends(Outcome.FAILED, Cause.NOT_WRITTEN, "the version is still " + noted);
        }
        progress.versionBefore = noted;
        progress.versionAfter = entry.version();
        if (content == null) {
            throw new Ends(
                    entry.locked() ? Outcome.FAILED : Outcome.DONE,
                    entry.locked() ? Cause.NOT_WRITTEN : null,
                    entry.locked() ? "still locked" : null);
        }
        mayJudge(progress, entry);
        var judged = judge(progress, visit, entry, content.password());
        if (judged.proof() != Proof.RIGHT) {
            throw new Ends(
                    Outcome.UNKNOWN,
                    Cause.LOST_TRACK,
                    "the version moved from " + noted + " to " + entry.version() + ", but the password does not bind: "
                            + judged.code());
        }
    }

    /**
     * Judges what the holder before did.
     *
     * @return true if the password is in place already
     */
    private boolean judgeBefore(Progress progress, Visit visit, Entry entry, Content content) throws Ends {
        var noted = progress.order.begun().version();
        if (progress.versionBefore.equals(noted) || content == null) {
            // To unlock twice does no harm.
            return false;
        }
        progress.versionAfter = progress.versionBefore;
        progress.versionBefore = noted;
        mayJudge(progress, entry);
        var judged = judge(progress, visit, entry, content.password());
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

    /** A password that is tried without a write is noted and counted first. */
    private void mayJudge(Progress progress, Entry entry) throws Ends {
        var order = progress.order;
        var forbidden = guard.noteJudging(entry, order.id(), about(progress));
        if (forbidden.isPresent()) {
            throw new Ends(
                    Outcome.UNKNOWN,
                    Cause.LOST_TRACK,
                    "it is not looked whether the password binds: "
                            + forbidden.get().detail());
        }
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
        progress.writeUntil = asked + order.leaseMillis() * 1_000_000;
    }

    private void write(Progress progress, Visit visit, Entry entry, Content content)
            throws Ends, GivenUp, Refused, Lost {
        var order = progress.order;
        end(guard.note(entry, order.id(), about(progress)));
        // The last thing before the write: whoever slept until now is too late.
        if (System.nanoTime() - progress.writeUntil >= 0) {
            throw new GivenUp("the lease ended just before the write");
        }
        try {
            switch (order.action()) {
                case "unlock" -> visit.unlock(entry);
                case "change" -> visit.change(entry, content.old(), content.password());
                case "temporary", "retire" -> visit.reset(entry, content.password(), true, true);
                default -> visit.reset(entry, content.password(), order.clearLockout(), order.mustChange());
            }
        } catch (Refused e) {
            progress.phase("write");
            if (e.reason() == Cause.TOO_RECENT) {
                progress.retryAt = visit.earliestChange(entry).orElse(null);
            }
            throw e;
        }
        progress.phase("write");
        var after =
                visit.find(order.account()).orElseThrow(() -> new Lost("the entry went away right after the write"));
        progress.versionAfter = after.version();
        if (content == null) {
            progress.phase("judge");
            if (after.locked()) {
                throw new Ends(
                        Outcome.FAILED, Cause.DIRECTORY_ERROR, "the directory took the unlock, but it is still locked");
            }
            return;
        }
        var judged = judge(progress, visit, after, content.password());
        progress.phase("judge");
        var unmoved = progress.versionAfter.equals(progress.versionBefore);
        if (judged.proof() == Proof.WRONG || unmoved && visit.judges()) {
            throw new Ends(
                    Outcome.UNKNOWN,
                    Cause.LOST_TRACK,
                    "the directory took the password, but version " + progress.versionAfter + " and bind "
                            + judged.code() + " do not show it");
        }
    }

    private static Judged judge(Progress progress, Visit visit, Entry entry, String password) {
        var judged = visit.judge(entry, password);
        progress.bind = judged.code();
        return judged;
    }

    private void end(Progress progress, Outcome outcome, Cause cause, String detail) throws InterruptedException {
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
                        progress.retryAt == null ? null : progress.retryAt.toEpochMilli(),
                        progress.phases,
                        clock.millis(),
                        journal.head(),
                        progress.recognised)
                .sign(state.identity());
        var also = about(progress);
        also.put("outcome", outcome.name());
        also.put("cause", cause == null ? null : cause.name());
        also.put("detail", detail);
        also.put("versionBefore", progress.versionBefore);
        also.put("versionAfter", progress.versionAfter);
        also.put("bind", progress.bind);
        journal.ended(order.id(), receipt, also);
        tell(order.id(), receipt);
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
