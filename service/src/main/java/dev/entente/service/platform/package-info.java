/**
 * What every feature needs: keys from outside the database, the clock, limits, problems over HTTP, wake-ups between nodes, what is
 * remembered of what changes rarely, and the one look for all that is due.
 *
 * <p>May call: nothing.
 */
package dev.entente.service.platform;
