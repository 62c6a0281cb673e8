/**
 * Systems that speak SCIM 2.0 (RFC 7643 and 7644). Promises the same as every target.
 *
 * <p>May call: {@code link}, {@code target}, {@code settings}.
 */
package dev.entente.steward.scim;
