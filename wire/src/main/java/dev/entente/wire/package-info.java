/**
 * What travels between service, steward and command line: records with JSON contracts, nothing else. Times are milliseconds
 * since 1970 unless a name says otherwise; identifiers are UUIDs. May call core.
 */
package dev.entente.wire;
