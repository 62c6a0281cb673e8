/**
 * The service: decides, verifies, carries sealed passwords and keeps the record. Stateless; PostgreSQL is the
 * only shared state. One package for each feature; features talk through their public types, never through each
 * other's tables. No code here can open a seal.
 */
package dev.entente.service;
