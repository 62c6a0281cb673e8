/** Codes to the address that the directories have. Owns the key under which they are kept. */
package dev.entente.service.verify.emailcode;
