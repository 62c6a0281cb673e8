/**
 * The life of an attempt and of a delivery: states, permitted steps, references and causes. Pure; whoever calls stores what comes
 * out.
 *
 * <p>May call: nothing.
 */
package dev.entente.core.attempt;
