/**
 * The directory itself: connections, reading people, setting passwords, judging by version and bind, preflight. One adapter for
 * each kind. Knows nothing of orders or the service.
 *
 * <p>May call: {@code target}, {@code settings}.
 */
package dev.entente.steward.directory;
