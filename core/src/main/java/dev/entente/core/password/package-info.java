/**
 * What a new password must be, on top of the directory's own rules. Promises the same outcomes as the page's
 * guidance: one set of vectors holds both. Calls nothing else of ours.
 */
package dev.entente.core.password;
