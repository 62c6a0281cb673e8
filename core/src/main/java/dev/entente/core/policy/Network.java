package dev.entente.core.policy;

import inet.ipaddr.IPAddress;
import inet.ipaddr.IPAddressString;
import inet.ipaddr.IPAddressStringParameters;
import java.util.List;
import java.util.Objects;
import java.util.Optional;

/** A named list of address ranges (CIDR, RFC 4632 and RFC 4291). */
public final class Network {
    // Only what the standards write: no wildcards, no ranges with dashes, no numbers in other bases.
    private static final IPAddressStringParameters PLAIN = new IPAddressStringParameters.Builder()
            .allowEmpty(false)
            .allowAll(false)
            .allowWildcardedSeparator(false)
            .setRangeOptions(inet.ipaddr.AddressStringParameters.RangeParameters.NO_RANGE)
            .allowSingleSegment(false)
            .getIPv4AddressParametersBuilder()
            .allow_inet_aton(false)
            .getParentBuilder()
            .getIPv6AddressParametersBuilder()
            .allowZone(false)
            .getParentBuilder()
            .toParams();

    private final String name;
    private final String title;
    private final List<String> ranges;
    private final boolean shared;
    private final List<IPAddress> blocks;

    /** One whose devices have their own users. */
    public Network(String name, String title, List<String> ranges) {
        this(name, title, ranges, false);
    }

    /**
     * @param ranges each one that {@link #range} can read
     * @param shared whether several people use one device there, so that none is remembered
     */
    public Network(String name, String title, List<String> ranges, boolean shared) {
        this.name = name;
        this.shared = shared;
        this.title = title;
        this.ranges = List.copyOf(ranges);
        this.blocks = ranges.stream().map(r -> range(r).orElseThrow()).toList();
    }

    /** Reads {@code 10.20.0.0/16}, {@code 2001:db8::/32} or one address; empty if it is none. */
    public static Optional<IPAddress> range(String text) {
        return Optional.ofNullable(new IPAddressString(text, PLAIN).getAddress())
                .map(a -> a.isPrefixed() ? a.toPrefixBlock() : a);
    }

    /** Whether bits are set behind the length of the prefix, which is most often a slip. */
    public static boolean hasStrayBits(String text) {
        var address = new IPAddressString(text, PLAIN).getAddress();
        return address != null
                && address.isPrefixed()
                && !address.isPrefixBlock()
                && !address.equals(address.toPrefixBlock());
    }

    /** The name that policies use. */
    public String name() {
        return name;
    }

    /** For people. */
    public String title() {
        return title;
    }

    /** As in the file. */
    public List<String> ranges() {
        return ranges;
    }

    /** Whether several people use one device there: none is remembered, and what was remembered doesn't count. */
    public boolean shared() {
        return shared;
    }

    /** Whether an address is in one of the ranges; an IPv4 address written as IPv6 counts as what it is. */
    public boolean holds(String address) {
        var parsed = new IPAddressString(address, PLAIN).getAddress();
        if (parsed == null) {
            return false;
        }
        if (parsed.isIPv6() && parsed.toIPv6().isIPv4Mapped()) {
            parsed = parsed.toIPv6().getEmbeddedIPv4Address();
        }
        for (var block : blocks) {
            if (block.contains(parsed)) {
                return true;
            }
        }
        return false;
    }

    /** The same name, ranges and devices: two readings of one file give the same network. */
    @Override
    public boolean equals(Object other) {
        return other instanceof Network network
                && name.equals(network.name)
                && ranges.equals(network.ranges)
                && shared == network.shared;
    }

    @Override
    public int hashCode() {
        return Objects.hash(name, ranges, shared);
    }
}
