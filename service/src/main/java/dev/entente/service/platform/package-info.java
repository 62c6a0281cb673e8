/**
 * What every feature needs: keys from outside the database, the clock, limits, problems over HTTP, wake-ups
 * between nodes. Calls no feature.
 */
package dev.entente.service.platform;
