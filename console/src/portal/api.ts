import type { components } from "../shared/api-types";
import { Problem, problemOf } from "../shared/problem";
import { act, publicHalf, thumbprint } from "./seal";
import { doWork } from "./worker";
import type { EcKey, Target } from "./seal";
import type { PasswordRules } from "./rules";

type Schemas = components["schemas"];
type Whole<T> = T extends object ? { [K in keyof T]-?: Whole<NonNullable<T[K]>> } : T;
export type Attempt = Whole<Schemas["Attempt"]>;
export type Enrolment = Whole<Schemas["OwnMethod"]>;
export type Settable = Whole<Schemas["SettableMethod"]>;
export type OfferedEnrolment = Whole<Schemas["OfferedEnrolment"]>;
/** What was typed, or what else was answered, by name. */
export type Answer = { code?: string; parts?: Record<string, string> };
export type AccountResult = Whole<Schemas["AccountResult"]>;
export type Context = Whole<Schemas["Context"]>;
export type FollowedLink = Whole<Schemas["FollowedLink"]>;
export type HelpRequest = Whole<Schemas["HelpRequest"]>;
export type AlarmAsked = Whole<Schemas["AlarmAsked"]>;
export type AlarmRaised = Whole<Schemas["AlarmRaised"]>;
export type Told = Whole<Schemas["Told"]>;
export interface Sealing {
  attempt: string;
  action: string;
  expiresAt: string;
  rules: PasswordRules;
  details: string[];
  targets: Target[];
}

const PATIENCE = 60_000;
// The service is there and means it: asking again at once changes nothing.
const meant = ["stopped", "suspended", "no-method"];

let signer: { reference: string; pair: CryptoKeyPair } | null = null;

/** From now on every call within this attempt is signed with its key: a copied cookie alone reads and changes nothing. */
export function signWith(reference: string, pair: CryptoKeyPair): void {
  signer = { reference, pair };
}

let ahead = 0;

/** What time it is for the service: a device's own clock may be wrong by more than a code lives. */
export const serviceTime = () => Date.now() + ahead;

/** What shows that this page began the attempt, for one call. */
async function signature(method: string, path: string, body: string): Promise<Record<string, string>> {
  return signer && /^\/attempt(\/|$)/.test(path)
    ? { "Entente-Act": await act(signer.reference, signer.pair, method, path, body) }
    : {};
}

/**
 * What an authenticator is asked to sign, made here and nowhere else: it names this page's own key, the attempt, what it is for and when, so
 * that what is signed is worth nothing with any other key. docs/protocol.md describes it.
 */
export async function challengeFor(nonce: string, action: string): Promise<{ challenge: string; at: string }> {
  if (!signer) throw new Error("no attempt is held by this page");
  const at = String(serviceTime());
  const key = await thumbprint(await publicHalf(signer.pair));
  const reference = signer.reference.replace(/\D/g, "");
  const text = new TextEncoder().encode(`entente passkey v2 ${nonce} ${key} ${reference} ${action} ${at}`);
  const hash = new Uint8Array(await crypto.subtle.digest("SHA-256", text));
  const challenge = btoa(String.fromCharCode(...hash))
    .replaceAll("+", "-")
    .replaceAll("/", "_")
    .replaceAll("=", "");
  return { challenge, at };
}

/** An attempt that is being left; a new one begins after it. */
let leaving: Promise<unknown> = Promise.resolve();
const LEAVING = 3_000;

/** Calls the service; when it is away for a moment, tries again until a minute has passed. */
async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  const until = Date.now() + PATIENCE;
  for (let wait = 400; ; wait = Math.min(wait * 1.6, 4000)) {
    let problem: Problem;
    try {
      const text = body === undefined ? undefined : JSON.stringify(body);
      const headers = await signature(method, path, text ?? "");
      const response = await fetch(`/api/v1/portal${path}`, {
        method,
        credentials: "same-origin",
        headers: text === undefined ? headers : { ...headers, "Content-Type": "application/json" },
        body: text,
      });
      const date = Date.parse(response.headers.get("Date") ?? "");
      if (date) ahead = date - Date.now();
      if (response.ok) {
        return response.status === 204 ? (undefined as T) : ((await response.json()) as T);
      }
      problem = await problemOf(response);
    } catch {
      problem = new Problem(0, "network", "There is no connection right now. Check it, then try again.");
    }
    const away =
      problem.status === 0 || problem.status === 502 || (problem.status === 503 && !meant.includes(problem.type));
    if (!away || Date.now() > until) throw problem;
    await new Promise((resolve) => setTimeout(resolve, wait));
  }
}

