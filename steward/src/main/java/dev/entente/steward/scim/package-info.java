/**
 * Systems that speak SCIM 2.0 (RFC 7643 and 7644). Promises the same as every target. May call target, settings and wire.
 */
package dev.entente.steward.scim;
