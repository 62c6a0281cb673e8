import { useEffect, useState } from "react";
import { said } from "../shared/problem";
import { Button, Notice } from "../shared/ui";

interface Told {
  tone: "bad" | "info";
  title: string;
  text: string;
}

let show: (told: Told) => void = () => {};

/** Every change that failed comes here, unless its page says so itself (`meta: { saidHere: true }`). */
export function changeFailed(problem: unknown): void {
  show({ tone: "bad", title: "Not done", text: said(problem, "That didn’t work. Try again.") });
}

/** A change that another administrator has to approve. */
export function changeWaits(): void {
  show({
    tone: "info",
    title: "Not yet in force",
    text: "Another administrator has to approve this change. It waits under Settings.",
  });
}

/** What was told last, in sight wherever one has scrolled to, until it is put away. */
export function LastTold() {
  const [last, setLast] = useState<Told | null>(null);
  useEffect(() => {
    show = setLast;
    return () => {
      show = () => {};
    };
  }, []);
  if (!last) return null;
  return (
    <div className="bg-surface shadow-pop fixed inset-x-4 bottom-4 z-20 mx-auto max-w-lg rounded-lg">
      <Notice tone={last.tone} title={last.title}>
        <p>{last.text}</p>
        <Button className="self-start" onClick={() => setLast(null)}>
          Put away
        </Button>
      </Notice>
    </div>
  );
}
