/** Codes by telephone call. Promises that one counts for its own challenge alone. */
package dev.entente.core.verify.voicecode;
