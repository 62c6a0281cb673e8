/** Passkeys. Owns their public keys and counters; promises that one counts for the person who made it alone. */
package dev.entente.service.verify.passkey;
