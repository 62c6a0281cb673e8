/**
 * The command line over the REST API. Data goes to standard output, messages to standard error; exit 0 done, 1 refused or
 * findings, 2 wrong usage, 3 service not reachable, 4 not allowed. Keeps operator keys, which never leave it. May call wire
 * and core.
 */
package dev.entente.cli;
