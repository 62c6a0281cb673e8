import { useState } from "react";
import { Problem } from "../shared/problem";
import { Button, Notice } from "../shared/ui";
import { api } from "./api";
import type { Attempt } from "./api";
import { ReferenceLine } from "./shell";

/** Read and accept, before anything is done. */
export function TermsPage({
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
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState("");

  async function accept() {
    setBusy(true);
    try {
      onChange(await api.accept(attempt.terms.name));
    } catch (problem) {
      setBusy(false);
      if (!onGone(problem)) setError(problem instanceof Problem ? problem.message : "Something went wrong. Try again.");
    }
  }

  return (
    <div className="flex flex-col gap-5">
      <h1 className="text-2xl font-semibold">Before you go on</h1>
      <p lang={attempt.terms.language} className="border-line bg-surface rounded-lg border p-4 whitespace-pre-line">
        {attempt.terms.text}
      </p>
      {error && <Notice tone="bad">{error}</Notice>}
      <Button look="primary" large busy={busy} onClick={() => void accept()}>
        I accept
      </Button>
      <Button look="quiet" large onClick={onRestart} className="self-start">
        No, stop here
      </Button>
      <ReferenceLine attempt={attempt} />
    </div>
  );
}
