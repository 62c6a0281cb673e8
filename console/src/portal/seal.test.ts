import { CompactSign, generalDecrypt, compactVerify, importJWK } from "jose";
import type { JWK } from "jose";
import { afterEach, beforeAll, describe, expect, test, vi } from "vitest";
import { act, newAttemptKey, publicHalf, seal, thumbprint } from "./seal";
import { credentialOf, madeHere, remember, succeeded, takeBack, thumbprintOf, typedName, withdraw } from "./remembered";
import type { EcKey, Target } from "./seal";

const encoder = new TextEncoder();
const directory = "00000000-0000-4000-8000-00000000000d";
const steward = "00000000-0000-4000-8000-00000000000e";
const sealing = {
  attempt: "00000000-0000-4000-8000-00000000000a",
  action: "reset",
  expiresAt: new Date(Date.now() + 600_000).toISOString(),
};

interface Pair {
  keys: CryptoKeyPair;
  key: EcKey;
}

async function signingPair(): Promise<Pair> {
  const keys = await crypto.subtle.generateKey({ name: "ECDSA", namedCurve: "P-256" }, true, ["sign", "verify"]);
  return { keys, key: await publicHalf(keys) };
}

async function sealingPair(): Promise<Pair> {
  const keys = await crypto.subtle.generateKey({ name: "ECDH", namedCurve: "P-256" }, true, ["deriveBits"]);
  return { keys, key: await publicHalf(keys) };
}

async function signed(by: Pair, typ: string, payload: unknown): Promise<string> {
  return new CompactSign(encoder.encode(JSON.stringify(payload)))
    .setProtectedHeader({ alg: "ES256", typ, kid: await thumbprint(by.key) })
    .sign(by.keys.privateKey);
}

