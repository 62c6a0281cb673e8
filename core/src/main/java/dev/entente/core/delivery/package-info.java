/**
 * The life of one delivery as a machine: its states, and pure steps for lease, begin, receipt, later look and sweep. The service
 * stores what comes out, and its SQL carries out the same steps for many at once.
 *
 * <p>May call: {@code attempt}.
 */
package dev.entente.core.delivery;
