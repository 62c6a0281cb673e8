import type { components } from "../shared/api-types";
import { Problem, problemOf } from "../shared/problem";
import { act } from "./seal";
import { doWork } from "./worker";
import type { EcKey, Target } from "./seal";
import type { PasswordRules } from "./rules";

type Schemas = components["schemas"];
type Whole<T> = T extends object ? { [K in keyof T]-?: Whole<NonNullable<T[K]>> } : T;
export type Attempt = Whole<Schemas["Attempt"]>;
export type Enrolment = Whole<Schemas["OwnMethod"]>;
export type OfferedEnrolment = Whole<Schemas["OfferedEnrolment"]>;
/** What was typed, or what else was answered, by name. */
export type Answer = { code?: string; parts?: Record<string, string> };
export type AccountResult = Whole<Schemas["AccountResult"]>;
export type Context = Whole<Schemas["Context"]>;
export type FollowedLink = Whole<Schemas["FollowedLink"]>;
export type HelpRequest = Whole<Schemas["HelpRequest"]>;
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

/** From now on what changes something within this attempt is signed with its key: a copied cookie alone changes nothing. */
export function signWith(reference: string, pair: CryptoKeyPair): void {
  signer = { reference, pair };
}

/** Calls the service; when it is away for a moment, tries again until a minute has passed. */
async function call<T>(method: string, path: string, body?: unknown): Promise<T> {
  const until = Date.now() + PATIENCE;
  for (let wait = 400; ; wait = Math.min(wait * 1.6, 4000)) {
    let problem: Problem;
    try {
      const text = body === undefined ? undefined : JSON.stringify(body);
      const headers: Record<string, string> = text === undefined ? {} : { "Content-Type": "application/json" };
      if (signer && method !== "GET" && path.startsWith("/attempt/")) {
        headers["Entente-Act"] = await act(signer.reference, signer.pair, method, path, text ?? "");
      }
      const response = await fetch(`/api/v1/portal${path}`, {
        method,
        credentials: "same-origin",
        headers,
        body: text,
      });
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
  setUp: (method: string) => call<OfferedEnrolment>("POST", "/attempt/enrolments", { method }),
  confirm: (id: string, answer: Answer) => call<Enrolment[]>("POST", `/attempt/enrolments/${id}/confirmation`, answer),
  rename: (id: string, label: string) => call<Enrolment[]>("PATCH", `/attempt/enrolments/${id}`, { label }),
  removeEnrolment: (id: string) => call<Enrolment[]>("DELETE", `/attempt/enrolments/${id}`),
  finish: () => call<Attempt>("POST", "/attempt/end"),
  sealing: () => call<Sealing>("GET", "/attempt/sealing"),
  passwords: (passwords: { seal?: string; evidence: string }[]) =>
    call<Attempt>("POST", "/attempt/passwords", { passwords }),
  goOn: () => call<Attempt>("POST", "/attempt/continuation"),
  leave: () => call<void>("DELETE", "/attempt"),
  /** `number` is the one on the page that asked, where the link was opened elsewhere. */
  follow: (token: string, number?: string) => call<FollowedLink>("POST", "/links", { token, number }),
  managerFind: (token: string) => call<HelpRequest>("POST", "/confirmations/find", { token }),
  managerConfirm: (token: string, number: string, checked: string[]) =>
    call<{ complete: boolean }>("POST", "/confirmations", { token, number, checked }),
  managerDeny: (token: string) => call<void>("POST", "/confirmations/denial", { token }),
  alarm: (token: string) => call<AlarmRaised>("POST", "/alarms", { token }),
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
