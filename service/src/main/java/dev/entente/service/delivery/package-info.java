/**
 * Sealed passwords, and the orders that carry them to stewards: leases, take-overs, receipts. Its face is
 * Deliveries. May call attempt, policy, directory, people, audit and platform.
 */
package dev.entente.service.delivery;
