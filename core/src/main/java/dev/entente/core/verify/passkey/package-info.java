/** Passkeys (WebAuthn level 2). Owns what a challenge commits to; promises that an assertion counts for one attempt alone. */
package dev.entente.core.verify.passkey;
