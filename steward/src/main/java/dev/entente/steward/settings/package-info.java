/**
 * The steward's own file: what the service cannot widen.
 *
 * <p>May call: nothing.
 */
package dev.entente.steward.settings;
