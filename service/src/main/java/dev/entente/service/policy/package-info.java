/**
 * Drafts, revisions and the configuration in force; explaining. Its face is Configurations.
 *
 * <p>May call: {@code approval}, {@code directory}, {@code people}, {@code notification}, {@code audit}, {@code platform}.
 */
package dev.entente.service.policy;
