/**
 * People, accounts and groups as the directories have them. Its face is People. Contact values are encrypted.
 *
 * <p>May call: {@code directory}, {@code audit}, {@code platform}.
 */
package dev.entente.service.people;
