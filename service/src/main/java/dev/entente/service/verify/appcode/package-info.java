/** Authenticator apps. Owns their secrets; promises that none is kept bare and no step is taken twice. */
package dev.entente.service.verify.appcode;
