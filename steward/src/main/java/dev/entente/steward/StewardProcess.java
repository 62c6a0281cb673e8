package dev.entente.steward;

import dev.entente.core.scope.ReadableAttributes;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.steward.directory.LdapTarget;
import dev.entente.steward.link.SealingKeys;
import dev.entente.steward.link.ServiceLink;
import dev.entente.steward.link.StewardState;
import dev.entente.steward.local.LocalTarget;
import dev.entente.steward.order.Journal;
import dev.entente.steward.order.OrderHandler;
import dev.entente.steward.scim.ScimTarget;
import dev.entente.steward.settings.StewardFile;
import dev.entente.steward.settings.TargetPart;
import dev.entente.steward.target.Target;
import dev.entente.wire.ConnectionTrouble;
import dev.entente.wire.DirectoryApi.Finding;
import dev.entente.wire.StewardApi;
import java.io.IOException;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.file.StandardOpenOption;
import java.time.Clock;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Semaphore;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** The running steward: asks for work, keeps its sealing keys fresh, and does orders and jobs. */
final class StewardProcess {
    static final String VERSION = "0.1.0";
    private static final Logger log = LoggerFactory.getLogger(StewardProcess.class);
    /** As long as the service leaves a look to one steward. */
    private static final Duration TELLING = Duration.ofSeconds(75);

    private static final int MOST_MOVES = 20;
    private static final int ORDERS_PER_CONNECTION = 4;
    private static final int LONGEST_REASON = 200;

    private final StewardFile file;
    private final StewardState state;
    private final ServiceLink link;
    private final Target target;
    private final SealingKeys keys;
    private final InstantSource clock = Clock.systemUTC();
    private final Set<String> handedIn = new HashSet<>();
    private final ConcurrentLinkedQueue<StewardApi.Move> moves = new ConcurrentLinkedQueue<>();
    private final ExecutorService working;
    private final ExecutorService reading = Executors.newFixedThreadPool(3);
    private final String instance = UUID.randomUUID().toString();
    private final Semaphore room;
    private volatile Journal journal;

    StewardProcess(StewardFile file) throws IOException {
        this.file = file;
        this.state = StewardState.read(file.state());
        this.link = new ServiceLink(file.service(), file.serviceCa(), state, file.state(), clock);
        this.keys = new SealingKeys(file.state(), state, clock);
        this.target = target(file, this::moved);
        // Most of an order's time is waiting for the service and the disk, while its LDAP connection serves others.
        var atOnce = file.target().connections() * (target instanceof LdapTarget ? ORDERS_PER_CONNECTION : 1);
        this.working = Executors.newFixedThreadPool(atOnce);
        // A few orders more than can be worked on wait here, so that nobody waits for the next call.
        this.room = new Semaphore(2 * atOnce);
    }

    private static Target target(StewardFile file, LdapTarget.Listener moved) throws IOException {
        if (file.target() instanceof TargetPart.Scim scim) {
            return new ScimTarget(scim);
        }
        return file.target() instanceof TargetPart.Local local
                ? new LocalTarget(local)
                : new LdapTarget((TargetPart.Ldap) file.target(), file.guard(), moved);
    }

    /** Fail-over and fail-back are on record here and with the service. */
    private void moved(String from, String to, String why) {
        log.warn("work moves from {} to {}: {}", from, to, why);
        var bounded = why.substring(0, Math.min(LONGEST_REASON, why.length()));
        moves.add(new StewardApi.Move(from, to, bounded, clock.millis()));
        while (moves.size() > MOST_MOVES) {
            moves.poll();
        }
        var open = journal;
        if (open != null) {
            open.note("work moved from " + from + " to " + to + ": " + bounded, Map.of());
        }
    }

    /** Runs until the process is stopped. */
    void run() throws IOException, InterruptedException, StewardFile.Unusable {
        resolveRails();
        try (var channel = FileChannel.open(
                        file.state().resolve("lock"), StandardOpenOption.CREATE, StandardOpenOption.WRITE);
                FileLock lock = channel.tryLock();
                var opened = new Journal(file.state(), clock)) {
            if (lock == null) {
                throw new IOException("another steward is running in " + file.state()
                        + "; give each a folder of its own with state:");
            }
            journal = opened;
            var orders = new OrderHandler(state, link, target, file, opened, keys, clock);
            log.info("steward for {} asks {} for work", state.directoryName(), file.service());
            while (!Thread.currentThread().isInterrupted()) {
                round(orders);
            }
        }
    }

