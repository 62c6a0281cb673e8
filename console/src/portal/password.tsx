import { clsx } from "clsx";
import { Circle, CircleCheck } from "lucide-react";
import { useEffect, useState } from "react";
import { Heading } from "./heading";
import { Problem, said } from "../shared/problem";
import { Button, Field, Notice } from "../shared/ui";
import { api } from "./api";
import type { Sealing, Step } from "./api";
import { check } from "./rules";
import { Untrusted, seal } from "./seal";
import { ReferenceLine, useOrganisation } from "./shell";
import { texts } from "./texts";

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
      setError(texts.password.notMet);
      return;
    }
    if (changes && !old) {
      setError(texts.password.currentMissing);
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
            ? texts.password.untrusted(helpDesk, attempt.reference)
            : problem instanceof RangeError
              ? texts.password.tooLong
              : texts.password.notSent(attempt.reference),
      );
    }
  }

  return (
    <form onSubmit={(event) => void submit(event)} className="flex flex-col gap-5" noValidate>
      <div className="flex flex-col gap-2">
        <Heading>{changes ? texts.password.change : texts.password.choose}</Heading>
        {sealing && (
          <p className="text-muted">
            {texts.password.says(sealing.targets.flatMap((t) => t.accounts.map((a) => `${a.login} (${t.title})`)))}
          </p>
        )}
      </div>
      {refused.length > 0 && (
        <Notice tone="warn" title={texts.password.refusedBy(refused.map((account) => account.directory))}>
          <p>{refused[0]!.says}</p>
          {done.length > 0 && <p>{texts.password.setIn(done.map((account) => account.directory))}</p>}
        </Notice>
      )}
      {sealing && (
        // Lets the browser save the new password under the right account.
        <input
          type="text"
          name="username"
          autoComplete="username"
          readOnly
          tabIndex={-1}
          aria-hidden
          className="sr-only"
          value={sealing.targets[0]?.accounts[0]?.login ?? ""}
        />
      )}
      {changes && (
        <Field
          large
          label={texts.password.current}
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
          label={texts.password.new}
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
          {texts.password.show}
        </label>
      </div>
      {sealing && (
        <ul aria-label={texts.password.rules} aria-live="polite" className="flex flex-col gap-1.5">
          {checks.map((one) => (
            <li
              key={one.rule}
              data-rule={one.rule}
              data-met={one.met}
              className={clsx("flex gap-2", one.met && password ? "text-ok" : "text-muted")}
            >
              {one.met && password ? (
                <CircleCheck aria-label={texts.password.met} className="mt-0.5 size-5 shrink-0" />
              ) : (
                <Circle aria-label={texts.password.notYet} className="mt-0.5 size-5 shrink-0" />
              )}
              {texts.rule[one.rule](sealing.rules)}
            </li>
          ))}
          <li className="text-muted pl-7 text-sm">{texts.password.moreRules}</li>
        </ul>
      )}
      <Button type="submit" look="primary" large busy={busy} disabled={!sealing}>
        {changes ? texts.password.submitChange : texts.password.submitNew}
      </Button>
      <p className="text-muted text-sm">{texts.password.encrypted}</p>
      <ReferenceLine attempt={attempt} />
    </form>
  );
}
