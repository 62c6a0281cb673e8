import { ChevronRight } from "lucide-react";
import { useCallback, useEffect, useRef, useState } from "react";
import { Heading } from "./heading";
import { Problem } from "../shared/problem";
import { useTask } from "../shared/task";
import { Button, Field, Notice } from "../shared/ui";
import { before } from "../methods";
import { api, signWith } from "./api";
import type { Attempt, Step } from "./api";
import { ProvePage } from "./prove";
import { DetailsPage } from "./details";
import { PasswordPage } from "./password";
import { moment, ResultPage, WaitingPage } from "./result";
import { useBack } from "./back";
import { forget, hold, stay, takeUp } from "./hold";
import { IdleWatch } from "./idle";
import { forgetName, keepNothing, typedName } from "./remembered";
import { TermsPage } from "./terms";
import { UnlockPage } from "./unlock";
import { ReferenceLine, useLeave, useOrganisation } from "./shell";
import { newAttemptKey, publicHalf } from "./seal";
import { texts } from "./texts";

/** How long a code may take to arrive before the page is taken for left, in s. */
const WAITING_FOR_A_CODE = 600;
/** How long an outcome stays on screen without activity, in s. */
const OUTCOME = 120;
const HEARTBEAT = 5_000;

const over = ["attempt-gone", "attempt-elsewhere", "act-not-signed"];
const ended = (attempt: Attempt) => !["identified", "proving", "proved", "delivering"].includes(attempt.state);

