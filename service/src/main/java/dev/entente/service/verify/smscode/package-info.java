/** Codes by text message. */
package dev.entente.service.verify.smscode;
