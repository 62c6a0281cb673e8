/** Security keys that are touched. Keeps them with the passkeys, each under its own method; promises that one device is not taken for both. */
package dev.entente.service.verify.securitykey;
