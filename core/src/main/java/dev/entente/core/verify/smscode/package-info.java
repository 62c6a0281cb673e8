/** Codes by text message. Promises that one counts for its own challenge alone. */
package dev.entente.core.verify.smscode;
