/**
 * What administrators are told of: what they can choose from, which events and which findings belong to it, and how a message looks that
 * people read. Knows nothing of how it is sent.
 *
 * <p>May call: {@code audit}.
 */
package dev.entente.core.notice;
