/**
 * Sealing: what keeps a password from everyone but the stewards of one directory. docs/protocol.md describes the formats.
 *
 * The key of the attempt cannot be read out of the browser, only used; hold.ts says where it lives.
 */
import { CompactSign, GeneralEncrypt, compactVerify, decodeProtectedHeader, importJWK } from "jose";
import type { CryptoKey, JWK } from "jose";
import { bring, knownOperator, sealedUnder, takeBack } from "./remembered";

export interface EcKey {
  kty: string;
  crv: string;
  x: string;
  y: string;
}

export interface Target {
  directory: string;
  title: string;
  operatorKey: EcKey;
  roster: string;
  sealingKeys: string[];
  accounts: { id: string; login: string }[];
  /** Whether its stewards keep credentials by which they recognise people themselves. */
  credentials?: boolean;
}

interface Roster {
  directory: string;
  version: number;
  stewards: { id: string; name: string; key: EcKey }[];
}

interface SealingKey {
  steward: string;
  directory: string;
  key: EcKey;
  notBefore: number;
  notAfter: number;
}

const PLAINTEXT_LENGTH = 1024;
const encoder = new TextEncoder();

/** The browser found that something was not signed as it should be, and sealed nothing. */
export class Untrusted extends Error {}

function base64url(bytes: Uint8Array): string {
  return btoa(String.fromCharCode(...bytes))
    .replaceAll("+", "-")
    .replaceAll("/", "_")
    .replaceAll("=", "");
}

async function digest(text: string): Promise<string> {
  return base64url(new Uint8Array(await crypto.subtle.digest("SHA-256", encoder.encode(text))));
}

/** RFC 7638. */
export function thumbprint(key: EcKey): Promise<string> {
  return digest(`{"crv":"P-256","kty":"EC","x":"${key.x}","y":"${key.y}"}`);
}

async function verified<T>(text: string, key: EcKey, typ: string): Promise<T> {
  const header = decodeProtectedHeader(text);
  if (header.alg !== "ES256" || header.typ !== typ || header.kid !== (await thumbprint(key))) {
    throw new Untrusted(`not a ${typ} of the expected key`);
  }
  const { payload } = await compactVerify(text, await importJWK(key as unknown as JWK, "ES256"), {
    algorithms: ["ES256"],
  });
  return JSON.parse(new TextDecoder().decode(payload)) as T;
}

/** The sealing keys that listed stewards of this directory signed and that are in force, the freshest of each. */
async function recipients(target: Target, now: number): Promise<EcKey[]> {
  const operator = await thumbprint(target.operatorKey);
  if ((knownOperator(target.directory) ?? operator) !== operator) {
    throw new Untrusted("the directory has another operator key than when this browser was here last");
  }
  const roster = await verified<Roster>(target.roster, target.operatorKey, "entente-roster+jwt");
  if (roster.directory !== target.directory) {
    throw new Untrusted("the roster is of another directory");
  }
  const fresh = new Map<string, SealingKey>();
  for (const steward of roster.stewards) {
    for (const statement of target.sealingKeys) {
      if (decodeProtectedHeader(statement).kid !== (await thumbprint(steward.key))) continue;
      const key = await verified<SealingKey>(statement, steward.key, "entente-sealing-key+jwt");
      const before = fresh.get(steward.id);
      if (
        key.steward === steward.id &&
        key.directory === target.directory &&
        key.notAfter > now &&
        key.notAfter - key.notBefore <= 24 * 3_600_000 &&
        (!before || before.notAfter < key.notAfter)
      ) {
        fresh.set(steward.id, key);
      }
    }
  }
  if (fresh.size === 0) {
    throw new Untrusted("no steward on the roster has a sealing key in force");
  }
  sealedUnder(target.directory, operator);
  return [...fresh.values()].map((key) => key.key);
}

export interface Sealing {
  attempt: string;
  action: string;
  expiresAt: string;
}

