/**
 * Approval on registered devices. Owns their public keys and what they are asked; promises that one approval counts once, for the
 * attempt that it was signed for.
 */
package dev.entente.service.verify.push;
