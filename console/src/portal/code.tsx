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
      setError(
        twice ? "Type six digits into each field: those that the app shows now, and the next ones." : way.tooShort,
      );
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
            ? `If the name is right and you may do this here, a code is on its way to the e-mail address that ${organisation} has for you.`
            : method === "app-code"
              ? twice
                ? `Find ${organisation} in the app. This browser is not known here for you, so type the six digits that it shows now, wait for the next ones, and type them too.`
                : `Find ${organisation} in the app and type the six digits that it shows now.`
              : "Each of your recovery codes works once. Cross it out afterwards."}
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
              : "Its time is up; ask for another"
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
          label="The next code in the app"
          hint="It comes within half a minute"
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
        <summary className="cursor-pointer rounded-sm font-medium">
          {mailed ? "Nothing came?" : "It does not work?"}
        </summary>
        <ol className="mt-3 flex list-decimal flex-col gap-2 pl-5">
          <li>
            {mailed
              ? "Wait a minute, and look into the folder for unwanted mail."
              : method === "app-code"
                ? "Set the clock of your phone to automatic: the digits follow from the time. Digits that were used once do not work again: wait for the next ones."
                : "Look for a code that is not crossed out; letters may be small or capital."}
          </li>
          {method === "app-code" && !two && (
            <li>
              <Button onClick={() => setTwo(true)} className="mr-2">
                Type two codes in a row
              </Button>
              <span className="text-muted text-sm">if you never did this on this device</span>
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
          <li>
            When somebody else tries with your name, a way to prove it can be closed for unknown browsers for some
            hours. Take another way, a browser that you used for this before, or come back later.
          </li>
          <li>Ask the help desk: {helpDesk}.</li>
        </ol>
      </details>
      {onOtherWay && (
        <Button look="quiet" large onClick={onOtherWay} className="self-start">
          Choose another way
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
