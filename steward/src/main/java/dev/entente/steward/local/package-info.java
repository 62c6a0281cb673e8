/**
 * Systems without a protocol, by an executable beside the steward. Promises that only the executable named in the steward's own
 * file is ever started, with no argument from outside and no password on its command line.
 *
 * <p>May call: {@code target}, {@code settings}.
 */
package dev.entente.steward.local;
