/**
 * The steward: the process beside a directory, dialling out only. Owns its own file and its commands (join,
 * run, check, log). May call link, directory and order.
 */
package dev.entente.steward;
