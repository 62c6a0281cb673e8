/** A problem document of the service (RFC 9457), or the network's silence. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly type: string,
    message: string,
    readonly more: Record<string, unknown> = {},
  ) {
    super(message);
  }
}

export async function problemOf(response: Response): Promise<Problem> {
  try {
    const body = (await response.json()) as Record<string, unknown>;
    const type = String(body.type ?? "").replace("urn:entente:problem:", "");
    return new Problem(response.status, type, String(body.detail ?? "Something went wrong. Try again."), body);
  } catch {
    return new Problem(response.status, "unreadable", "The service did not answer as it should. Try again.");
  }
}

/** What to say of a failure: the service's own sentence where there is one. */
export function said(problem: unknown, otherwise = "Something went wrong. Try again."): string {
  return problem instanceof Problem ? problem.message : otherwise;
}
