/**
 * Directories, their stewards and rosters, and the jobs that stewards do besides deliveries. Its faces are Directories and
 * StewardCalls.
 *
 * <p>May call: {@code approval}, {@code audit}, {@code platform}.
 */
package dev.entente.service.directory;
