import { createHash } from "node:crypto";
import { expect, test } from "vitest";
import { findNonce } from "./work";

test("the nonce found is one by another implementation of SHA-256", () => {
  for (const bits of [1, 7, 8, 12]) {
    const nonce = findNonce("a-seed", bits);
    const hash = createHash("sha256").update(`a-seed.${nonce}`).digest();
    const shown = [...hash].map((part) => part.toString(2).padStart(8, "0")).join("");
    expect(shown.slice(0, bits)).toBe("0".repeat(bits));
  }
});
