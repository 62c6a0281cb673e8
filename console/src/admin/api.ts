import createClient from "openapi-fetch";
import type { components, paths } from "../shared/api-types";
import { Problem, problemOf } from "../shared/problem";

/** Everything that the service sends is there; what may be null is looked at before it is used. */
type Whole<T> = T extends object ? { [K in keyof T]-?: Whole<NonNullable<T[K]>> } : T;
type Schemas = components["schemas"];
export type Directory = Whole<Schemas["Directory"]>;
export type Finding = Whole<Schemas["Finding"]>;
export type Job = Whole<Schemas["Job"]>;
export type Delivery = Whole<Schemas["Delivery"]>;
export type MailChannel = Whole<Schemas["MailChannel"]>;
export type BounceMailbox = Whole<Schemas["BounceMailbox"]>;
export type MessageText = Whole<Schemas["MessageText"]>;
export type Explanation = Whole<Schemas["Explanation"]>;
export type MailTried = Whole<Schemas["MailTried"]>;
export type Hold = Whole<Schemas["Hold"]>;
export type Outlet = Whole<Schemas["Outlet"]>;
export type Notification = Whole<Schemas["Notification"]>;
export type Notices = Whole<Schemas["Notices"]>;
export type PhoneChannel = Whole<Schemas["PhoneChannel"]>;
export type PhoneTried = Whole<Schemas["PhoneTried"]>;
export type HelpRequest = Whole<Schemas["HelpRequest"]>;
export type Stop = Whole<Schemas["Stop"]>;
export type Comparison = Whole<Schemas["Comparison"]>;
export type Policy = Whole<Schemas["Policy"]>;
export type PersonRow = Whole<Schemas["PersonRow"]>;
export type RehearsalPart = Whole<Schemas["RehearsalPart"]>;
export type Draft = Whole<Schemas["Draft"]>;
export type OwnSession = Whole<Schemas["OwnSession"]>;
export type Administrator = Whole<Schemas["Administrator"]>;
export type ProposedChange = Whole<Schemas["ProposedChange"]>;
export type PressureSource = Whole<Schemas["PressureSource"]>;
export type Attention = Whole<Schemas["Attention"]>;
export type AttemptRow = Whole<Schemas["AttemptRow"]>;

function csrf(): string {
  return /(?:^|; )XSRF-TOKEN=([^;]*)/.exec(document.cookie)?.[1] ?? "";
}

const client = createClient<paths>({
  baseUrl: window.location.origin,
  credentials: "same-origin",
});

let confirmed: () => Promise<boolean> = () => Promise.resolve(false);
let waits: () => void = () => {};

/** Who asks for the second factor again, and answers whether it was shown. Returns what undoes it. */
export function onConfirmation(ask: () => Promise<boolean>): () => void {
  confirmed = ask;
  return () => {
    confirmed = () => Promise.resolve(false);
  };
}

/** Whom to tell of a change that another administrator has to approve. */
export function onWaiting(tell: () => void): void {
  waits = tell;
}

// What may have to be asked a second time; a body can be read only once.
const copies = new Map<string, Request>();

client.use({
  onRequest({ request, id }) {
    request.headers.set("X-XSRF-TOKEN", csrf());
    if (request.method !== "GET") copies.set(id, request.clone());
    return request;
  },
  async onResponse({ request, response, id }) {
    const copy = copies.get(id);
    copies.delete(id);
    // Jobs answer POST with 202; a changed setting answers so only while it waits for somebody.
    if (response.status === 202 && request.method !== "POST") waits();
    if (response.status !== 403 || !copy) return response;
    const problem = await problemOf(response.clone());
    if (problem.type !== "confirm" || !(await confirmed())) return response;
    copy.headers.set("X-XSRF-TOKEN", csrf());
    return fetch(copy);
  },
  onError({ id }) {
    copies.delete(id);
  },
});

/** The answer's data, or a problem to show. */
export async function data<T>(answer: Promise<{ data?: T; response: Response; error?: unknown }>): Promise<Whole<T>> {
  let result;
  try {
    result = await answer;
  } catch {
    throw new Problem(0, "network", "The service does not answer. Check the connection, then try again.");
  }
  if (!result.response.ok) {
    const problem = result.error as Record<string, unknown> | undefined;
    if (problem?.detail) {
      const type = String(problem.type ?? "").replace("urn:entente:problem:", "");
      throw new Problem(result.response.status, type, String(problem.detail), problem);
    }
    throw await problemOf(result.response);
  }
  return result.data as Whole<T>;
}

export const api = client;
