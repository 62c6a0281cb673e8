import { useCallback, useEffect, useRef, useState } from "react";
import { Problem } from "../shared/problem";
import { Button, Field, Notice } from "../shared/ui";
import { api } from "./api";
import type { Attempt } from "./api";
import { CodePage } from "./code";
import { PasswordPage } from "./password";
import { ResultPage, WaitingPage } from "./result";
import { useOrganisation } from "./shell";
import { forget, keep, kept, newAttemptKey, publicHalf } from "./seal";

/** The whole way of one person, one question a screen. What the service says decides which screen it is. */
export function Recovery() {
  const [attempt, setAttempt] = useState<Attempt | null>(null);
  const [key, setKey] = useState<CryptoKeyPair | null>(null);
  const [looked, setLooked] = useState(false);
  const [gone, setGone] = useState("");

  // A reloaded page goes on where it was, as long as its key is still here.
  useEffect(() => {
    void (async () => {
      try {
        const found = await api.attempt();
        const pair = await kept(found.reference);
        if (pair) {
          setKey(pair);
          setAttempt(found);
        }
      } catch {
        // No attempt on this browser: the first screen it is.
      }
      setLooked(true);
    })();
  }, []);

  const restart = useCallback(async (why = "") => {
    await Promise.allSettled([api.leave(), forget()]);
    setAttempt(null);
    setKey(null);
    setGone(why);
  }, []);

  const failed = useCallback(
    (problem: unknown) => {
      if (problem instanceof Problem && problem.type === "attempt-gone") {
        void restart(problem.message);
        return true;
      }
      return false;
    },
    [restart],
  );

  if (!looked) return null;
  if (!attempt || !key) {
    return (
      <StartPage
        gone={gone}
        onStarted={(started, pair) => {
          setGone("");
          setKey(pair);
          setAttempt(started);
        }}
      />
    );
  }
  switch (attempt.state) {
    case "identified":
    case "proving":
      return <CodePage attempt={attempt} onChange={setAttempt} onGone={failed} onRestart={() => void restart()} />;
    case "proved":
      return <PasswordPage attempt={attempt} attemptKey={key} onChange={setAttempt} onGone={failed} />;
    case "delivering":
      return <WaitingPage attempt={attempt} onChange={setAttempt} onGone={failed} />;
    default:
      return <ResultPage attempt={attempt} onRestart={() => void restart()} />;
  }
}

function StartPage({ gone, onStarted }: { gone: string; onStarted: (attempt: Attempt, key: CryptoKeyPair) => void }) {
  const { organisation } = useOrganisation();
  const [name, setName] = useState("");
  const [error, setError] = useState("");
  const [busy, setBusy] = useState(false);
  const heading = useRef<HTMLHeadingElement>(null);

  async function start(event: React.FormEvent) {
    event.preventDefault();
    if (!name.trim()) {
      setError("Type the name that you sign in with.");
      return;
    }
    setBusy(true);
    setError("");
    try {
      const pair = await newAttemptKey();
      let attempt = await api.start(name, "reset", await publicHalf(pair));
      await keep(attempt.reference, pair);
      if (attempt.methods.length === 1) {
        attempt = await api.ask(attempt.methods[0]!);
      }
      onStarted(attempt, pair);
    } catch (problem) {
      setError(problem instanceof Problem ? problem.message : "Something went wrong. Try again.");
      setBusy(false);
    }
  }

  return (
    <form onSubmit={(event) => void start(event)} className="flex flex-col gap-5" noValidate>
      {gone && <Notice tone="warn">{gone}</Notice>}
      <div className="flex flex-col gap-2">
        <h1 ref={heading} className="text-2xl font-semibold">
          Get a new password
        </h1>
        <p className="text-muted">
          First we make sure that it is you, then you choose a new password for your {organisation} accounts. It takes
          about a minute.
        </p>
      </div>
      <Field
        large
        autoFocus
        label="Your sign-in name"
        hint="The name you type when you sign in, such as first.last"
        name="username"
        autoComplete="username"
        autoCapitalize="none"
        spellCheck={false}
        maxLength={256}
        value={name}
        onChange={(event) => setName(event.target.value)}
        error={error}
      />
      <Button type="submit" look="primary" large busy={busy}>
        Continue
      </Button>
    </form>
  );
}
