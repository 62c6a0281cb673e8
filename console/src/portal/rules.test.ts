import { expect, test } from "vitest";
import { check } from "./rules";
import type { PasswordRules } from "./rules";
import vectors from "../../../core/src/test/resources/dev/entente/core/password/password-vectors.json";

// The steward's checks in Java are held to the same file.
for (const [number, vector] of vectors.entries()) {
  test(`vector ${number} comes out as in Java`, () => {
    const met = check(vector.rules as PasswordRules, vector.password, vector.details as string[])
      .filter((one) => one.met)
      .map((one) => one.rule);
    expect(met).toEqual(vector.met);
  });
}
