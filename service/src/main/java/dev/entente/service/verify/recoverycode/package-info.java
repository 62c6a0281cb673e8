/** Recovery codes. Owns their keyed hashes; promises that none is kept bare and none is taken twice. */
package dev.entente.service.verify.recoverycode;
