/**
 * Stand-ins for what cannot run on one machine: people's mailboxes and a phone network. For the demo and the tests only;
 * nothing of the product depends on them.
 */
package dev.entente.standins;
