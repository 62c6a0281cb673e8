/**
 * Sealed passwords, and the orders that carry them to stewards: leases, receipts, later looks, what ends by itself. Its face is Deliveries.
 *
 * <p>May call: {@code approval}, {@code attempt}, {@code verify}, {@code policy}, {@code directory}, {@code people}, {@code audit}, {@code platform}.
 */
package dev.entente.service.delivery;
