/**
 * Ways to verify a person. Owns methods, factors and one-time codes; promises constant-time comparison and that
 * no code is kept bare. Calls nothing else of ours.
 */
package dev.entente.core.verify;
