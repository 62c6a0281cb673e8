import { ChevronRight } from "lucide-react";
import { useCallback, useEffect, useRef, useState } from "react";
import { Problem } from "../shared/problem";
import { useTask } from "../shared/task";
import { Button, Field, Notice } from "../shared/ui";
import { before } from "../methods";
import { api, signWith } from "./api";
import type { Attempt } from "./api";
import { ProvePage } from "./prove";
import { DetailsPage } from "./details";
import { PasswordPage } from "./password";
import { moment, ResultPage, WaitingPage } from "./result";
import { typedName } from "./remembered";
import { TermsPage } from "./terms";
import { UnlockPage } from "./unlock";
import { ReferenceLine, useOrganisation } from "./shell";
import { forget, keep, kept, newAttemptKey, publicHalf } from "./seal";
import { texts } from "./texts";

/** The whole way of one person, one question a screen. What the service says decides which screen it is. */
export function Recovery() {
  const [attempt, setAttempt] = useState<Attempt | null>(null);
  const [key, setKey] = useState<CryptoKeyPair | null>(null);
  const [looked, setLooked] = useState(false);
  const [gone, setGone] = useState("");
  const [stopped, setStopped] = useState<Problem | null>(null);

  // A reloaded page goes on where it was, as long as its key is still here.
  useEffect(() => {
    void (async () => {
      try {
        const found = await api.attempt();
        const pair = found && (await kept(found.reference));
        if (pair) {
          signWith(found.reference, pair);
          setKey(pair);
          setAttempt(found);
        }
      } catch {
        // The attempt of this browser is over: the first screen it is.
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
      if (problem instanceof Problem && problem.type === "stopped") {
        setStopped(problem);
        return true;
      }
      return false;
    },
    [restart],
  );

  if (!looked) return null;
  if (stopped) {
    return (
      <PausedPage
        until={stopped.more.until ? String(stopped.more.until) : ""}
        attempt={attempt}
        onAgain={() => setStopped(null)}
      />
    );
  }
  if (!attempt || !key) {
    return (
      <StartPage
        gone={gone}
        onStopped={failed}
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
      return <ProvePage attempt={attempt} onChange={setAttempt} onGone={failed} onRestart={() => void restart()} />;
    case "proved":
      if (attempt.terms) {
        return <TermsPage attempt={attempt} onChange={setAttempt} onGone={failed} onRestart={() => void restart()} />;
      }
      if (attempt.action === "details") {
        return <DetailsPage onChange={setAttempt} onGone={failed} />;
      }
      return attempt.action === "unlock" ? (
        <UnlockPage attempt={attempt} attemptKey={key} onChange={setAttempt} onGone={failed} />
      ) : (
        <PasswordPage attempt={attempt} attemptKey={key} onChange={setAttempt} onGone={failed} />
      );
    case "delivering":
      return <WaitingPage attempt={attempt} onChange={setAttempt} onGone={failed} />;
    default:
      return <ResultPage attempt={attempt} onChange={setAttempt} onGone={failed} onRestart={() => void restart()} />;
  }
}

const actionsInOrder = ["reset", "unlock", "change", "details"];

/** Whoever meets a stop learns when to come back and whom to ask. */
function PausedPage({ until, attempt, onAgain }: { until: string; attempt: Attempt | null; onAgain: () => void }) {
  const { helpDesk } = useOrganisation();
  return (
    <div className="flex flex-col gap-5">
      <h1 className="text-2xl font-semibold">{texts.paused.title}</h1>
      <Notice tone="warn">
        <p>{texts.paused.says(until && moment(until))}</p>
        <p>{texts.urgent(helpDesk)}</p>
      </Notice>
      <Button large onClick={onAgain} className="self-start">
        {texts.tryAgain}
      </Button>
      {attempt && <ReferenceLine attempt={attempt} />}
    </div>
  );
}

function StartPage({
  gone,
  onStopped,
  onStarted,
}: {
  gone: string;
  onStopped: (problem: unknown) => boolean;
  onStarted: (attempt: Attempt, key: CryptoKeyPair) => void;
}) {
  const { actions, ready, helpDesk, paused } = useOrganisation();
  const [chosen, setChosen] = useState("");
  const possible = actionsInOrder.filter((action) => actions.includes(action));
  if (actions.length === 0) return null;
  const pauseOf = (action: string) => paused.find((one) => one.action === action);
  if (possible.length > 0 && possible.every(pauseOf)) {
    // The first one to go on tells when it makes sense to come back.
    const ends = paused
      .map((one) => one.until ?? "")
      .filter(Boolean)
      .sort();
    return <PausedPage until={ends[0] ?? ""} attempt={null} onAgain={() => location.reload()} />;
  }
  if (!ready) {
    return (
      <div className="flex flex-col gap-5">
        <h1 className="text-2xl font-semibold">{texts.notReady.title}</h1>
        <Notice tone="warn">
          <p>{texts.notReady.says}</p>
          <p>{texts.urgent(helpDesk)}</p>
        </Notice>
        <Button large onClick={() => location.reload()} className="self-start">
          {texts.tryAgain}
        </Button>
      </div>
    );
  }
  const action = chosen || (possible.length === 1 ? possible[0]! : "");
  if (action) {
    return (
      <NamePage
        gone={gone}
        action={action}
        onStopped={onStopped}
        onBack={possible.length > 1 ? () => setChosen("") : undefined}
        onStarted={onStarted}
      />
    );
  }
  return (
    <div className="flex flex-col gap-5">
      {gone && <Notice tone="warn">{gone}</Notice>}
      <h1 className="text-2xl font-semibold">{texts.start.title}</h1>
      <ul className="flex flex-col gap-3">
        {possible.map((one) => (
          <li key={one}>
            <button
              type="button"
              data-action={one}
              disabled={Boolean(pauseOf(one))}
              onClick={() => setChosen(one)}
              className="border-control bg-surface hover:bg-sunken disabled:bg-sunken disabled:border-line flex min-h-16 w-full items-center gap-3 rounded-lg border p-4 text-left"
            >
              <span className="flex min-w-0 flex-1 flex-col">
                <strong className="font-semibold">{texts.wishes[one]!.wish}</strong>
                <span className="text-muted">
                  {pauseOf(one)
                    ? texts.start.paused(pauseOf(one)!.until && moment(pauseOf(one)!.until))
                    : texts.wishes[one]!.about}
                </span>
              </span>
              {!pauseOf(one) && <ChevronRight aria-hidden className="text-muted size-5 shrink-0" />}
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}

function NamePage({
  gone,
  action,
  onStopped,
  onBack,
  onStarted,
}: {
  gone: string;
  action: string;
  onStopped: (problem: unknown) => boolean;
  onBack?: () => void;
  onStarted: (attempt: Attempt, key: CryptoKeyPair) => void;
}) {
  const { organisation } = useOrganisation();
  const [name, setName] = useState("");
  const { busy, error, setError, run } = useTask(onStopped);
  const heading = useRef<HTMLHeadingElement>(null);
  const [working, setWorking] = useState(false);

  async function start() {
    setWorking(false);
    const pair = await newAttemptKey();
    typedName(name);
    let attempt = await api.start(name, action, await publicHalf(pair), () => setWorking(true));
    await keep(attempt.reference, pair);
    signWith(attempt.reference, pair);
    const [only] = attempt.methods;
    if (only && attempt.methods.length === 1 && !before(only, attempt)) {
      attempt = await api.ask(only);
    }
    onStarted(attempt, pair);
  }

  function go(event: React.FormEvent) {
    event.preventDefault();
    if (name.trim()) void run(start);
    else setError(texts.start.nameMissing);
  }

  return (
    <form onSubmit={go} className="flex flex-col gap-5" noValidate>
      {gone && <Notice tone="warn">{gone}</Notice>}
      <div className="flex flex-col gap-2">
        <h1 ref={heading} className="text-2xl font-semibold">
          {texts.wishes[action]!.title}
        </h1>
        <p className="text-muted">{texts.wishes[action]!.says(organisation)}</p>
      </div>
      <Field
        large
        autoFocus
        label={texts.start.name}
        hint={texts.start.nameHint}
        name="username"
        autoComplete="username"
        autoCapitalize="none"
        spellCheck={false}
        maxLength={256}
        value={name}
        onChange={(event) => setName(event.target.value)}
        error={error}
      />
      <Button type="submit" look="primary" large busy={Boolean(busy)}>
        {texts.continue}
      </Button>
      {working && busy && <p role="status">{texts.start.working}</p>}
      {onBack && (
        <Button look="quiet" large onClick={onBack} className="self-start">
          {texts.back}
        </Button>
      )}
    </form>
  );
}
