import { useEffect, useRef, useState } from "react";
import { Button, Notice } from "../shared/ui";
import { texts } from "./texts";

/** How long before the end the page asks whether anybody is there, in ms. */
const WARNING = 60_000;
const LOOK = 1_000;
/** How often activity is reported to the service, in ms. */
const TOLD = 30_000;

const signs = ["pointerdown", "keydown", "touchstart", "wheel"] as const;

/**
 * Closes the page after `seconds` without activity, so that the next person at the same computer sees nothing of it. Calls `onPresent`
 * at intervals while there is activity.
 */
export function IdleWatch({
  seconds,
  onOver,
  onPresent,
}: {
  seconds: number;
  onOver: () => void;
  onPresent?: () => void;
}) {
  const [left, setLeft] = useState<number | null>(null);
  const touched = useRef(Date.now());
  const told = useRef(Date.now());
  const calls = useRef({ onOver, onPresent });
  useEffect(() => {
    calls.current = { onOver, onPresent };
  });

  useEffect(() => {
    touched.current = Date.now();
    const touch = () => {
      // After the limit it may be the next person.
      if (Date.now() - touched.current >= seconds * 1000) return;
      touched.current = Date.now();
      setLeft(null);
      if (touched.current - told.current >= TOLD) {
        told.current = touched.current;
        calls.current.onPresent?.();
      }
    };
    const look = () => {
      const rest = seconds * 1000 - (Date.now() - touched.current);
      if (rest <= 0) calls.current.onOver();
      else if (rest <= Math.min(WARNING, (seconds * 1000) / 2)) setLeft(Math.ceil(rest / 1000));
    };
    const timer = setInterval(look, LOOK);
    signs.forEach((sign) => window.addEventListener(sign, touch, { capture: true, passive: true }));
    // After sleep the old page must not show, not even for a second.
    document.addEventListener("visibilitychange", look);
    return () => {
      clearInterval(timer);
      signs.forEach((sign) => window.removeEventListener(sign, touch, { capture: true }));
      document.removeEventListener("visibilitychange", look);
    };
  }, [seconds]);

  if (left === null) return null;
  return (
    <Notice tone="warn" title={texts.idle.title}>
      <p aria-hidden>{texts.idle.says(left)}</p>
      <p className="sr-only" role="alert">
        {texts.idle.soon}
      </p>
      <Button onClick={() => undefined}>{texts.idle.stay}</Button>
    </Notice>
  );
}
