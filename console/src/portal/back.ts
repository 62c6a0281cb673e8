import { useEffect, useRef } from "react";

/**
 * The way back in the browser goes one step back, as the page understands it. One entry of the history stands in front of the page as long
 * as there is a step to go back to; who goes back meets that entry, and the step that was asked for last takes its turn.
 */
const GUARD = "entente-guard";
const steps: { current: () => void }[] = [];
let ignored = false;

const guarded = () => (history.state as { entente?: string } | null)?.entente === GUARD;

function arm(): void {
  // Two steps back at once would leave the page.
  if (ignored) return;
  if (steps.length > 0 && !guarded()) {
    history.pushState({ entente: GUARD }, "");
  } else if (steps.length === 0 && guarded()) {
    ignored = true;
    history.back();
  }
}

window.addEventListener("popstate", () => {
  if (ignored) {
    ignored = false;
    setTimeout(arm);
    return;
  }
  steps.at(-1)?.current();
  setTimeout(arm);
});

/** What a step back does here; undefined for nothing of this page's own. */
export function useBack(step: (() => void) | undefined): void {
  const latest = useRef<() => void>(() => undefined);
  const active = Boolean(step);
  useEffect(() => {
    if (step) latest.current = step;
  });
  useEffect(() => {
    if (!active) return;
    steps.push(latest);
    setTimeout(arm);
    return () => {
      steps.splice(steps.indexOf(latest), 1);
      // What follows on the screen may have a step of its own.
      setTimeout(arm);
    };
  }, [active]);
}
