/**
 * Approval on a registered device. Promises that an approval was signed by the device's key, for one challenge, one attempt's key and the
 * number on the page.
 */
package dev.entente.core.verify.push;
