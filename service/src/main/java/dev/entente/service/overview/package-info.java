/**
 * What administrators look at across features: what needs attention today, and one attempt whole. Owns no tables.
 *
 * <p>May call: everything.
 */
package dev.entente.service.overview;
