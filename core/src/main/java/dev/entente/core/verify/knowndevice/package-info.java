/** Devices on which people got a new password before, as a proof besides others. */
package dev.entente.core.verify.knowndevice;
