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
export type MessageText = Whole<Schemas["MessageText"]>;
export type Explanation = Whole<Schemas["Explanation"]>;
export type MailTried = Whole<Schemas["MailTried"]>;
export type Stop = Whole<Schemas["Stop"]>;
export type Comparison = Whole<Schemas["Comparison"]>;
export type Policy = Whole<Schemas["Policy"]>;
export type PersonRow = Whole<Schemas["PersonRow"]>;
export type RehearsalPart = Whole<Schemas["RehearsalPart"]>;
export type Draft = Whole<Schemas["Draft"]>;
export type AttemptRow = Whole<Schemas["AttemptRow"]>;

function csrf(): string {
  return /(?:^|; )XSRF-TOKEN=([^;]*)/.exec(document.cookie)?.[1] ?? "";
}

const client = createClient<paths>({
  baseUrl: window.location.origin,
  credentials: "same-origin",
});
client.use({
  onRequest({ request }) {
    request.headers.set("X-XSRF-TOKEN", csrf());
    return request;
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
