/**
 * Where passwords are written, as orders see it: one interface for LDAP directories, SCIM services and local commands. Promises
 * that a refusal wrote nothing, and that nothing thrown carries a password.
 *
 * <p>May call: {@code settings}.
 */
package dev.entente.steward.target;
