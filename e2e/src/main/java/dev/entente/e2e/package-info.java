/**
 * Drives the real thing as its users do: people through the portal in a headless browser, administrators through the command
 * line and the API. Used by the tests of this module and by the demo's tour.
 */
package dev.entente.e2e;
