import { useEffect, useState } from "react";
import { Problem } from "../shared/problem";
import { Button, Field, Notice } from "../shared/ui";
import { api } from "./api";
import type { Attempt } from "./api";
import { ReferenceLine, useOrganisation } from "./shell";

/** Type the code. Nothing here tells whether a code was sent to anybody. */
export function CodePage({
  attempt,
  onChange,
  onGone,
  onRestart,
}: {
  attempt: Attempt;
  onChange: (attempt: Attempt) => void;
  onGone: (problem: unknown) => boolean;
  onRestart: () => void;
}) {
  const { organisation, helpDesk } = useOrganisation();
  const [code, setCode] = useState("");
  const [error, setError] = useState("");
  const [sentAgain, setSentAgain] = useState(false);
  const [busy, setBusy] = useState<"" | "answer" | "again">("");
  const minutes = useMinutesUntil(attempt.challenge?.expiresAt ?? 0);
  const challengesLeft = attempt.challenge?.challengesLeft ?? 0;

  async function act(what: "answer" | "again", work: () => Promise<Attempt>) {
    setBusy(what);
    setError("");
    setSentAgain(false);
    try {
      onChange(await work());
      setCode("");
      setSentAgain(what === "again");
    } catch (problem) {
      if (onGone(problem)) return;
      setError(problem instanceof Problem ? problem.message : "Something went wrong. Try again.");
      if (problem instanceof Problem && (problem.status === 422 || problem.status === 410)) {
        void api.attempt().then(onChange, onGone);
      }
    } finally {
      setBusy("");
    }
  }

  function answer(event: React.FormEvent) {
    event.preventDefault();
    if (code.replace(/[\s-]/g, "").length !== 8) {
      setError("The code has eight digits.");
      return;
    }
    void act("answer", () => api.answer(attempt.challenge?.id ?? "", code));
  }

  return (
    <form onSubmit={answer} className="flex flex-col gap-5" noValidate>
      <div className="flex flex-col gap-2">
        <h1 className="text-2xl font-semibold">Check your e-mail</h1>
        <p className="text-muted">
          If the name is right and you may do this here, an eight-digit code is on its way to the e-mail address that{" "}
          {organisation} has for you.
        </p>
      </div>
      {sentAgain && <Notice tone="info">Another code is on its way. The one before works no more than it did.</Notice>}
      <Field
        large
        autoFocus
        key={attempt.challenge?.id}
        label="Code"
        hint={
          minutes > 0
            ? `Valid for about ${minutes} more ${minutes === 1 ? "minute" : "minutes"}`
            : "Its time is up; ask for another"
        }
        name="code"
        inputMode="numeric"
        autoComplete="one-time-code"
        maxLength={20}
        placeholder="0000 0000"
        className="tracking-widest"
        value={code}
        onChange={(event) => setCode(event.target.value)}
        error={error}
      />
      <Button type="submit" look="primary" large busy={busy === "answer"}>
        Continue
      </Button>
      <details className="border-line bg-surface rounded-lg border p-4">
        <summary className="cursor-pointer rounded-sm font-medium">Nothing came?</summary>
        <ol className="mt-3 flex list-decimal flex-col gap-2 pl-5">
          <li>Wait a minute, and look into the folder for unwanted mail.</li>
          <li>
            {challengesLeft > 0 ? (
              <>
                <Button
                  busy={busy === "again"}
                  onClick={() => void act("again", () => api.ask(attempt.methods[0] ?? ""))}
                  className="mr-2"
                >
                  Send another code
                </Button>
                <span className="text-muted text-sm">{challengesLeft} left</span>
              </>
            ) : (
              "No more codes are sent for this attempt."
            )}
          </li>
          <li>
            <button type="button" onClick={onRestart} className="text-accent-ink rounded-sm underline">
              Start again
            </button>{" "}
            if you mistyped your name.
          </li>
          <li>Ask the help desk: {helpDesk}.</li>
        </ol>
      </details>
      <ReferenceLine attempt={attempt} />
    </form>
  );
}

function useMinutesUntil(time: number): number {
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 15_000);
    return () => clearInterval(timer);
  }, []);
  return Math.max(0, Math.round((time - now) / 60_000));
}
