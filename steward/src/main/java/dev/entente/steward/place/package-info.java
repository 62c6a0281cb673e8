/**
 * Where passwords are written, as orders see it: one interface for LDAP directories, SCIM services and local commands.
 * Promises that a refusal wrote nothing, and that nothing thrown carries a password. May call wire and core.
 */
package dev.entente.steward.place;
