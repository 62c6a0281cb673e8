/**
 * What people are told before anything happens: that their password ends, and that they lack a method for a reset. Owns how often each was
 * looked at for that. Promises that nobody is told the same twice, and that nothing is looked for as long as no policy says so.
 *
 * <p>May call: {@code attempt}, {@code notification}, {@code policy}, {@code people}, {@code platform}.
 */
package dev.entente.service.reminder;
