import { useEffect, useState } from "react";
import { useTask } from "../shared/task";

/** What a mailed link leads to: the token behind #, and what is asked with it once. */
export function useLink<T>(find: (token: string) => Promise<T>) {
  const [token] = useState(() => window.location.hash.slice(1));
  const [found, setFound] = useState<T>();
  const task = useTask();
  const { run } = task;

  useEffect(() => {
    // The token has no business in the browser's history.
    window.history.replaceState(null, "", window.location.pathname);
    void run(async () => setFound(await find(token)));
    // Once; what is typed later asks again.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, []);

  return { token, found, setFound, ...task };
}
