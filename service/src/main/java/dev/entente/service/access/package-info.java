/**
 * Administrators: signing in, sessions, tokens for the command line, the first one. Owns who may call the
 * administrators' API. May call audit and platform.
 */
package dev.entente.service.access;
