/**
 * Settings that decide who gets codes, and the rule whose approval they need. Its face is Approvals: a feature hands it a change,
 * and hears of it again when it may be made.
 *
 * <p>May call: {@code audit}, {@code platform}.
 */
package dev.entente.service.approval;
