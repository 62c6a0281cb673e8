/**
 * What a new password must be, on top of the directory's own rules. Promises the same outcomes as the page's guidance: one set of
 * vectors holds both.
 *
 * <p>May call: nothing.
 */
package dev.entente.core.password;
