/**
 * What this browser remembers by itself, whatever the service says: which operator keys it sealed for when it last succeeded, and the
 * passkeys that were made in it, by the name that was typed, until a directory has taken them over.
 */

/** The public half of a passkey, as stewards keep it (docs/protocol.md). */
export interface Credential {
  v: 1;
  method: "passkey";
  id: string;
  data: string;
  origin: string;
  relyingParty: string;
  synced: boolean;
}

const NAME = "entente-name";
const MADE = "entente-made";
const WITHDRAWN = "entente-withdrawn";
const OPERATORS = "entente-operators";
const MONTH = 30 * 24 * 3_600_000;

interface Made {
  name: string;
  at: number;
  credential: Credential;
}

interface Withdrawn {
  name: string;
  at: number;
  thumbprint: string;
}

function read<T>(key: string, otherwise: T): T {
  try {
    return (JSON.parse(localStorage.getItem(key) ?? "null") as T | null) ?? otherwise;
  } catch {
    return otherwise;
  }
}

let nothing = false;

/** Where several people use one device nothing is remembered. */
export function keepNothing(shared: boolean): void {
  nothing = shared;
}

function write(key: string, value: unknown): void {
  if (nothing) return;
  try {
    localStorage.setItem(key, JSON.stringify(value));
  } catch {
    // A browser that keeps nothing is no worse off than one that was never here.
  }
}

const plain = (name: string) => name.trim().toLowerCase();

/** The attempt is over, and so is the name that was typed for it. */
export function forgetName(): void {
  try {
    sessionStorage.removeItem(NAME);
  } catch {
    // As above.
  }
}

/** Who the person said they are, for as long as the attempt of this tab lasts. */
export function typedName(name: string): void {
  if (nothing) return;
  try {
    sessionStorage.setItem(NAME, plain(name));
  } catch {
    // As above.
  }
}

function name(): string {
  try {
    return sessionStorage.getItem(NAME) ?? "";
  } catch {
    return "";
  }
}

const made = () => read<Made[]>(MADE, []).filter((one) => one.at > Date.now() - MONTH);

/** A passkey was made here, by the person who typed their name in this tab. */
export function remember(credential: Credential): void {
  if (name()) write(MADE, [...made(), { name: name(), at: Date.now(), credential }].slice(-20));
}

/** Passkeys that were made here under the name that was typed in this tab, and that no directory has taken over yet. */
export function madeHere(): Credential[] {
  return made()
    .filter((one) => name() && one.name === name())
    .map((one) => one.credential)
    .slice(-10);
}

/** Somebody removed one of theirs here: the stewards that know it are told so with the next thing that is sealed. */
export function withdraw(thumbprint: string): void {
  if (name()) write(WITHDRAWN, [...withdrawn(), { name: name(), at: Date.now(), thumbprint }].slice(-20));
}

const withdrawn = () => read<Withdrawn[]>(WITHDRAWN, []).filter((one) => one.at > Date.now() - MONTH);

/** What was removed here under the name that was typed in this tab, to be named in evidence. */
export function takeBack(): string[] {
  const all = withdrawn()
    .filter((one) => name() && one.name === name())
    .map((one) => one.thumbprint)
    .slice(-10);
  brought ||= all.length > 0;
  return all;
}

let brought = false;

/** The same, to be named in evidence. */
export function bring(): Credential[] {
  const all = madeHere();
  brought ||= all.length > 0;
  return all;
}

/** A passkey from what an authenticator answered; none where that says more than we can read. */
export function credentialOf(id: string, authenticatorData: string | undefined): Credential | undefined {
  if (!authenticatorData) return undefined;
  const bytes = Uint8Array.from(atob(authenticatorData.replaceAll("-", "+").replaceAll("_", "/")), (c) =>
    c.charCodeAt(0),
  );
  // WebAuthn level 2, section 6.1: hash of the relying party (32), flags (1), counter (4), attested credential data, extensions.
  const flags = bytes[32] ?? 0;
  if (!(flags & 0x40) || flags & 0x80) return undefined;
  const data = btoa(String.fromCharCode(...bytes.slice(37)))
    .replaceAll("+", "-")
    .replaceAll("/", "_")
    .replaceAll("=", "");
  return {
    v: 1,
    method: "passkey",
    id,
    data,
    origin: window.location.origin,
    relyingParty: window.location.hostname,
    synced: Boolean(flags & 0x08),
  };
}

/** What people compare, as stewards and the command line name it. */
export async function thumbprintOf({ method, id, data, origin, relyingParty, synced }: Credential): Promise<string> {
  const text = `${method} ${id} ${data} ${origin} ${relyingParty} ${synced}`;
  const bytes = new Uint8Array(await crypto.subtle.digest("SHA-256", new TextEncoder().encode(text)));
  return btoa(String.fromCharCode(...bytes))
    .replaceAll("+", "-")
    .replaceAll("/", "_")
    .replaceAll("=", "");
}

/** The thumbprint of a directory's operator key that this browser sealed under when it last succeeded. */
export function knownOperator(directory: string): string | undefined {
  return read<Record<string, string>>(OPERATORS, {})[directory];
}

let sealedFor: Record<string, string> = {};

/** Something was sealed under this operator key. */
export function sealedUnder(directory: string, thumbprint: string): void {
  sealedFor[directory] = thumbprint;
}

/** What was sealed was written: these are the keys from now on, and what was brought has been taken over. */
export function succeeded(): void {
  if (brought) {
    write(
      MADE,
      made().filter((one) => one.name !== name()),
    );
    write(
      WITHDRAWN,
      withdrawn().filter((one) => one.name !== name()),
    );
    brought = false;
  }
  if (Object.keys(sealedFor).length > 0) {
    write(OPERATORS, { ...read<Record<string, string>>(OPERATORS, {}), ...sealedFor });
    sealedFor = {};
  }
}
