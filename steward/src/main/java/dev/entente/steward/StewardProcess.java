package dev.entente.steward;

import com.unboundid.ldap.sdk.LDAPException;
import dev.entente.core.seal.InvalidDocument;
import dev.entente.steward.directory.DirectoryAdapter;
import dev.entente.steward.directory.Preflight;
import dev.entente.steward.directory.Servers;
import dev.entente.steward.link.SealingKeys;
import dev.entente.steward.link.ServiceLink;
import dev.entente.steward.link.StewardState;
import dev.entente.steward.order.Journal;
import dev.entente.steward.order.OrderHandler;
import dev.entente.steward.settings.StewardFile;
import dev.entente.wire.StewardApi;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.channels.FileChannel;
import java.nio.channels.FileLock;
import java.nio.file.StandardOpenOption;
import java.time.Clock;
import java.time.Duration;
import java.time.InstantSource;
import java.util.HashSet;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Semaphore;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** The running steward: asks for work, keeps its sealing keys fresh, and does orders and jobs. */
final class StewardProcess {
    static final String VERSION = "0.1.0";
    private static final Logger log = LoggerFactory.getLogger(StewardProcess.class);
    private static final Duration WAIT = Duration.ofSeconds(12);
    private static final int AT_ONCE = 8;

    private final StewardFile file;
    private final StewardState state;
    private final ServiceLink link;
    private final Servers servers;
    private final DirectoryAdapter adapter;
    private final SealingKeys keys;
    private final InstantSource clock = Clock.systemUTC();
    private final Set<String> handedIn = new HashSet<>();
    private final ExecutorService working = Executors.newFixedThreadPool(AT_ONCE + 1);
    private final Semaphore free = new Semaphore(AT_ONCE);

    StewardProcess(StewardFile file) throws IOException {
        this.file = file;
        this.state = StewardState.read(file.state());
        this.link = new ServiceLink(file.service(), file.serviceCa(), state, clock);
        var directory = file.directory();
        this.servers = new Servers(
                directory.servers(), directory.ca(), directory.bind(), directory.passwordFile(), directory.timeout());
        this.adapter = DirectoryAdapter.of(directory.kind());
        this.keys = new SealingKeys(file.state(), state, clock);
    }

    /** Runs until the process is stopped. */
    void run() throws IOException, InterruptedException {
        try (var channel = FileChannel.open(
                        file.state().resolve("lock"), StandardOpenOption.CREATE, StandardOpenOption.WRITE);
                FileLock lock = channel.tryLock();
                var journal = new Journal(file.state(), clock)) {
            if (lock == null) {
                throw new IOException("another steward runs in " + file.state() + "; each needs a folder of its own");
            }
            var orders = new OrderHandler(state, link, servers, adapter, file, journal, keys, clock);
            log.info("steward for {} asks {} for work", state.directoryName(), file.service());
            while (!Thread.currentThread().isInterrupted()) {
                round(orders);
            }
        }
    }

    private void round(OrderHandler orders) throws InterruptedException {
        free.acquire();
        var handedOver = false;
        try {
            if (!freshKeys()) {
                log.info("waiting for the operator to sign this steward into the roster");
                Thread.sleep(2000);
                return;
            }
            orders.tellUnsent();
            var work = link.work(VERSION, WAIT);
            if (work.isEmpty()) {
                return;
            }
            handedOver = true;
            working.execute(() -> {
                try {
                    if (work.get().order() != null) {
                        orders.handle(work.get().order());
                    } else {
                        perform(work.get().task());
                    }
                } catch (InterruptedException e) {
                    Thread.currentThread().interrupt();
                } catch (RuntimeException e) {
                    log.error("work ended with {}", e.getClass().getSimpleName(), e);
                } finally {
                    free.release();
                }
            });
        } catch (IOException | InvalidDocument e) {
            log.warn("the service does not answer as it should, trying again: {}", e.getMessage());
            Thread.sleep(1000);
        } finally {
            if (!handedOver) {
                free.release();
            }
        }
    }

    /** @return whether this steward is on the roster, so that its keys are taken */
    private boolean freshKeys() throws IOException, InterruptedException {
        var statements = keys.current();
        if (handedIn.containsAll(statements)) {
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

    private void perform(StewardApi.Task task) throws InterruptedException {
        try {
            if (task.kind().equals("preflight")) {
                link.end(
                        task.id(), new StewardApi.JobEnd(true, null, preflight().run()));
            } else {
                link.end(task.id(), sync(task));
            }
        } catch (IOException e) {
            log.warn("a {} could not be told to the service: {}", task.kind(), e.getMessage());
        }
    }

    private StewardApi.JobEnd sync(StewardApi.Task task) throws InterruptedException {
        try (var connection = servers.connect()) {
            adapter.read(connection, file.directory().base(), task.correlation(), batch -> hand(task, batch));
            return new StewardApi.JobEnd(true, null, null);
        } catch (LDAPException e) {
            log.warn("sync: {}", e.getMessage());
            return new StewardApi.JobEnd(
                    false,
                    "The directory answered with " + e.getResultCode().intValue() + " "
                            + e.getResultCode().getName() + ". Run preflight to see more.",
                    null);
        } catch (UncheckedIOException e) {
            return new StewardApi.JobEnd(false, "The service did not take what was read: " + e.getMessage(), null);
        }
    }

    private void hand(StewardApi.Task task, StewardApi.Batch batch) {
        try {
            link.batch(task.id(), batch);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new UncheckedIOException(new IOException("interrupted", e));
        }
    }

    Preflight preflight() {
        var directory = file.directory();
        return new Preflight(servers, adapter, directory.base(), directory.bind(), directory.probe());
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
            return Map.entry(
                    false, "The service at " + file.service() + " does not answer as it should: " + e.getMessage());
        }
    }
}