describe("sealing", () => {
  let operator: Pair, identity: Pair, recipient: Pair, other: Pair, attemptKey: CryptoKeyPair, target: Target;

  async function roster(by: Pair, about = directory) {
    const stewards = [{ id: steward, name: "shore-1", key: identity.key }];
    return signed(by, "entente-roster+jwt", { v: 1, directory: about, version: 1, issuedAt: 1, stewards });
  }

  async function statement(by: Pair, from = Date.now() - 1000, until = Date.now() + 3_600_000, key = recipient.key) {
    const payload = { v: 1, steward, directory, key, notBefore: from, notAfter: until };
    return signed(by, "entente-sealing-key+jwt", payload);
  }

  beforeAll(async () => {
    operator = await signingPair();
    identity = await signingPair();
    other = await signingPair();
    recipient = await sealingPair();
    attemptKey = await newAttemptKey();
    target = {
      directory,
      title: "Shore",
      operatorKey: operator.key,
      roster: await roster(operator),
      sealingKeys: [await statement(identity)],
      accounts: [{ id: "00000000-0000-4000-8000-0000000000aa", login: "astrid" }],
    };
  });

  afterEach(() => vi.unstubAllGlobals());

  function memory() {
    const keeps = () => {
      const kept = new Map<string, string>();
      return { getItem: (k: string) => kept.get(k) ?? null, setItem: (k: string, v: string) => void kept.set(k, v) };
    };
    vi.stubGlobal("localStorage", keeps());
    vi.stubGlobal("sessionStorage", keeps());
  }

  test("an operator key that changed since this browser was here is refused, whoever says so", async () => {
    memory();
    await seal(sealing, target, "Rowan-Kettle-9-Tide", attemptKey);
    succeeded();
    await seal(sealing, target, "Rowan-Kettle-9-Tide", attemptKey);
    const forged = { ...target, operatorKey: other.key, roster: await roster(other) };
    await expect(seal(sealing, forged, "Rowan-Kettle-9-Tide", attemptKey)).rejects.toThrow("another operator key");
    memory();
    await expect(seal(sealing, forged, "Rowan-Kettle-9-Tide", attemptKey)).resolves.toBeTruthy();
  });

  test("only what was made here under the same name goes into the evidence, where stewards want it", async () => {
    memory();
    vi.stubGlobal("window", { location: { origin: "https://recover.test", hostname: "recover.test" } });
    const authenticator = new Uint8Array(37 + 55).fill(7);
    authenticator[32] = 0x45;
    const credential = credentialOf("aWQ", btoa(String.fromCharCode(...authenticator)))!;
    expect(credential.synced).toBe(false);
    expect(credentialOf("aWQ", undefined)).toBeUndefined();
    typedName("Astrid");
    remember(credential);
    const inside = async (of: Target) => {
      const { evidence } = await seal(sealing, of, "Rowan-Kettle-9-Tide", attemptKey);
      const { payload } = await compactVerify(
        evidence,
        await importJWK((await publicHalf(attemptKey)) as unknown as JWK, "ES256"),
      );
      return (JSON.parse(new TextDecoder().decode(payload)) as { credentials?: unknown[] }).credentials;
    };
    expect(await inside({ ...target, credentials: true })).toEqual([credential]);
    expect(await inside(target)).toBeUndefined();
    typedName("bjorn");
    expect(madeHere()).toEqual([]);
    expect(await inside({ ...target, credentials: true })).toBeUndefined();
    typedName("ASTRID ");
    expect(await thumbprintOf(madeHere()[0]!)).toHaveLength(43);
    withdraw("the thumbprint of one that was removed");
    await inside({ ...target, credentials: true });
    expect(takeBack()).toEqual(["the thumbprint of one that was removed"]);
    typedName("bjorn");
    expect(takeBack()).toEqual([]);
    typedName("astrid");
    succeeded();
    expect(madeHere()).toEqual([]);
    expect(takeBack()).toEqual([]);
  });

  test("the recipient opens it, and it always has the same length", async () => {
    const lengths = new Set<number>();
    for (const password of ["a", "Rowan-Kettle-9-Tide", "Θάλασσα ⚓".repeat(8)]) {
      const { seal: text } = await seal(sealing, target, password, attemptKey);
      const jwe = JSON.parse(text) as Parameters<typeof generalDecrypt>[0];
      const { plaintext } = await generalDecrypt(jwe, recipient.keys.privateKey);
      expect(JSON.parse(new TextDecoder().decode(plaintext))).toEqual({ v: 1, password });
      lengths.add(plaintext.length);
    }
    expect(lengths).toEqual(new Set([1024]));
  });

  test("it is bound to what was asked for, and the attempt's own key signs that", async () => {
    const { seal: text, evidence } = await seal(sealing, target, "secret words", attemptKey);
    const header = JSON.parse(
      atob((JSON.parse(text) as { protected: string }).protected.replaceAll("-", "+").replaceAll("_", "/")),
    );
    const key = await publicHalf(attemptKey);
    expect(header.entente).toMatchObject({
      attempt: sealing.attempt,
      directory,
      action: "reset",
      exp: Date.parse(sealing.expiresAt),
      key: await thumbprint(key),
      recipients: [await thumbprint(recipient.key)],
    });
    const { payload } = await compactVerify(evidence, await importJWK(key as unknown as JWK, "ES256"));
    expect(JSON.parse(new TextDecoder().decode(payload))).toMatchObject({ attempt: sealing.attempt, directory });
    expect(text + evidence).not.toContain("secret words");
  });

  test("two seals of one password share nothing that can be compared", async () => {
    const one = JSON.parse((await seal(sealing, target, "same", attemptKey)).seal);
    const two = JSON.parse((await seal(sealing, target, "same", attemptKey)).seal);
    expect(one.ciphertext).not.toEqual(two.ciphertext);
    expect(one.iv).not.toEqual(two.iv);
  });

  test.each([
    ["a roster that another key signed", async () => ({ roster: await roster(other) })],
    ["a roster of another directory", async () => ({ roster: await roster(operator, steward) })],
    ["a roster whose signature was changed", async () => ({ roster: target.roster.slice(0, -3) + "AAA" })],
    ["a sealing key that another key signed", async () => ({ sealingKeys: [await statement(other)] })],
    ["a sealing key whose time is over", async () => ({ sealingKeys: [await statement(identity, 0, Date.now() - 1)] })],
    [
      "a sealing key that claims to live for days",
      async () => ({ sealingKeys: [await statement(identity, Date.now() - 1000, Date.now() + 100 * 3_600_000)] }),
    ],
    ["no sealing key", async () => ({ sealingKeys: [] })],
  ])("with %s nothing is sealed", async (_name, change) => {
    const wrong = { ...target, ...(await change()) };
    await expect(seal(sealing, wrong, "secret", attemptKey)).rejects.toThrow();
  });

  test("a call is signed for itself alone, and never twice the same", async () => {
    const signed = await act("R 2291 407 513", attemptKey, "POST", "/attempt/terms", '{"terms":"house"}');
    const key = await publicHalf(attemptKey);
    const { payload, protectedHeader } = await compactVerify(signed, await importJWK(key as unknown as JWK, "ES256"));
    expect(protectedHeader).toEqual({ alg: "ES256", typ: "entente-act+jwt", kid: await thumbprint(key) });
    const said = JSON.parse(new TextDecoder().decode(payload));
    expect(said).toMatchObject({ v: 1, reference: "2291407513", htm: "POST", htu: "/attempt/terms" });
    expect(said.bd).toMatch(/^[\w-]{43}$/);
    const again = await act("R 2291 407 513", attemptKey, "POST", "/attempt/terms", '{"terms":"house"}');
    const second = JSON.parse(
      new TextDecoder().decode((await compactVerify(again, await importJWK(key as unknown as JWK, "ES256"))).payload),
    );
    expect(second.bd).toBe(said.bd);
    expect(second.jti).not.toBe(said.jti);
  });

  test("a password that does not fit is refused", async () => {
    await expect(seal(sealing, target, "x".repeat(1100), attemptKey)).rejects.toThrow("too long");
  });
});
