/**
 * What people set up to be recognised by. Owns the secrets of authenticator apps and recovery codes; promises that none is kept
 * bare and none is taken twice.
 *
 * <p>May call: {@code people}, {@code audit}, {@code platform}.
 */
package dev.entente.service.enrolment;
