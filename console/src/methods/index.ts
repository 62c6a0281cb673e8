import type { MethodView } from "./method";

const found = import.meta.glob<{ default: MethodView }>("./*/index.tsx", { eager: true });

/** Every method that the pages know, by name. */
export const methods: Record<string, MethodView> = Object.fromEntries(
  Object.values(found).map(({ default: view }) => [view.method, view]),
);
