import { configure } from "@testing-library/react";

// A busy machine takes its time; what never comes is still told.
configure({ asyncUtilTimeout: 15_000 });

type Answer = [status: number, body?: unknown] | "away";
interface Turns {
  turns: Answer[];
}

/** One answer after the other; the last one is given again. */
export const turns = (...answers: Answer[]): Turns => ({ turns: answers });

/** A problem document as the service writes it. */
export const problem = (type: string, detail: string, more: object = {}) => ({
  type: `urn:entente:problem:${type}`,
  detail,
  ...more,
});

let answering: typeof fetch = () => Promise.reject(new Error("no service is expected here"));
// Some clients keep the function that is there when they are made, so this stands in its place from the beginning.
globalThis.fetch = (...asked) => answering(...asked);

/** Answers what a page asks, by method and path below the API; whatever nobody expected is an error. */
export function serve(paths: Record<string, Answer | Turns>) {
  const asked: { call: string; body: unknown }[] = [];
  answering = async (target, init = {}) => {
    const request = target instanceof Request ? target : undefined;
    const url = new URL(request?.url ?? (target as string), window.location.href);
    const call = `${request?.method ?? init.method ?? "GET"} ${url.pathname.replace("/api/v1", "")}`;
    const text = request ? await request.text() : ((init.body as string | undefined) ?? "");
    const before = asked.filter((one) => one.call === call).length;
    asked.push({ call, body: text ? JSON.parse(text) : undefined });
    const expected = paths[call];
    if (!expected) throw new Error(`nobody expected ${call}`);
    const answers = typeof expected === "object" && "turns" in expected ? expected.turns : [expected];
    const answer = answers[Math.min(before, answers.length - 1)]!;
    if (answer === "away") throw new TypeError("Failed to fetch");
    const [status, body] = answer;
    return new Response(body === undefined ? null : JSON.stringify(body), {
      status,
      headers: { "Content-Type": status < 400 ? "application/json" : "application/problem+json" },
    });
  };
  return { asked, calls: () => asked.map((one) => one.call) };
}

/** Lets a page that is gone finish what it had put off: afterwards there may be no window any more. */
export const putOffIsDone = () => new Promise<void>((done) => setTimeout(done));
