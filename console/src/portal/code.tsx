import { useEffect, useState } from "react";
import { Problem, said } from "../shared/problem";
import { Button, Field, Notice } from "../shared/ui";
import { ways } from "../shared/ways";
import { api } from "./api";
import type { Attempt, Step } from "./api";
import { MethodsPage } from "./methods";
import { ReferenceLine, useOrganisation } from "./shell";

/** One proof after another, each by a way that the person chooses. */
export function ProvePage(props: Step) {
  const [left, setLeft] = useState("");
  const challenge = props.attempt.challenge;
  if (!challenge || left === challenge.id) {
    return <MethodsPage {...props} />;
  }
  return (
    <CodePage
      key={challenge.method}
      {...props}
      onOtherWay={props.attempt.methods.length > 1 ? () => setLeft(challenge.id) : undefined}
    />
  );
}

/** Type the code. Nothing here tells whether a code was sent to anybody. */
function CodePage({ attempt, onChange, onGone, onRestart, onOtherWay }: Step & { onOtherWay?: () => void }) {
  const { organisation, helpDesk, knownBrowser } = useOrganisation();
  const [code, setCode] = useState("");
  const [nextCode, setNextCode] = useState("");
  const [error, setError] = useState("");
  const [sentAgain, setSentAgain] = useState(false);
  const [busy, setBusy] = useState<"" | "answer" | "again">("");
  const method = attempt.challenge?.method ?? "email-code";
  const way = ways[method]!;
  const mailed = method === "email-code";
  // One code of an app has too few digits for everybody who is not known here: two in a row have enough.
  const [two, setTwo] = useState(!knownBrowser);
  const twice = method === "app-code" && two;
  const minutes = useMinutesUntil(attempt.challenge?.expiresAt);
  const challengesLeft = attempt.challenge?.challengesLeft ?? 0;

  async function act(what: "answer" | "again", work: () => Promise<Attempt>) {
    setBusy(what);
    setError("");
    setSentAgain(false);
    try {
      onChange(await work());
      setCode("");
      setNextCode("");
      setSentAgain(what === "again");
    } catch (problem) {
      if (onGone(problem)) return;
      setError(said(problem));
      if (problem instanceof Problem && (problem.status === 422 || problem.status === 410)) {
        void api.attempt().then((found) => found && onChange(found), onGone);
      }
    } finally {
      setBusy("");
    }
  }

  function answer(event: React.FormEvent) {
    event.preventDefault();
    const whole = (typed: string) => way.lengths.includes(typed.replace(/[\s-]/g, "").length);
    if (!whole(code) || (twice && !whole(nextCode))) {
      setError(twice ? "Type six digits in each field: the code the app shows now, and the next one." : way.tooShort);
      return;
    }
    void act("answer", () => api.answer(attempt.challenge?.id ?? "", twice ? `${code} ${nextCode}` : code));
  }

  return (
    <form onSubmit={answer} className="flex flex-col gap-5" noValidate>
      <div className="flex flex-col gap-2">
        <h1 className="text-2xl font-semibold">{way.title}</h1>
        <p className="text-muted">
          {mailed
            ? `If the name is right and you can do this here, we’ve sent a code to the e-mail address ${organisation} has for you.`
            : method === "app-code"
              ? twice
                ? `Find ${organisation} in the app. You haven’t used this browser here before, so we need two codes: type the six digits it shows now, wait for the next six, and type those too.`
                : `Find ${organisation} in the app and type the six digits it shows now.`
              : "Each recovery code works once. Cross it out when you’ve used it."}
        </p>
      </div>
      {sentAgain && <Notice tone="info">Use the newest code. Earlier ones no longer work.</Notice>}
      <Field
        large
        autoFocus
        key={attempt.challenge?.id}
        label={way.label}
        hint={
          !mailed
            ? undefined
            : minutes > 0
              ? `Valid for about ${minutes} more ${minutes === 1 ? "minute" : "minutes"}`
              : "This code has expired. Send a new one"
        }
        name="code"
        inputMode={way.digits ? "numeric" : "text"}
        autoComplete={method === "recovery-code" ? "off" : "one-time-code"}
        autoCapitalize="none"
        spellCheck={false}
        maxLength={30}
        placeholder={way.placeholder}
        className="tracking-widest"
        value={code}
        onChange={(event) => setCode(event.target.value)}
        error={error}
      />
      {twice && (
        <Field
          large
          label="Next code in the app"
          hint="It appears within 30 seconds"
          name="next-code"
          inputMode="numeric"
          autoComplete="off"
          maxLength={20}
          placeholder={way.placeholder}
          className="tracking-widest"
          value={nextCode}
          onChange={(event) => setNextCode(event.target.value)}
        />
      )}
      <Button type="submit" look="primary" large busy={busy === "answer"}>
        Continue
      </Button>
      <details className="border-line bg-surface rounded-lg border p-4">
        <summary className="cursor-pointer rounded-sm font-medium">{mailed ? "No e-mail?" : "Doesn’t work?"}</summary>
        <ol className="mt-3 flex list-decimal flex-col gap-2 pl-5">
          <li>
            {mailed
              ? "Wait a minute, then check your spam folder."
              : method === "app-code"
                ? "Set your phone’s clock to automatic, because the code depends on the time. Each code works only once, so wait for the next one."
                : "Use a code you haven’t crossed out. Capital and small letters both work."}
          </li>
          {method === "app-code" && !two && (
            <li>
              <Button onClick={() => setTwo(true)} className="mr-2">
                Type two codes in a row
              </Button>
              <span className="text-muted text-sm">if you haven’t done this on this device before</span>
            </li>
          )}
          <li className={mailed ? undefined : "hidden"}>
            {challengesLeft > 0 ? (
              <>
                <Button
                  busy={busy === "again"}
                  onClick={() => void act("again", () => api.ask(method))}
                  className="mr-2"
                >
                  Send a new code
                </Button>
                <span className="text-muted text-sm">{challengesLeft} left</span>
              </>
            ) : (
              "You’ve had all the codes for this attempt. Start again to get more."
            )}
          </li>
          <li>
            <button type="button" onClick={onRestart} className="text-accent-ink rounded-sm underline">
              Start again
            </button>{" "}
            if you mistyped your name.
          </li>
          <li>
            If someone else keeps trying your name, a method can be closed to unfamiliar browsers for a few hours.
            Choose another method, use a browser you’ve used here before, or come back later.
          </li>
          <li>Contact the help desk: {helpDesk}.</li>
        </ol>
      </details>
      {onOtherWay && (
        <Button look="quiet" large onClick={onOtherWay} className="self-start">
          Use another method
        </Button>
      )}
      <ReferenceLine attempt={attempt} />
    </form>
  );
}

function useMinutesUntil(time: string | undefined): number {
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 15_000);
    return () => clearInterval(timer);
  }, []);
  return Math.max(0, Math.round(((time ? Date.parse(time) : 0) - now) / 60_000));
}
