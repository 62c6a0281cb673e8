/**
 * The methods by which people are recognised: which there are, who judges them, and what people set up. Owns enrolments; each
 * method's own secrets are in a package of its own below, which no other touches. Promises that none is kept bare and none is
 * taken twice.
 *
 * <p>May call: {@code approval}, {@code policy}, {@code people}, {@code audit}, {@code platform}.
 */
package dev.entente.service.verify;
