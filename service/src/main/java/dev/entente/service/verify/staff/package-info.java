/** Confirmation by staff. What waits for them is kept with all that is answered elsewhere; the help desk's own rules are in {@code helpdesk}. */
package dev.entente.service.verify.staff;
