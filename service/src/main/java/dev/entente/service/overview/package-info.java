/**
 * What administrators look at across features: what needs attention today, and one attempt whole. Owns what
 * is known to need attention since when.
 *
 * <p>May call: everything.
 */
package dev.entente.service.overview;
