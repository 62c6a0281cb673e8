/**
 * Attempts and their challenges up to the proof, and how they conclude. Promises that names that exist and
 * names that do not take the same path. Its face is Attempts. May call policy, people, notification, audit and
 * platform.
 */
package dev.entente.service.attempt;
