/** Codes by telephone call. */
package dev.entente.service.verify.voicecode;
