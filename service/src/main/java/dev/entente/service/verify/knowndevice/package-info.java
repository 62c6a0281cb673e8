/** Known devices. Owns by what browsers are known, as keyed hashes; promises that one that its person ended counts no more. */
package dev.entente.service.verify.knowndevice;
