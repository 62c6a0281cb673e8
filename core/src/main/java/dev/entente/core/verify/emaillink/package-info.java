/** A link to the address that the directories have; followed elsewhere, it takes the number on the page that asked. */
package dev.entente.core.verify.emaillink;
