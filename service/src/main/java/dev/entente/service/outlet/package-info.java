/**
 * Outlets: places outside that are told what is sealed, in its order, each with a cursor of its own. Owns where they are, how far each
 * has come and the keys that sign for them. Promises that each is told everything it asked for at least once, or that it shows.
 *
 * <p>May call: {@code approval}, {@code audit}, {@code platform}.
 */
package dev.entente.service.outlet;
