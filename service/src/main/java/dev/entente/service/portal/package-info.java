/**
 * The pages and the people's API. Promises equal answers for every name until the first proof.
 *
 * <p>May call: {@code attempt}, {@code verify}, {@code delivery}, {@code people}, {@code notification}, {@code audit}, {@code platform}.
 */
package dev.entente.service.portal;