/** The whole way of one person, one question a screen. What the service says decides which screen it is. */
export function Recovery() {
  const { organisation, shared, idleSeconds } = useOrganisation();
  const [attempt, setAttempt] = useState<Attempt | null>(null);
  const [key, setKey] = useState<CryptoKeyPair | null>(null);
  const [looked, setLooked] = useState(false);
  const [gone, setGone] = useState("");
  const [next, setNext] = useState("");
  const [asked, setAsked] = useState(false);
  const [stopped, setStopped] = useState<Problem | null>(null);
  const known = Boolean(organisation);

  // A reloaded page goes on where it was; any other begins anew.
  useEffect(() => {
    if (!known) return;
    keepNothing(shared);
    void (async () => {
      try {
        const held = await takeUp(idleSeconds, shared);
        if (held) {
          signWith(held.reference, held.pair);
          const found = await api.attempt();
          if (found) {
            setKey(held.pair);
            setAttempt(found);
          }
        }
      } catch {
        // The attempt of this page is over: the first screen it is.
      }
      setLooked(true);
    })();
    // Once, as soon as it is known where we are.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [known]);

  const restart = useCallback((why = "", action = "") => {
    void Promise.allSettled([api.leave(), forget()]);
    forgetName();
    setAttempt(null);
    setKey(null);
    setAsked(false);
    setStopped(null);
    setNext(action);
    setGone(why);
  }, []);

  const failed = useCallback(
    (problem: unknown) => {
      if (problem instanceof Problem && over.includes(problem.type)) {
        restart(problem.message);
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

  const proved = Boolean(attempt && attempt.proved.length > 0);
  const isOver = Boolean(attempt && ended(attempt));
  const leave = useCallback(() => restart(isOver ? "" : texts.leave.left), [isOver, restart]);
  useLeave(attempt ? leave : null);
  // What took effort is not lost by a slip of the thumb.
  useBack(!attempt ? undefined : proved && !isOver ? () => setAsked(true) : () => restart());

  useEffect(() => {
    if (!attempt) return;
    const timer = setInterval(stay, HEARTBEAT);
    // A page restored from the back/forward cache may have another person in front of it.
    const shown = (event: PageTransitionEvent) => {
      if (event.persisted) restart();
    };
    window.addEventListener("pagehide", stay);
    window.addEventListener("pageshow", shown);
    return () => {
      clearInterval(timer);
      window.removeEventListener("pagehide", stay);
      window.removeEventListener("pageshow", shown);
    };
  }, [attempt, restart]);

  const done = isOver && !attempt?.mayGoOn;
  useEffect(() => {
    // What is over is shown by this page alone, and by none that is loaded again.
    if (done) void forget();
  }, [done]);

  const onPresent = useCallback(() => {
    if (proved && !isOver) void api.present().catch(failed);
  }, [proved, isOver, failed]);

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
        key={next}
        begins={next}
        gone={gone}
        onStopped={failed}
        onStarted={(started, pair) => {
          setGone("");
          setNext("");
          setKey(pair);
          setAttempt(started);
        }}
      />
    );
  }
  const seconds = isOver
    ? Math.min(OUTCOME, idleSeconds)
    : proved
      ? idleSeconds
      : Math.max(WAITING_FOR_A_CODE, idleSeconds);
  return (
    <div className="flex flex-col gap-5">
      <IdleWatch
        key={seconds}
        seconds={seconds}
        onOver={() => restart(isOver ? "" : texts.idle.over)}
        onPresent={onPresent}
      />
      {asked && <LeaveQuestion onStay={() => setAsked(false)} onLeave={leave} />}
      <Page attempt={attempt} attemptKey={key} onChange={setAttempt} onGone={failed} onRestart={restart} />
    </div>
  );
}

function Page({
  onRestart,
  attemptKey,
  ...step
}: Omit<Step, "onRestart"> & { attemptKey: CryptoKeyPair; onRestart: (why?: string, action?: string) => void }) {
  const { attempt } = step;
  switch (attempt.state) {
    case "identified":
    case "proving":
      return <ProvePage {...step} onRestart={() => onRestart()} />;
    case "proved":
      if (attempt.terms) return <TermsPage {...step} onRestart={() => onRestart()} />;
      if (attempt.action === "details") return <DetailsPage {...step} />;
      return attempt.action === "unlock" ? (
        <UnlockPage {...step} attemptKey={attemptKey} />
      ) : (
        <PasswordPage {...step} attemptKey={attemptKey} />
      );
    case "delivering":
      return <WaitingPage {...step} />;
    default:
      return <ResultPage {...step} onRestart={(action) => onRestart("", action)} />;
  }
}

/** Going back from what was verified already would lose it. */
function LeaveQuestion({ onStay, onLeave }: { onStay: () => void; onLeave: () => void }) {
  const stay = useRef<HTMLDivElement>(null);
  useEffect(() => stay.current?.querySelector("button")?.focus(), []);
  return (
    <div ref={stay} role="alertdialog" aria-label={texts.leave.ask}>
      <Notice tone="warn" title={texts.leave.ask}>
        <p>{texts.leave.says}</p>
        <div className="flex flex-wrap gap-2">
          <Button onClick={onStay}>{texts.leave.stay}</Button>
          <Button look="danger" onClick={onLeave}>
            {texts.leave.go}
          </Button>
        </div>
      </Notice>
    </div>
  );
}

const actionsInOrder = ["reset", "unlock", "change", "details"];

/** Whoever meets a stop learns when to come back and whom to ask. */
function PausedPage({ until, attempt, onAgain }: { until: string; attempt: Attempt | null; onAgain: () => void }) {
  const { helpDesk } = useOrganisation();
  return (
    <div className="flex flex-col gap-5">
      <Heading>{texts.paused.title}</Heading>
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
  begins,
  gone,
  onStopped,
  onStarted,
}: {
  /** The action preselected after an outcome; empty for none. */
  begins: string;
  gone: string;
  onStopped: (problem: unknown) => boolean;
  onStarted: (attempt: Attempt, key: CryptoKeyPair) => void;
}) {
  const { actions, ready, helpDesk, paused } = useOrganisation();
  const [chosen, setChosen] = useState(begins);
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
        <Heading>{texts.notReady.title}</Heading>
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
      <Heading>{texts.start.title}</Heading>
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
  const { organisation, shared } = useOrganisation();
  useBack(onBack);
  const [name, setName] = useState("");
  const { busy, error, setError, run } = useTask(onStopped);
  const [working, setWorking] = useState(false);

  async function start() {
    setWorking(false);
    const pair = await newAttemptKey();
    typedName(name);
    let attempt = await api.start(name, action, await publicHalf(pair), () => setWorking(true));
    await hold(attempt.reference, pair, shared);
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
        <Heading>{texts.wishes[action]!.title}</Heading>
        <p className="text-muted">{texts.wishes[action]!.says(organisation)}</p>
      </div>
      <Field
        large
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
