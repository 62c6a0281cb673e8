package dev.entente.service.platform;

import inet.ipaddr.IPAddress;
import inet.ipaddr.IPAddressString;
import jakarta.servlet.http.HttpServletRequest;
import java.util.Collections;
import java.util.List;
import org.springframework.stereotype.Component;

/**
 * From which address a call comes. Behind proxies that the operator trusts it is the last address in {@code X-Forwarded-For}
 * that is not one of theirs: whatever stands before it was written by whoever called.
 */
@Component
public class ClientNetwork {
    private static final int MOST_HOPS = 20;
    private static final int CUSTOMER_BITS = 56;

    private final List<IPAddress> trusted;

    ClientNetwork(ServiceSettings settings) {
        this.trusted = settings.trustedProxies().stream()
                .map(range -> {
                    var parsed = new IPAddressString(range).getAddress();
                    if (parsed == null) {
                        throw new IllegalArgumentException(
                                "entente.trusted-proxies: " + range + " is no address range");
                    }
                    return parsed.toPrefixBlock();
                })
                .toList();
    }

    /** The address, as it is compared with networks. */
    public String of(HttpServletRequest request) {
        var address = request.getRemoteAddr();
        if (trusted.isEmpty() || !isProxy(address)) {
            return address;
        }
        var hops = Collections.list(request.getHeaders("X-Forwarded-For")).stream()
                .flatMap(header -> List.of(header.split(",")).stream())
                .map(String::strip)
                .toList();
        for (var i = hops.size() - 1; i >= Math.max(0, hops.size() - MOST_HOPS); i--) {
            if (new IPAddressString(hops.get(i)).getAddress() == null) {
                return address;
            }
            address = hops.get(i);
            if (!isProxy(address)) {
                return address;
            }
        }
        return address;
    }

    /**
     * What counts as one network: an IPv4 address, or the 56 bits of an IPv6 address that one customer gets at least (RFC 6177).
     * One that cannot be read counts as itself.
     */
    public static String oneNetwork(String address) {
        var parsed = new IPAddressString(address).getAddress();
        if (parsed == null || parsed.isIPv4()) {
            return address;
        }
        var v6 = parsed.toIPv6();
        return v6.isIPv4Mapped()
                ? v6.getEmbeddedIPv4Address().toString()
                : v6.toPrefixBlock(CUSTOMER_BITS).toCanonicalString();
    }

    private boolean isProxy(String address) {
        var parsed = new IPAddressString(address).getAddress();
        return parsed != null && trusted.stream().anyMatch(range -> range.contains(parsed));
    }
}
