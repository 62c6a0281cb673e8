/**
 * Named sets of people. Owns scope expressions and nested group membership; promises the same answer for one person and for a
 * listing of all.
 *
 * <p>May call: nothing.
 */
package dev.entente.core.scope;