    /** With a guard rail that means nothing, no order is taken. */
    private void resolveRails() throws InterruptedException, StewardFile.Unusable {
        while (true) {
            try {
                var unresolved = target.unresolved(file.guard());
                if (unresolved.isEmpty()) {
                    return;
                }
                throw new StewardFile.Unusable(String.join(" ", unresolved));
            } catch (Target.Refused | Target.Lost e) {
                log.warn(
                        "can't check the guard rails in the directory ({}); trying again until it answers",
                        e.getMessage());
                Thread.sleep(2000);
            }
        }
    }

    private static StewardApi.Demand demand(StewardFile.Demand demand) {
        return demand.proof().isEmpty()
                ? null
                : new StewardApi.Demand(
                        demand.groups(),
                        demand.bases(),
                        demand.proof().stream().sorted().toList());
    }

    private void round(OrderHandler orders) throws InterruptedException {
        room.acquire();
        var taken = 1 + room.drainPermits();
        var used = 0;
        try {
            if (!freshKeys()) {
                log.info("waiting to be signed into the roster: the operator runs entente steward sign-roster");
                Thread.sleep(2000);
                return;
            }
            orders.tellUnsent();
            var told = List.copyOf(moves);
            var work = link.work(new StewardApi.AskForWork(
                    VERSION,
                    StewardApi.USUAL_WAIT,
                    taken,
                    instance,
                    target.current(),
                    target.certificateEnds().map(Instant::toEpochMilli).orElse(null),
                    link.latencyMillis(),
                    told,
                    demand(file.guard().demand())));
            moves.removeAll(told);
            if (work.isEmpty()) {
                return;
            }
            if (work.get().task() != null) {
                reading.execute(() -> perform(work.get().task()));
            }
            for (var order : work.get().orders()) {
                used++;
                working.execute(() -> carryOut(orders, order));
            }
        } catch (IOException | InvalidDocument e) {
            log.warn("can't ask the service for work, trying again. {}", said(e));
            Thread.sleep(1000);
        } finally {
            room.release(taken - used);
        }
    }

    private void carryOut(OrderHandler orders, String order) {
        try {
            orders.handle(order);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } catch (RuntimeException e) {
            log.error(
                    "an order ended with a fault of this program, please report it: {}",
                    e.getClass().getSimpleName(),
                    e);
        } finally {
            room.release();
        }
    }

    /** @return whether this steward is on the roster, so that its keys are taken */
    private boolean freshKeys() throws IOException, InterruptedException {
        var statements = keys.current();
        if (handedIn.containsAll(statements) && !link.lookIsDue()) {
            return true;
        }
        if (!link.standing().lists(state)) {
            return false;
        }
        for (var statement : statements) {
            if (handedIn.add(statement)) {
                link.sealingKey(statement);
            }
        }
        return true;
    }

    private void perform(StewardApi.Task task) {
        try {
            switch (task.kind()) {
                case "preflight" ->
                    link.end(task.id(), new StewardApi.JobEnd(true, null, target.examine(task.mailNeeded()), null));
                case "sync" -> link.end(task.id(), sync(task));
                default -> changes(task);
            }
        } catch (IOException e) {
            log.warn("can't tell the service how a {} ended; it asks for another. {}", task.kind(), said(e));
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } catch (RuntimeException e) {
            log.error(
                    "a {} ended with a fault of this program, please report it: {}",
                    task.kind(),
                    e.getClass().getSimpleName(),
                    e);
        }
    }

    /** The service never needs these; one that was taken over might ask for them. */
    private static Optional<String> refused(StewardApi.Task task) {
        var named = new ArrayList<>(task.attributes() == null ? List.of() : task.attributes());
        named.addAll(task.loginAttributes());
        named.add(task.correlation());
        return ReadableAttributes.refused(named);
    }

    private StewardApi.JobEnd sync(StewardApi.Task task) throws InterruptedException {
        var refused = refused(task);
        if (refused.isPresent()) {
            return failed(refused.get() + " Change the directory's settings.");
        }
        try (var handing = new Handing(batch -> link.batch(task.id(), batch))) {
            var cursor = target.read(
                    new Target.Reading(task.correlation(), task.loginAttributes(), task.attributes(), null), handing);
            handing.finish();
            return new StewardApi.JobEnd(true, null, null, cursor);
        } catch (Target.Refused | Target.Lost | Target.StaleCursor e) {
            log.warn("the sync ended early, the directory answered {}; run entente steward check", e.getMessage());
            return failed("The directory answered with " + e.getMessage() + ". Run preflight for details.");
        } catch (Handing.NotTaken e) {
            return failed("The service didn't accept what was read: " + e.getMessage());
        }
    }

