/**
 * People, accounts and groups as the directories have them. Its face is People. Contact values are encrypted.
 * May call directory, audit and platform.
 */
package dev.entente.service.people;
