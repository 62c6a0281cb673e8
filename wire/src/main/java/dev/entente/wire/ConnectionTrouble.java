package dev.entente.wire;

import java.net.ConnectException;
import java.net.SocketTimeoutException;
import java.net.URI;
import java.net.UnknownHostException;
import java.nio.channels.UnresolvedAddressException;
import javax.net.ssl.SSLException;
import javax.net.ssl.SSLPeerUnverifiedException;

/** What hinders a connection, in a sentence that says what to do; exceptions of the JDK say "null" or "PKIX path building failed". */
public final class ConnectionTrouble {
    private ConnectionTrouble() {}

    /**
     * Says why an address does not answer.
     *
     * @param trust what to name so that its certificate is trusted, such as {@code service-ca in the steward's file}
     */
    public static String sentence(Throwable problem, String address, String trust) {
        for (var e = problem; e != null; e = e.getCause()) {
            if (e instanceof UnknownHostException || e instanceof UnresolvedAddressException) {
                return "The name " + host(address) + " isn't known here. Check the address.";
            }
            if (e instanceof SSLPeerUnverifiedException || said(e).contains("No subject alternative")) {
                return "The certificate of " + address + " is for another name. Use the name that it is for.";
            }
            if (said(e).contains("PKIX path") || said(e).contains("unable to find valid certification path")) {
                return "The certificate of " + address + " isn't trusted here. Name the authority that signed it: "
                        + trust + ".";
            }
            if (e instanceof SSLException) {
                return "No TLS connection to " + address + " can be made. Check that it speaks TLS: " + said(e) + ".";
            }
            if (e instanceof ConnectException && !said(e).contains("timed out")) {
                return "Nothing answers at " + address + ". Check that it runs, and that no firewall is in between.";
            }
            if (e instanceof SocketTimeoutException
                    || e.getClass().getSimpleName().endsWith("TimeoutException")
                    || said(e).contains("timed out")) {
                return "There was no answer from " + address + " in time. Try again in a moment.";
            }
        }
        return "The connection to " + address + " broke ("
                + problem.getClass().getSimpleName() + (said(problem).isEmpty() ? "" : ": " + said(problem))
                + "). Try again in a moment.";
    }

    /** Whether something is about a connection at all, rather than a file. */
    public static boolean is(Throwable problem) {
        for (var e = problem; e != null; e = e.getCause()) {
            if (e.getClass().getPackageName().startsWith("java.net")
                    || e instanceof SSLException
                    || e instanceof UnresolvedAddressException
                    || said(e).contains("PKIX path")) {
                return true;
            }
        }
        return false;
    }

    private static String said(Throwable e) {
        return e.getMessage() == null ? "" : e.getMessage();
    }

    private static String host(String address) {
        try {
            var host = URI.create(address).getHost();
            return host == null ? address : host;
        } catch (IllegalArgumentException e) {
            return address;
        }
    }
}