    private static StewardApi.JobEnd failed(String message) {
        return new StewardApi.JobEnd(false, message, null, null);
    }

    private void changes(StewardApi.Task task) throws IOException, InterruptedException {
        var from = task.cursor();
        var pending = new ArrayList<StewardApi.Batch>();
        var refused = refused(task);
        if (refused.isPresent()) {
            tell(new StewardApi.Changes(from, null, refused.get(), null, true));
            return;
        }
        // While nothing changes the service hears of it seldom; what did change is handed in at once.
        var until = System.nanoTime() + Duration.ofSeconds(task.watchSeconds()).toNanos();
        try {
            var to = look(task, from, pending);
            while (pending.isEmpty() && System.nanoTime() < until) {
                Thread.sleep(1000L * Math.max(1, task.everySeconds()));
                to = look(task, to, pending);
            }
            tell(new StewardApi.Changes(from, to, null, pending.isEmpty() ? null : pending.get(0), true));
        } catch (Target.StaleCursor e) {
            tell(new StewardApi.Changes(from, null, e.getMessage(), null, true));
        } catch (Target.Refused | Target.Lost e) {
            log.warn("can't read changes from the directory, trying again: {}", e.getMessage());
            tell(new StewardApi.Changes(from, from, null, null, true));
        } catch (Handing.NotTaken e) {
            // Looked for anew from where the service stands: taking the same in twice changes nothing.
            log.warn("the service didn't accept what changed, reading it again: {}", e.getMessage());
            tell(new StewardApi.Changes(from, from, null, null, true));
        }
    }

    /**
     * Tells how a look ended. A service that is away for a moment hears of it when it is back: until then it believes that this
     * steward is still looking, and lets no other look.
     */
    private void tell(StewardApi.Changes changes) throws IOException, InterruptedException {
        var until = System.nanoTime() + TELLING.toNanos();
        while (true) {
            try {
                link.changes(changes);
                return;
            } catch (IOException e) {
                var decided = e instanceof ServiceLink.Refused refused && refused.status() < 500;
                if (decided || System.nanoTime() > until) {
                    throw e;
                }
                Thread.sleep(1000);
            }
        }
    }

    private String look(StewardApi.Task task, String from, List<StewardApi.Batch> pending)
            throws Target.StaleCursor, Target.Refused, Target.Lost, InterruptedException {
        return target.read(
                new Target.Reading(task.correlation(), task.loginAttributes(), task.attributes(), from), batch -> {
                    // All but the newest are handed in on the way, so that memory does not grow with the changes.
                    pending.add(batch);
                    if (pending.size() > 1) {
                        hand(new StewardApi.Changes(task.cursor(), task.cursor(), null, pending.remove(0), false));
                    }
                });
    }

    private void hand(StewardApi.Changes changes) {
        try {
            link.changes(changes);
        } catch (IOException e) {
            throw new Handing.NotTaken(e.getMessage());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new Handing.NotTaken("interrupted");
        }
    }

    private String said(Exception e) {
        return e instanceof ServiceLink.Refused || e instanceof InvalidDocument
                ? e.getMessage()
                : ConnectionTrouble.sentence(e, file.service(), "service-ca in the steward's file");
    }

    /** What is to be said of the directory, with nothing but the steward's own file. */
    static List<Finding> preflight(StewardFile file) throws IOException {
        return target(file, (from, to, why) -> log.warn("work moves from {} to {}: {}", from, to, why))
                .examine(false);
    }

    /** Whether the service knows this steward, as a sentence; an empty map entry for what is fine. */
    Map.Entry<Boolean, String> reachService() throws InterruptedException {
        try {
            var standing = link.standing();
            return standing.lists(state)
                    ? Map.entry(
                            true,
                            "The service answers; this steward is on roster "
                                    + standing.roster().version() + ".")
                    : Map.entry(
                            false,
                            "The service answers, but the operator has not signed this steward into the roster yet: run"
                                    + " entente steward sign-roster.");
        } catch (IOException | InvalidDocument e) {
            return Map.entry(false, "The service at " + file.service() + " does not answer as it should: " + said(e));
        }
    }
}
