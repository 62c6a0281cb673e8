/** Codes of authenticator apps (RFC 6238). Promises constant-time comparison and that no step is taken twice. */
package dev.entente.core.verify.appcode;
