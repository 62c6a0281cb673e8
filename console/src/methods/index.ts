import type { Attempt } from "../portal/api";
import type { MethodView } from "./method";

const found = import.meta.glob<{ default: MethodView }>("./*/index.tsx", { eager: true });

/** Every method that the pages know, by name. */
export const methods: Record<string, MethodView> = Object.fromEntries(
  Object.values(found).map(({ default: view }) => [view.method, view]),
);

/** The page that comes before a method's challenge in this attempt, if one does. */
export function before(method: string, attempt: Attempt) {
  const view = methods[method];
  return view?.wantsBefore?.(attempt) === false ? undefined : view?.Before;
}
