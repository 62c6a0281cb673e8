/**
 * What administrators look at across features: what needs attention today, and one attempt whole. Owns no tables; may call
 * every other feature.
 */
package dev.entente.service.overview;
