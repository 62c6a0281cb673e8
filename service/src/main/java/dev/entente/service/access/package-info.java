/**
 * Administrators: signing in, sessions, tokens for the command line, the first one. Owns who may call the administrators' API.
 *
 * <p>May call: {@code audit}, {@code platform}.
 */
package dev.entente.service.access;
