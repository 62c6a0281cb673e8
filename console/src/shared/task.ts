import { useCallback, useState } from "react";
import { said } from "./problem";

/**
 * What one page has under way, by a name of its choice, and what went wrong with it last. `gone` may take a problem over,
 * such as an attempt that has ended meanwhile; then nothing is said here.
 */
export function useTask(gone?: (problem: unknown) => boolean, otherwise?: string) {
  const [busy, setBusy] = useState("");
  const [error, setError] = useState("");
  const run = useCallback(
    async (work: () => Promise<unknown>, name = "it") => {
      setBusy(name);
      setError("");
      try {
        await work();
      } catch (problem) {
        if (!gone?.(problem)) setError(said(problem, otherwise));
      } finally {
        setBusy("");
      }
    },
    [gone, otherwise],
  );
  return { busy, error, setError, run };
}
