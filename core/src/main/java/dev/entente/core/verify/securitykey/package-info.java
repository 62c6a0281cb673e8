/** Security keys that are touched, and remember nobody. */
package dev.entente.core.verify.securitykey;
