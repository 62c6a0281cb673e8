/** Somebody of the help desk recognises the person by the policy's checklist, with a number read from the person's own screen. */
package dev.entente.core.verify.staff;
