/**
 * What the service refuses, as programs and people are told it (RFC 9457): one catalogue, to which each feature adds its own file.
 *
 * <p>May call: nothing.
 */
package dev.entente.core.problem;
