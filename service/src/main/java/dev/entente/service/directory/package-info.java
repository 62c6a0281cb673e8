/**
 * Directories, their stewards and rosters, and the jobs that stewards do besides deliveries. Its faces are
 * Directories and StewardCalls. May call audit and platform.
 */
package dev.entente.service.directory;
