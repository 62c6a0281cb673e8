/**
 * The steward's own file: what the service cannot widen. Calls nothing else of ours.
 */
package dev.entente.steward.settings;
