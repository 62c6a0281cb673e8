package dev.entente.steward.directory;

import com.unboundid.ldap.sdk.LDAPException;
import com.unboundid.ldap.sdk.ModifyRequest;
import com.unboundid.ldap.sdk.ResultCode;
import dev.entente.core.attempt.Cause;
import dev.entente.steward.directory.Servers.Lent;
import dev.entente.steward.settings.StewardFile.Guard;
import dev.entente.steward.settings.TargetPart;
import dev.entente.steward.target.Target;
import dev.entente.wire.DirectoryApi.Finding;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.UUID;
import java.util.concurrent.TimeUnit;

/** An LDAP directory of either kind. */
public final class LdapTarget implements Target {
    private static final long LOOK_AT_CERTIFICATE = TimeUnit.HOURS.toNanos(1);

    private final TargetPart.Ldap part;
    private final Guard guard;
    private final Servers servers;
    private final DirectoryAdapter adapter;
    private volatile Instant certificateEnds;
    private volatile long certificateSeen = System.nanoTime() - LOOK_AT_CERTIFICATE;

    /** Hears when the work moves from one server to another. */
    public interface Listener {
        /** @param why what was wrong with the one before, or that a preferred one is back */
        void moved(String from, String to, String why);
    }

    /**
     * @param guard where preflight looks for rights
     * @param listener hears when the work moves to another server
     */
    public LdapTarget(TargetPart.Ldap part, Guard guard, Listener listener) {
        this.part = part;
        this.guard = guard;
        this.servers = new Servers(part, listener);
        this.adapter = DirectoryAdapter.of(part, servers);
    }

    @Override
    public Visit visit() throws Lost {
        try {
            return new LdapVisit(servers.lend());
        } catch (LDAPException e) {
            throw new Lost(said(e));
        }
    }

    @Override
    public Visit visit(String server) throws Lost {
        try {
            return new LdapVisit(servers.lendFrom(server));
        } catch (LDAPException e) {
            throw new Lost(said(e));
        }
    }

    @Override
    public String read(Reading reading, Sink sink) throws Refused, Lost, StaleCursor {
        try (var lent = servers.lend()) {
            try {
                return adapter.read(lent.patient(), reading, sink);
            } catch (LDAPException e) {
                throw broken(lent, e);
            }
        } catch (LDAPException e) {
            throw new Lost(said(e));
        }
    }

    @Override
    public List<String> unresolved(Guard rails) throws Refused, Lost {
        try (var lent = servers.lend()) {
            try {
                return RailsLookedUp.of(part, rails, lent.connection());
            } catch (LDAPException e) {
                throw broken(lent, e);
            }
        } catch (LDAPException e) {
            throw new Lost(said(e));
        }
    }

    @Override
    public List<Finding> examine(boolean mailNeeded) {
        return new Preflight(servers, adapter, part, guard).run(mailNeeded);
    }

    @Override
    public String current() {
        return servers.current();
    }

    @Override
    public Optional<Instant> certificateEnds() {
        if (System.nanoTime() - certificateSeen >= LOOK_AT_CERTIFICATE) {
            certificateSeen = System.nanoTime();
            try {
                servers.shownCertificate(servers.current())
                        .ifPresent(c -> certificateEnds = c.getNotAfter().toInstant());
            } catch (LDAPException e) {
                // What was seen before stays true.
            }
        }
        return Optional.ofNullable(certificateEnds);
    }

    @Override
    public void close() {
        servers.close();
    }

    /** Codes from 81 on are the library's own, for what happened to the connection. */
    private static String said(LDAPException e) {
        return switch (e.getResultCode().intValue()) {
            case 81 -> "the server is down or closed the connection";
            case 82 -> "the connection was lost (" + LdapText.bounded(e.getMessage()) + ")";
            case 85 -> "the server did not answer in time";
            case 91 -> "no connection to the server can be made (" + LdapText.bounded(e.getMessage()) + ")";
            default -> e.getResultCode().intValue() + " " + e.getResultCode().getName();
        };
    }

