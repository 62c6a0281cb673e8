/**
 * The way to the service: signed calls, joining, the roster as pinned by the operator key, and this steward's keys. Promises that
 * nothing unsigned by the operator is believed.
 *
 * <p>May call: nothing.
 */
package dev.entente.steward.link;
