/**
 * Drafts, revisions and the configuration in force; explaining. Its face is Configurations. May call directory,
 * people, audit and platform.
 */
package dev.entente.service.policy;