    /** Tells an answer that is a no from a connection that broke, and moves away from a server that broke it. */
    private Refused broken(Lent lent, LDAPException e) throws Lost {
        lent.failed(e);
        if (!e.getResultCode().isConnectionUsable()
                || e.getResultCode().equals(ResultCode.TIMEOUT)
                || e.getResultCode().equals(ResultCode.BUSY)
                || e.getResultCode().equals(ResultCode.UNAVAILABLE)) {
            servers.suspect(lent.url(), e);
            throw new Lost(said(e));
        }
        if (e.getResultCode().equals(ResultCode.ASSERTION_FAILED)) {
            return new Refused(Cause.DIRECTORY_ERROR, "the entry changed while it was looked at; try again");
        }
        var refusal = adapter.refusal(e);
        return new Refused(refusal.cause(), refusal.detail());
    }

    private interface Asking<T> {
        T ask() throws LDAPException;
    }

    private final class LdapVisit implements Visit {
        private final String server;
        private Lent lent;

        LdapVisit(Lent lent) {
            this.server = lent.url();
            this.lent = lent;
        }

        @Override
        public String server() {
            return server;
        }

        private <T> T ask(Asking<T> asking) throws Refused, Lost {
            try {
                if (lent == null) {
                    lent = servers.lendFrom(server);
                }
            } catch (LDAPException e) {
                throw new Lost(said(e));
            }
            try {
                return asking.ask();
            } catch (LDAPException e) {
                throw broken(lent, e);
            }
        }

        @Override
        public Optional<Entry> find(UUID id) throws Refused, Lost {
            return ask(() -> adapter.find(lent, id));
        }

        @Override
        public boolean memberOf(Entry entry, List<String> groups) throws Refused, Lost {
            return ask(() -> adapter.memberOf(lent, entry, groups));
        }

        @Override
        public void reset(Entry entry, String password, boolean clearLockout, boolean mustChange) throws Refused, Lost {
            send(ask(() -> adapter.reset(lent, entry, password, clearLockout, mustChange)));
        }

        @Override
        public void change(Entry entry, String old, String password) throws Refused, Lost {
            if (adapter.bindsBeforeChange()) {
                var judged = judge(entry, old);
                if (judged.proof() == Proof.WRONG) {
                    throw new Refused(Cause.WRONG_OLD, "bind " + judged.code());
                }
                if (judged.proof() == Proof.SAYS_NOTHING) {
                    throw new Refused(Cause.DIRECTORY_ERROR, "the old password could not be judged: " + judged.code());
                }
                // A bind may have moved the entry's version: it writes down when it was.
                var now = ask(() -> adapter.find(lent, entry.id()))
                        .orElseThrow(() -> new Refused(Cause.NO_ENTRY, "the entry went away meanwhile"));
                send(adapter.change(now, old, password));
                return;
            }
            send(adapter.change(entry, old, password));
        }

        @Override
        public void unlock(Entry entry) throws Refused, Lost {
            send(adapter.unlock(entry));
        }

        private void send(ModifyRequest modify) throws Refused, Lost {
            ask(() -> lent.connection().modify(modify));
        }

        @Override
        public int triesLeft(Entry entry) throws Refused, Lost {
            return ask(() -> adapter.triesLeft(lent, entry));
        }

        @Override
        public Optional<Instant> earliestChange(Entry entry) throws Refused, Lost {
            return ask(() -> adapter.earliestChange(lent, entry));
        }

        @Override
        public Judged judge(Entry entry, String password) {
            try (var judging = servers.judge(server)) {
                try {
                    judging.connection().bind(entry.dn(), password);
                    return new Judged(Proof.RIGHT, "0");
                } catch (LDAPException e) {
                    judging.failed(e);
                    return adapter.judge(e);
                }
            } catch (LDAPException e) {
                return adapter.judge(e);
            }
        }

        @Override
        public boolean judges() {
            return true;
        }

        @Override
        public void rest() {
            if (lent != null) {
                lent.close();
                lent = null;
            }
        }

        @Override
        public void close() {
            rest();
        }
    }
}