export const api = {
  context: () => call<Context>("GET", "/context"),
  /** `onWork` is told when the browser has to do some work first, since very many start from the same network. */
  async start(name: string, action: string, key: EcKey, onWork: () => void): Promise<Attempt> {
    let work: { seed: string; nonce: string } | undefined;
    await Promise.race([leaving, new Promise((resolve) => setTimeout(resolve, LEAVING))]);
    for (let times = 0; ; times++) {
      try {
        return await call<Attempt>("POST", "/attempts", { name, action, key, work });
      } catch (problem) {
        if (!(problem instanceof Problem) || problem.type !== "work-wanted" || times === 3) throw problem;
        onWork();
        const seed = String(problem.more.seed);
        work = { seed, nonce: await doWork(seed, Number(problem.more.bits)) };
      }
    }
  },
  /** The attempt of this browser, if there is one. */
  attempt: () => call<Attempt | undefined>("GET", "/attempt"),
  /** `to` says where: the last digits of the number, or which address. */
  ask: (method: string, to?: { end?: string; address?: string }) =>
    call<Attempt>("POST", "/attempt/challenges", { method, ...to }),
  answer: (challenge: string, answer: Answer) =>
    call<Attempt>("POST", `/attempt/challenges/${challenge}/answers`, answer),
  accept: (terms: string) => call<Attempt>("POST", "/attempt/terms", { terms }),
  enrolments: () => call<Enrolment[]>("GET", "/attempt/enrolments"),
  settable: () => call<Settable[]>("GET", "/attempt/settable"),
  setUp: (method: string) => call<OfferedEnrolment>("POST", "/attempt/enrolments", { method }),
  confirm: (id: string, answer: Answer) => call<Enrolment[]>("POST", `/attempt/enrolments/${id}/confirmation`, answer),
  rename: (id: string, label: string) => call<Enrolment[]>("PATCH", `/attempt/enrolments/${id}`, { label }),
  removeEnrolment: (id: string) => call<Enrolment[]>("DELETE", `/attempt/enrolments/${id}`),
  finish: () => call<Attempt>("POST", "/attempt/end"),
  sealing: () => call<Sealing>("GET", "/attempt/sealing"),
  passwords: (passwords: { seal?: string; evidence: string }[]) =>
    call<Attempt>("POST", "/attempt/passwords", { passwords }),
  goOn: () => call<Attempt>("POST", "/attempt/continuation"),
  /** Ends the attempt without waiting for the answer; if the call fails, the idle limit ends the attempt. */
  async leave(): Promise<void> {
    if (!signer) return;
    const headers = await signature("DELETE", "/attempt", "");
    signer = null;
    leaving = fetch("/api/v1/portal/attempt", {
      method: "DELETE",
      credentials: "same-origin",
      headers,
      keepalive: true,
    }).catch(() => undefined);
  },
  /** Postpones the idle limit. */
  present: () => call<void>("POST", "/attempt/presence"),
  /** Calls `onAttempt` with the attempt each time it changes, until `enough` is aborted or the connection ends. */
  async updates(onAttempt: (attempt: Attempt) => void, enough: AbortSignal): Promise<void> {
    const response = await fetch("/api/v1/portal/attempt/updates", {
      credentials: "same-origin",
      headers: { Accept: "text/event-stream", ...(await signature("GET", "/attempt/updates", "")) },
      signal: enough,
    });
    if (!response.ok || !response.body) throw await problemOf(response);
    const reader = response.body.pipeThrough(new TextDecoderStream()).getReader();
    // Server-sent events (WHATWG HTML, section 9.2): an event ends with an empty line, and ours are one line of data.
    for (let text = ""; ;) {
      const { value, done } = await reader.read();
      if (done) return;
      text += value;
      const events = text.split("\n\n");
      text = events.pop() ?? "";
      for (const event of events) {
        const line = event.split("\n").find((one) => one.startsWith("data:"));
        if (line) onAttempt(JSON.parse(line.slice(5)) as Attempt);
      }
    }
  },
  /** `number` is the one on the page that asked, where the link was opened elsewhere. */
  follow: (token: string, number?: string) => call<FollowedLink>("POST", "/links", { token, number }),
  managerFind: (token: string) => call<HelpRequest>("POST", "/confirmations/find", { token }),
  managerConfirm: (token: string, number: string, checked: string[]) =>
    call<{ complete: boolean }>("POST", "/confirmations", { token, number, checked }),
  managerDeny: (token: string) => call<void>("POST", "/confirmations/denial", { token }),
  alarmAsked: (token: string) => call<AlarmAsked>("POST", "/alarms/find", { token }),
  alarm: (token: string, close: boolean) => call<AlarmRaised>("POST", "/alarms", { token, close }),
  quiet: (token: string, off: boolean) => call<Told>("POST", "/quiet", { token, off }),
};

/** What every page of an attempt gets: where it stands, and where to go from there. */
export interface Step {
  attempt: Attempt;
  onChange: (attempt: Attempt) => void;
  /** Whether this problem is the end of the attempt, which is told elsewhere then. */
  onGone: (problem: unknown) => boolean;
  onRestart: () => void;
}
