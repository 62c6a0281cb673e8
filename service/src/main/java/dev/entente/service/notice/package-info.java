/**
 * What administrators are told of: each chooses, and is told from the record, at once or once a day. Owns their choices, how far the record
 * was followed for them, and what waits for the daily list. Promises that what was sealed is told once, or waits.
 *
 * <p>May call: {@code notification}, {@code policy}, {@code audit}, {@code platform}.
 */
package dev.entente.service.notice;
