import { clsx } from "clsx";
import { Circle, CircleCheck } from "lucide-react";
import { useEffect, useState } from "react";
import { Problem, said } from "../shared/problem";
import { Button, Field, Notice } from "../shared/ui";
import { api } from "./api";
import type { Sealing, Step } from "./api";
import { check, say } from "./rules";
import { Untrusted, seal } from "./seal";
import { ReferenceLine, useOrganisation } from "./shell";

/** Choose a password: the rules are ticked while typing, and nothing but the seal leaves this page. */
export function PasswordPage({
  attempt,
  attemptKey,
  onChange,
  onGone,
}: Omit<Step, "onRestart"> & { attemptKey: CryptoKeyPair }) {
  const { helpDesk } = useOrganisation();
  const [sealing, setSealing] = useState<Sealing | null>(null);
  const [password, setPassword] = useState("");
  const [old, setOld] = useState("");
  const changes = attempt.action === "change";
  const [shown, setShown] = useState(false);
  const [error, setError] = useState("");
  const [busy, setBusy] = useState(false);
  const refused = attempt.accounts.filter((account) => account.state === "refused");
  const done = attempt.accounts.filter((account) => account.state === "done");

  useEffect(() => {
    let open = true;
    api.sealing().then(
      (found) => open && setSealing(found),
      (problem) => open && !onGone(problem) && setError(said(problem)),
    );
    return () => {
      open = false;
    };
  }, [attempt.reference, onGone]);

  const checks = sealing ? check(sealing.rules, password, sealing.details) : [];
  const met = checks.length > 0 && checks.every((one) => one.met);

  async function submit(event: React.FormEvent) {
    event.preventDefault();
    if (!sealing) return;
    if (!met) {
      setError("This password doesn’t meet all the rules yet. Check the list below.");
      return;
    }
    if (changes && !old) {
      setError("Type your current password too.");
      return;
    }
    setBusy(true);
    setError("");
    try {
      // Rosters and keys are asked for anew: the page may have been open for a while.
      const fresh = await api.sealing();
      const sealed = [];
      for (const target of fresh.targets) {
        sealed.push(await seal(fresh, target, password, attemptKey, changes ? old : undefined));
      }
      setPassword("");
      setOld("");
      onChange(await api.passwords(sealed));
    } catch (problem) {
      setBusy(false);
      if (onGone(problem)) return;
      setError(
        problem instanceof Problem
          ? problem.message
          : problem instanceof Untrusted
            ? `We stopped, and your password wasn’t sent: the list of who may receive it isn’t signed correctly. Give the help desk (${helpDesk}) the reference ${attempt.reference}.`
            : `Something went wrong, and your password wasn’t sent. Try again. The reference is ${attempt.reference}.`,
      );
    }
  }

  return (
    <form onSubmit={(event) => void submit(event)} className="flex flex-col gap-5" noValidate>
      <div className="flex flex-col gap-2">
        <h1 className="text-2xl font-semibold">{changes ? "Change your password" : "Choose a new password"}</h1>
        {sealing && (
          <p className="text-muted">
            For {sealing.targets.flatMap((t) => t.accounts.map((a) => `${a.login} (${t.title})`)).join(" and ")}. Three
            or four unrelated words and a digit make a good password.
          </p>
        )}
      </div>
      {refused.length > 0 && (
        <Notice tone="warn" title={`Not accepted by ${refused.map((account) => account.directory).join(" and ")}`}>
          <p>{refused[0]!.says}</p>
          {done.length > 0 && <p>It’s already set in {done.map((account) => account.directory).join(" and ")}.</p>}
        </Notice>
      )}
      {changes && (
        <Field
          large
          autoFocus
          label="Current password"
          name="current-password"
          type={shown ? "text" : "password"}
          autoComplete="current-password"
          autoCapitalize="none"
          spellCheck={false}
          maxLength={128}
          value={old}
          onChange={(event) => setOld(event.target.value)}
        />
      )}
      <div className="flex flex-col gap-2">
        <Field
          large
          autoFocus={!changes}
          label="New password"
          name="new-password"
          type={shown ? "text" : "password"}
          autoComplete="new-password"
          autoCapitalize="none"
          spellCheck={false}
          maxLength={128}
          value={password}
          onChange={(event) => {
            setPassword(event.target.value);
            setError("");
          }}
          error={error}
        />
        <label className="flex min-h-6 items-center gap-2 self-start">
          <input
            type="checkbox"
            className="accent-accent size-5"
            checked={shown}
            onChange={(event) => setShown(event.target.checked)}
          />
          Show password
        </label>
      </div>
      {sealing && (
        <ul aria-label="Rules" aria-live="polite" className="flex flex-col gap-1.5">
          {checks.map((one) => (
            <li
              key={one.rule}
              data-rule={one.rule}
              data-met={one.met}
              className={clsx("flex gap-2", one.met && password ? "text-ok" : "text-muted")}
            >
              {one.met && password ? (
                <CircleCheck aria-label="met:" className="mt-0.5 size-5 shrink-0" />
              ) : (
                <Circle aria-label="not yet:" className="mt-0.5 size-5 shrink-0" />
              )}
              {say(one.rule, sealing.rules)}
            </li>
          ))}
          <li className="text-muted pl-7 text-sm">
            Your organisation’s directory may have more rules, such as no password you’ve used before.
          </li>
        </ul>
      )}
      <Button type="submit" look="primary" large busy={busy} disabled={!sealing}>
        {changes ? "Change password" : "Set new password"}
      </Button>
      <p className="text-muted text-sm">
        Your password is encrypted on this device before it’s sent. No one in between can read it.
      </p>
      <ReferenceLine attempt={attempt} />
    </form>
  );
}
