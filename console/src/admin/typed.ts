import { useCallback, useState } from "react";

const PREFIX = "entente typed: ";

/**
 * What is typed into a form, kept for as long as the browser's tab is open: leaving the page, a reload or a failed change loses
 * none of it. Never for secrets. The third value forgets it, once it has served its purpose.
 *
 * @param name tells forms apart, and what they are about
 */
export function useTyped<T>(name: string, initial: T): [T, (value: T) => void, () => void] {
  const key = PREFIX + name;
  const [value, setValue] = useState<T>(() => {
    const kept = sessionStorage.getItem(key);
    return kept === null ? initial : (JSON.parse(kept) as T);
  });
  const type = useCallback(
    (next: T) => {
      sessionStorage.setItem(key, JSON.stringify(next));
      setValue(next);
    },
    [key],
  );
  const forget = useCallback(() => {
    sessionStorage.removeItem(key);
    setValue(initial);
    // What a form begins with is the same each time it is drawn.
    // oxlint-disable-next-line react-hooks/exhaustive-deps
  }, [key]);
  return [value, type, forget];
}
