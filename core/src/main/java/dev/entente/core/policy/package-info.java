/**
 * What a scope may do and must prove. Owns the configuration files, reading them with every error at once, deciding, explaining
 * and comparing. Promises that explain and decide are one computation and that nobody outside a policy may do anything.
 *
 * <p>May call: {@code password}, {@code scope}, {@code verify}.
 */
package dev.entente.core.policy;
