import { CircleCheck, CircleHelp, CircleX, LoaderCircle } from "lucide-react";
import { useEffect, useState } from "react";
import { Heading } from "./heading";
import { useTask } from "../shared/task";
import { Button, Notice } from "../shared/ui";
import { api } from "./api";
import type { AccountResult, Attempt, Step } from "./api";
import { ReferenceLine, useOrganisation } from "./shell";
import { succeeded } from "./remembered";
import { texts } from "./texts";

/** While stewards are at work. Events arrive by themselves; asking from time to time makes up for what gets lost. */
export function WaitingPage({
  attempt,
  onChange,
  onGone,
}: {
  attempt: Attempt;
  onChange: (attempt: Attempt) => void;
  onGone: (problem: unknown) => boolean;
}) {
  const { helpDesk } = useOrganisation();
  const [begun] = useState(Date.now());
  const [slow, setSlow] = useState(false);

  useEffect(() => {
    const enough = new AbortController();
    const open = () => !enough.signal.aborted;
    let hears = false;
    const listen = async () => {
      while (open()) {
        try {
          hears = true;
          await api.updates((found) => open() && onChange(found), enough.signal);
        } catch {
          // Asking makes up for it.
        }
        hears = false;
        await new Promise((resolve) => setTimeout(resolve, 1000));
      }
    };
    void listen();
    const timer = setInterval(() => {
      setSlow(Date.now() - begun > 8000);
      if (!hears) {
        api.attempt().then(
          (found) => open() && found && onChange(found),
          (problem) => open() && onGone(problem),
        );
      }
    }, 2000);
    return () => {
      enough.abort();
      clearInterval(timer);
    };
  }, [begun, onChange, onGone]);

  return (
    <div className="flex flex-col gap-5">
      <Heading live>{(texts.outcomes[attempt.action] ?? texts.outcomes.reset!).working}</Heading>
      <Accounts accounts={attempt.accounts} unlock={attempt.action === "unlock"} />
      {(attempt.waiting || slow) && (
        <Notice tone="info" title={texts.waiting.title}>
          <p>
            {texts.waiting.says}
            {attempt.mailed && ` ${texts.waiting.saysToo}`}
          </p>
          <p>{texts.urgent(helpDesk)}</p>
        </Notice>
      )}
      <ReferenceLine attempt={attempt} />
    </div>
  );
}

/** What came of it, told as it is. */
export function ResultPage({
  attempt,
  onChange,
  onGone,
  onRestart,
}: Omit<Step, "onRestart"> & { /** With what comes next, if that is known. */ onRestart: (action?: string) => void }) {
  const { helpDesk, signIn, actions } = useOrganisation();
  const { busy, error, run } = useTask(onGone);
  const unlock = attempt.action === "unlock";
  const heading = texts.outcomes[attempt.action] ?? texts.outcomes.reset!;

  // What is not certain may be settled while the page is open.
  const unsettled = attempt.accounts.some((account) => account.state === "unknown");
  useEffect(() => {
    if (!unsettled) return;
    const timer = setInterval(() => void api.attempt().then((found) => found && onChange(found), onGone), 5000);
    return () => clearInterval(timer);
  }, [unsettled, onChange, onGone]);

  const goOn = () => run(async () => onChange(await api.goOn()));

  const completed = attempt.state === "completed";
  useEffect(() => {
    if (completed) succeeded();
  }, [completed]);
  const unknown = attempt.accounts.some((account) => account.state === "unknown");
  const told = attempt.mailed ? ` ${texts.result.told}` : "";
  const title = completed
    ? heading.done
    : attempt.state === "incomplete"
      ? unknown
        ? texts.result.unsure
        : texts.result.partly
      : attempt.state === "blocked"
        ? texts.result.blocked
        : attempt.state === "expired"
          ? texts.result.expired
          : heading.not;
  return (
    <div className="flex flex-col gap-5">
      <Heading>{title}</Heading>
      {completed && unlock ? (
        <p className="text-muted">
          {texts.result.unlocked}
          {told}
        </p>
      ) : completed && attempt.action === "details" ? (
        <p className="text-muted">
          {texts.result.prepared}
          {told}
        </p>
      ) : completed ? (
        <p className="text-muted">
          {texts.result.reset}
          {told}
        </p>
      ) : attempt.state === "blocked" || attempt.state === "expired" ? (
        <p className="text-muted">{texts.result.nothing}</p>
      ) : null}
      <Accounts accounts={attempt.accounts} unlock={attempt.action === "unlock"} />
      {!completed && (
        <Notice tone="info">
          <p>
            {texts.result.helpDesk(helpDesk)}{" "}
            <strong className="font-mono whitespace-nowrap">{attempt.reference}</strong>.
          </p>
        </Notice>
      )}
      {error && <Notice tone="bad">{error}</Notice>}
      {attempt.mayGoOn && (
        <Button look={completed ? "plain" : "primary"} large busy={Boolean(busy)} onClick={() => void goOn()}>
          {completed ? texts.result.chooseNew : unlock ? texts.tryAgain : texts.result.rest}
        </Button>
      )}
      {completed && signIn && attempt.action !== "details" && (
        <a
          href={signIn}
          className="bg-accent text-on-accent hover:bg-accent-hover text-md inline-flex min-h-11 items-center justify-center rounded-md px-5 font-medium"
        >
          {texts.result.signIn}
        </a>
      )}
      {completed && attempt.action !== "details" && actions.includes("details") && (
        <Button large onClick={() => onRestart("details")}>
          {texts.result.prepare}
        </Button>
      )}
      <Button large look={completed ? "quiet" : "plain"} onClick={() => onRestart()} className="self-start">
        {completed ? texts.result.finish : texts.startAgain}
      </Button>
    </div>
  );
}

/** A moment in the near future, in the person's own time zone and words. */
export function moment(time: string): string {
  const at = new Date(time);
  const days = Math.round((new Date(at).setHours(0, 0, 0, 0) - new Date().setHours(0, 0, 0, 0)) / 86_400_000);
  return texts.moment(at, days);
}

function Accounts({ accounts, unlock }: { accounts: AccountResult[]; unlock: boolean }) {
  if (accounts.length === 0) return null;
  return (
    <ul className="divide-line border-line bg-surface flex flex-col divide-y rounded-lg border">
      {accounts.map((account) => (
        <li key={account.directory + account.login} data-state={account.state} className="flex gap-3 p-4">
          <AccountIcon state={account.state} />
          <div className="flex min-w-0 flex-col gap-1">
            <span>
              <strong className="font-semibold">{account.directory}</strong>{" "}
              <span className="text-muted break-all">{account.login}</span>
            </span>
            <span className="text-muted">
              {(unlock ? texts.result.unlockStates[account.state] : undefined) ??
                texts.result.states[account.state] ??
                account.state}
            </span>
            {account.says && <span>{account.says}</span>}
            {account.retryAt && <span>{texts.result.retryAt(moment(account.retryAt))}</span>}
          </div>
        </li>
      ))}
    </ul>
  );
}

function AccountIcon({ state }: { state: string }) {
  const shape = "mt-0.5 size-5 shrink-0";
  if (state === "done") return <CircleCheck aria-hidden className={`${shape} text-ok`} />;
  if (state === "unknown") return <CircleHelp aria-hidden className={`${shape} text-warn`} />;
  if (state === "refused" || state === "failed") return <CircleX aria-hidden className={`${shape} text-bad`} />;
  return <LoaderCircle aria-hidden className={`${shape} text-accent animate-spin`} />;
}
