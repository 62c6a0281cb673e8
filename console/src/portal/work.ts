import { sha256 } from "@noble/hashes/sha2.js";

/** Finds the nonce with which SHA-256 of seed, a dot and nonce begins with so many zero bits; takes 2^bits hashes on average. */
export function findNonce(seed: string, bits: number): string {
  const text = new TextEncoder();
  const start = sha256.create().update(text.encode(`${seed}.`));
  for (let nonce = 0; ; nonce++) {
    const hash = start
      .clone()
      .update(text.encode(String(nonce)))
      .digest();
    if (zeroBits(hash) >= bits) return String(nonce);
  }
}

function zeroBits(hash: Uint8Array): number {
  let zero = 0;
  for (const part of hash) {
    if (part !== 0) return zero + Math.clz32(part) - 24;
    zero += 8;
  }
  return zero;
}
