import { CircleCheck, CircleHelp, CircleX, LoaderCircle } from "lucide-react";
import { useEffect, useState } from "react";
import { useTask } from "../shared/task";
import { Button, Notice } from "../shared/ui";
import { api } from "./api";
import type { AccountResult, Attempt, Step } from "./api";
import { ReferenceLine, useOrganisation } from "./shell";

const headings: Record<string, { working: string; done: string; not: string }> = {
  reset: {
    working: "Setting your new password",
    done: "Your new password works",
    not: "Your password hasn’t changed",
  },
  change: { working: "Changing your password", done: "Your new password works", not: "Your password hasn’t changed" },
  details: { working: "Saving", done: "You’re all set", not: "Nothing has changed" },
  unlock: { working: "Unlocking your account", done: "Your account is unlocked", not: "Your account is still locked" },
};

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
    let open = true;
    const events = new EventSource("/api/v1/portal/attempt/updates");
    events.onmessage = (message) => open && onChange(JSON.parse(message.data as string) as Attempt);
    const timer = setInterval(() => {
      setSlow(Date.now() - begun > 8000);
      if (events.readyState !== EventSource.OPEN) {
        api.attempt().then(
          (found) => open && found && onChange(found),
          (problem) => open && onGone(problem),
        );
      }
    }, 2000);
    return () => {
      open = false;
      events.close();
      clearInterval(timer);
    };
  }, [begun, onChange, onGone]);

  return (
    <div className="flex flex-col gap-5">
      <h1 className="text-2xl font-semibold" aria-live="polite">
        {headings[attempt.action]?.working ?? headings.reset!.working}
      </h1>
      <Accounts accounts={attempt.accounts} unlock={attempt.action === "unlock"} />
      {(attempt.waiting || slow) && (
        <Notice tone="info" title="Still trying">
          <p>
            This is taking longer than usual. You can close this page: we’ll e-mail you when it’s done. Until then, your
            current password stays the same.
          </p>
          <p>If it’s urgent, contact the help desk: {helpDesk}.</p>
        </Notice>
      )}
      <ReferenceLine attempt={attempt} />
    </div>
  );
}

/** What came of it, told as it is. */
export function ResultPage({ attempt, onChange, onGone, onRestart }: Step) {
  const { helpDesk } = useOrganisation();
  const { busy, error, run } = useTask(onGone);
  const unlock = attempt.action === "unlock";
  const heading = headings[attempt.action] ?? headings.reset!;

  // What is not certain may be settled while the page is open.
  const unsettled = attempt.accounts.some((account) => account.state === "unknown");
  useEffect(() => {
    if (!unsettled) return;
    const timer = setInterval(() => void api.attempt().then((found) => found && onChange(found), onGone), 5000);
    return () => clearInterval(timer);
  }, [unsettled, onChange, onGone]);

  const goOn = () => run(async () => onChange(await api.goOn()));

  const completed = attempt.state === "completed";
  const unknown = attempt.accounts.some((account) => account.state === "unknown");
  const title = completed
    ? heading.done
    : attempt.state === "incomplete"
      ? unknown
        ? "We’re not sure it worked"
        : "Partly done"
      : attempt.state === "blocked"
        ? "No tries left"
        : attempt.state === "expired"
          ? "You ran out of time"
          : heading.not;
  return (
    <div className="flex flex-col gap-5">
      <h1 className="text-2xl font-semibold">{title}</h1>
      {completed && unlock ? (
        <p className="text-muted">Sign in with your usual password. We’ve also e-mailed you about this.</p>
      ) : completed && attempt.action === "details" ? (
        <p className="text-muted">
          Next time you forget your password, you can use the methods you’ve set up. We’ve e-mailed you about each
          change.
        </p>
      ) : completed ? (
        <p className="text-muted">
          Use it from now on. It can take a few minutes to reach every office, so some systems may still ask for the old
          one. We’ve also e-mailed you about this.
        </p>
      ) : attempt.state === "blocked" || attempt.state === "expired" ? (
        <p className="text-muted">Nothing has changed. Start again when you can read your e-mail.</p>
      ) : null}
      <Accounts accounts={attempt.accounts} unlock={attempt.action === "unlock"} />
      {!completed && (
        <Notice tone="info">
          <p>
            The help desk can see what happened: {helpDesk}. Give them the reference{" "}
            <strong className="font-mono whitespace-nowrap">{attempt.reference}</strong>.
          </p>
        </Notice>
      )}
      {error && <Notice tone="bad">{error}</Notice>}
      {attempt.mayGoOn && (
        <Button look={completed ? "plain" : "primary"} large busy={Boolean(busy)} onClick={() => void goOn()}>
          {completed ? "Choose a new password after all" : unlock ? "Try again" : "Try again for the rest"}
        </Button>
      )}
      {!completed && (
        <Button large onClick={onRestart} className="self-start">
          Start again
        </Button>
      )}
    </div>
  );
}

const words: Record<string, string> = {
  waiting: "waiting",
  working: "being set",
  done: "new password set",
  refused: "refused",
  failed: "not changed",
  unknown: "not sure",
};

/** A moment in the near future, in the person's own time zone and words. */
export function moment(time: string): string {
  const at = new Date(time);
  const days = Math.round((new Date(at).setHours(0, 0, 0, 0) - new Date().setHours(0, 0, 0, 0)) / 86_400_000);
  const clock = at.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  if (days === 0) return `today at ${clock}`;
  if (days === 1) return `tomorrow at ${clock}`;
  return `on ${at.toLocaleDateString("en-GB", { weekday: "long", day: "numeric", month: "long" })} at ${clock}`;
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
              {(unlock ? unlockWords[account.state] : undefined) ?? words[account.state] ?? account.state}
            </span>
            {account.says && <span>{account.says}</span>}
            {account.retryAt && <span>You can change it again {moment(account.retryAt)}.</span>}
          </div>
        </li>
      ))}
    </ul>
  );
}

const unlockWords: Record<string, string> = { working: "being unlocked", done: "unlocked", failed: "not unlocked" };

function AccountIcon({ state }: { state: string }) {
  const shape = "mt-0.5 size-5 shrink-0";
  if (state === "done") return <CircleCheck aria-hidden className={`${shape} text-ok`} />;
  if (state === "unknown") return <CircleHelp aria-hidden className={`${shape} text-warn`} />;
  if (state === "refused" || state === "failed") return <CircleX aria-hidden className={`${shape} text-bad`} />;
  return <LoaderCircle aria-hidden className={`${shape} text-accent animate-spin`} />;
}
