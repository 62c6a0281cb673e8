/** Codes on paper. Promises that none is kept bare and none is taken twice. */
package dev.entente.core.verify.recoverycode;
