import { useEffect, useState } from "react";
import { Problem, said } from "../shared/problem";
import { Button, Field, Notice } from "../shared/ui";
import { ways } from "../shared/ways";
import { api } from "./api";
import type { Attempt, Step } from "./api";
import { MethodsPage } from "./methods";
import { ReferenceLine, useOrganisation } from "./shell";
import { texts } from "./texts";

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
  const words = texts.methods[method]!;
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
      setError(twice ? texts.code.twoShort : words.tooShort);
      return;
    }
    void act("answer", () => api.answer(attempt.challenge?.id ?? "", twice ? `${code} ${nextCode}` : code));
  }

  return (
    <form onSubmit={answer} className="flex flex-col gap-5" noValidate>
      <div className="flex flex-col gap-2">
        <h1 className="text-2xl font-semibold">{words.title}</h1>
        <p className="text-muted">{twice ? texts.code.two(organisation) : words.what(organisation)}</p>
      </div>
      {sentAgain && <Notice tone="info">{texts.code.sentAgain}</Notice>}
      <Field
        large
        autoFocus
        key={attempt.challenge?.id}
        label={words.label}
        hint={!mailed ? undefined : minutes > 0 ? texts.code.valid(minutes) : texts.code.expired}
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
          label={texts.code.next}
          hint={texts.code.nextHint}
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
        {texts.continue}
      </Button>
      <details className="border-line bg-surface rounded-lg border p-4">
        <summary className="cursor-pointer rounded-sm font-medium">{words.trouble}</summary>
        <ol className="mt-3 flex list-decimal flex-col gap-2 pl-5">
          <li>{words.first}</li>
          {method === "app-code" && !two && (
            <li>
              <Button onClick={() => setTwo(true)} className="mr-2">
                {texts.code.typeTwo}
              </Button>
              <span className="text-muted text-sm">{texts.code.typeTwoWhen}</span>
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
                  {texts.code.send}
                </Button>
                <span className="text-muted text-sm">{texts.code.left(challengesLeft)}</span>
              </>
            ) : (
              texts.code.noneLeft
            )}
          </li>
          <li>
            <button type="button" onClick={onRestart} className="text-accent-ink rounded-sm underline">
              {texts.startAgain}
            </button>{" "}
            {texts.code.mistyped}
          </li>
          <li>{texts.code.strangers}</li>
          <li>{texts.contact(helpDesk)}</li>
        </ol>
      </details>
      {onOtherWay && (
        <Button look="quiet" large onClick={onOtherWay} className="self-start">
          {texts.code.other}
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
