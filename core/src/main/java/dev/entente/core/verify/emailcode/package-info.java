/** Codes by e-mail. Promises that one counts for its own challenge alone. */
package dev.entente.core.verify.emailcode;
