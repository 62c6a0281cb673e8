import { useCallback, useState } from "react";

const PREFIX = "entente typed: ";

/** Forgets what was typed into every form: whoever signs in next must not meet it. */
export function forgetTyped(): void {
  for (const key of Object.keys(sessionStorage)) {
    if (key.startsWith(PREFIX)) sessionStorage.removeItem(key);
  }
}

/**
 * What is typed into a form, kept for as long as the browser's tab is open: leaving the page, a reload or a failed change loses
 * none of it. Never for secrets, nor for what is out of sight when the form is drawn again. The third value forgets it.
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
