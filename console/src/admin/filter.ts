import { useSearchParams } from "react-router";

/**
 * Filters in the address, so that a list can be linked to and survives a reload. Changing one makes no step in the browser's
 * history.
 */
export function useFilter() {
  const [params, setParams] = useSearchParams();
  return {
    /** What is chosen; empty if nothing is. */
    get: (name: string) => params.get(name) ?? "",
    /** What is chosen, which may be the empty text; null if nothing is. */
    given: (name: string) => params.get(name),
    /** Sets some; null and nothing clear one. */
    set(changes: Record<string, string | null | undefined>) {
      const next = new URLSearchParams(params);
      for (const [name, value] of Object.entries(changes)) {
        if (value === null || value === undefined) next.delete(name);
        else next.set(name, value);
      }
      setParams(next, { replace: true });
    },
  };
}
