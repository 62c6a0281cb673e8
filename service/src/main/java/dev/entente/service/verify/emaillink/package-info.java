/** Links to the address that the directories have. What they lead to is kept with all that is answered elsewhere. */
package dev.entente.service.verify.emaillink;
