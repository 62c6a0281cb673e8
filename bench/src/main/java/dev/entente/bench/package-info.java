/** Benchmarks of the core, each beside the bare cost of the same work; ratios of one run, never figures to compare machines by. */
package dev.entente.bench;