/** Seals a password for one directory, for a change the old one with it, and signs what is to happen. */
export async function seal(
  sealing: Sealing,
  target: Target,
  password: string,
  attemptKey: CryptoKeyPair,
  old?: string,
): Promise<{ seal: string; evidence: string }> {
  const keys = await recipients(target, Date.now());
  const publicKey = await publicHalf(attemptKey);
  const accounts = target.accounts.map((account) => account.id);
  const kids = await Promise.all(keys.map(thumbprint));
  const entente = {
    v: 1,
    id: base64url(crypto.getRandomValues(new Uint8Array(16))),
    attempt: sealing.attempt,
    directory: target.directory,
    action: sealing.action,
    accounts,
    roster: await digest(target.roster),
    key: await thumbprint(publicKey),
    recipients: kids,
    exp: Date.parse(sealing.expiresAt),
  };
  const jwe = new GeneralEncrypt(padded(password, old)).setProtectedHeader({ enc: "A256GCM", entente });
  for (const [index, key] of keys.entries()) {
    jwe
      .addRecipient(await importJWK(key as unknown as JWK, "ECDH-ES+A256KW"))
      .setUnprotectedHeader({ alg: "ECDH-ES+A256KW", kid: kids[index] });
  }
  const text = JSON.stringify(await jwe.encrypt());
  return { seal: text, evidence: await agree(sealing, target, attemptKey, await digest(text)) };
}

/** Signs what is to happen; without the digest of a seal it agrees to an unlock, which carries no password. */
export async function agree(
  sealing: Sealing,
  target: Target,
  attemptKey: CryptoKeyPair,
  sealDigest?: string,
): Promise<string> {
  const publicKey = await publicHalf(attemptKey);
  const credentials = sealDigest && target.credentials ? bring() : [];
  const withdrawn = sealDigest && target.credentials ? takeBack() : [];
  const evidence = {
    v: 1,
    attempt: sealing.attempt,
    directory: target.directory,
    action: sealing.action,
    accounts: target.accounts.map((account) => account.id),
    ...(sealDigest ? { seal: sealDigest } : {}),
    iat: Date.now(),
    exp: Date.parse(sealing.expiresAt),
    ...(credentials.length > 0 ? { credentials } : {}),
    ...(withdrawn.length > 0 ? { withdrawn } : {}),
  };
  return await new CompactSign(encoder.encode(JSON.stringify(evidence)))
    .setProtectedHeader({
      alg: "ES256",
      typ: "entente-evidence+jwt",
      kid: await thumbprint(publicKey),
      jwk: publicKey as unknown as JWK,
    })
    .sign(attemptKey.privateKey as CryptoKey);
}

/** Signs one call within the attempt, for the header `Entente-Act`. */
export async function act(
  reference: string,
  attemptKey: CryptoKeyPair,
  htm: string,
  htu: string,
  body: string,
): Promise<string> {
  const payload = {
    v: 1,
    reference: reference.replace(/\D/g, ""),
    htm,
    htu,
    bd: await digest(body),
    jti: crypto.randomUUID(),
  };
  return await new CompactSign(encoder.encode(JSON.stringify(payload)))
    .setProtectedHeader({ alg: "ES256", typ: "entente-act+jwt", kid: await thumbprint(await publicHalf(attemptKey)) })
    .sign(attemptKey.privateKey as CryptoKey);
}

/** JSON followed by spaces, always of the same length, so that the length of the seal says nothing. */
function padded(password: string, old?: string): Uint8Array {
  const bytes = encoder.encode(JSON.stringify({ v: 1, password, ...(old === undefined ? {} : { old }) }));
  if (bytes.length > PLAINTEXT_LENGTH) {
    throw new RangeError("the password is too long");
  }
  const all = new Uint8Array(PLAINTEXT_LENGTH).fill(0x20);
  all.set(bytes);
  return all;
}

/** A new key for an attempt; its private half cannot be exported. */
export async function newAttemptKey(): Promise<CryptoKeyPair> {
  return crypto.subtle.generateKey({ name: "ECDSA", namedCurve: "P-256" }, false, ["sign"]);
}

export async function publicHalf(pair: CryptoKeyPair): Promise<EcKey> {
  const { kty, crv, x, y } = await crypto.subtle.exportKey("jwk", pair.publicKey);
  return { kty: kty!, crv: crv!, x: x!, y: y! };
}
