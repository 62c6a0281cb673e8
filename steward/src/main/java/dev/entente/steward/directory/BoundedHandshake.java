package dev.entente.steward.directory;

import java.io.IOException;
import java.net.InetAddress;
import java.net.Socket;
import java.time.Duration;
import javax.net.ssl.SSLSocketFactory;

/**
 * Sockets whose TLS handshake ends with an error when the server falls silent in it. Without, a directory behind a firewall
 * that drops what it does not like would hold whoever connects for ever: the LDAP library bounds the connection and each
 * answer, but not what is between them. It sets its own limit once connected.
 */
final class BoundedHandshake extends SSLSocketFactory {
    private final SSLSocketFactory factory;
    private final int millis;

    /** @param silence how long the server may say nothing */
    BoundedHandshake(SSLSocketFactory factory, Duration silence) {
        this.factory = factory;
        this.millis = (int) silence.toMillis();
    }

    private Socket bounded(Socket socket) throws IOException {
        socket.setSoTimeout(millis);
        return socket;
    }

    @Override
    public Socket createSocket() throws IOException {
        return bounded(factory.createSocket());
    }

    @Override
    public Socket createSocket(String host, int port) throws IOException {
        return bounded(factory.createSocket(host, port));
    }

    @Override
    public Socket createSocket(String host, int port, InetAddress from, int fromPort) throws IOException {
        return bounded(factory.createSocket(host, port, from, fromPort));
    }

    @Override
    public Socket createSocket(InetAddress host, int port) throws IOException {
        return bounded(factory.createSocket(host, port));
    }

    @Override
    public Socket createSocket(InetAddress host, int port, InetAddress from, int fromPort) throws IOException {
        return bounded(factory.createSocket(host, port, from, fromPort));
    }

    @Override
    public Socket createSocket(Socket plain, String host, int port, boolean close) throws IOException {
        return bounded(factory.createSocket(plain, host, port, close));
    }

    @Override
    public String[] getDefaultCipherSuites() {
        return factory.getDefaultCipherSuites();
    }

    @Override
    public String[] getSupportedCipherSuites() {
        return factory.getSupportedCipherSuites();
    }
}
