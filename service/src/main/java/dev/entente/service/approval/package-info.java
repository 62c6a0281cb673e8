/**
 * Settings that decide who gets codes, and the rule whose approval they need. Its face is Approvals: a feature hands it a
 * change, and hears of it again when it may be made. May call audit and platform.
 */
package dev.entente.service.approval;
