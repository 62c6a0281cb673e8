/**
 * The help desk: staff find what a caller asks for, by the number on the caller's screen, and confirm who it is by the policy's
 * checklist; where a policy says so, the person's manager does by a link. Promises that nobody confirms themselves, nobody outside their scopes, and privileged people only with a second
 * member of the staff. Owns no tables.
 *
 * <p>May call: {@code access}, {@code attempt}, {@code verify}, {@code policy}, {@code people}, {@code audit}, {@code platform}.
 */
package dev.entente.service.helpdesk;
