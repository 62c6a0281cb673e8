import { useEffect, useState } from "react";
import type { ReactNode } from "react";
import { Heading } from "../portal/heading";
import { api, serviceTime } from "../portal/api";
import type { Attempt } from "../portal/api";
import { useOrganisation } from "../portal/shell";
import { texts } from "../portal/texts";
import { Problem, said } from "../shared/problem";
import { Button, Field, Notice } from "../shared/ui";
import type { Asking, MethodWords } from "./method";
import { Trouble } from "./trouble";

interface CodeWords extends MethodWords {
  field: string;
  tooShort: string;
  what: (organisation: string) => string;
  trouble: string;
  first: string;
}

interface Props extends Asking {
  words: CodeWords;
  placeholder: string;
  /** How many letters and digits a code may have, without what separates them. */
  lengths: number[];
  digits?: boolean;
  /** Whether the code is sent, and can be sent again. */
  sent?: boolean;
  autoComplete?: string;
  /** A second code that is typed with the first. */
  more?: { typed: string; clear: () => void; field: ReactNode };
  /** What else may help. */
  help?: ReactNode;
}

/** Type the code. Nothing here tells whether a code was sent to anybody. */
export function CodePage({
  attempt,
  onChange,
  onGone,
  onRestart,
  onOtherWay,
  onAgain,
  words,
  placeholder,
  lengths,
  digits,
  sent,
  autoComplete = "one-time-code",
  more,
  help,
}: Props) {
  const { organisation } = useOrganisation();
  const [code, setCode] = useState("");
  const [error, setError] = useState("");
  const [sentAgain, setSentAgain] = useState(false);
  const [busy, setBusy] = useState<"" | "answer" | "again">("");
  const minutes = useMinutesUntil(attempt.challenge?.expiresAt);
  const challengesLeft = attempt.challenge?.challengesLeft ?? 0;
  // After the last try there is only a new code to be had.
  const spent = attempt.challenge?.triesLeft === 0 || (sent && minutes === 0 && expired(attempt));
  const late = useLate(attempt.challenge?.id);

  async function act(what: "answer" | "again", work: () => Promise<Attempt>) {
    setBusy(what);
    setError("");
    setSentAgain(false);
    try {
      onChange(await work());
      setCode("");
      more?.clear();
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
    const whole = (typed: string) => lengths.includes(typed.replace(/[\s-]/g, "").length);
    if (!whole(code) || (more && !whole(more.typed))) {
      setError(words.tooShort);
      return;
    }
    void act("answer", () => api.answer(attempt.challenge?.id ?? "", { code: more ? `${code} ${more.typed}` : code }));
  }

  return (
    <form onSubmit={answer} className="flex flex-col gap-5" noValidate>
      <div className="flex flex-col gap-2">
        <Heading>{words.title}</Heading>
        <p className="text-muted">{words.what(organisation)}</p>
      </div>
      {sentAgain && <Notice tone="info">{texts.code.sentAgain}</Notice>}
      {spent ? (
        <>
          <Notice tone="warn">
            <p>{error || (expired(attempt) ? texts.code.expired : texts.code.spent)}</p>
            {challengesLeft === 0 && <p>{texts.code.noneLeft}</p>}
          </Notice>
          {challengesLeft > 0 ? (
            <Button
              look="primary"
              large
              busy={busy === "again"}
              onClick={onAgain ?? (() => void act("again", () => api.ask(attempt.challenge?.method ?? "")))}
            >
              {sent ? texts.code.send : texts.code.askAgain}
            </Button>
          ) : (
            <Button look="primary" large onClick={onRestart}>
              {texts.startAgain}
            </Button>
          )}
        </>
      ) : (
        <>
          <Field
            large
            key={attempt.challenge?.id}
            label={words.field}
            hint={!sent ? undefined : minutes > 0 ? texts.code.valid(minutes) : texts.code.expired}
            name="code"
            inputMode={digits ? "numeric" : "text"}
            autoComplete={autoComplete}
            autoCapitalize="none"
            spellCheck={false}
            maxLength={30}
            placeholder={placeholder}
            className="tracking-widest"
            value={code}
            onChange={(event) => setCode(event.target.value)}
            error={error}
          />
          {more?.field}
          <Button type="submit" look="primary" large busy={busy === "answer"}>
            {texts.continue}
          </Button>
        </>
      )}
      {sent && late && (
        <Notice tone="info" title={texts.code.nothingYet}>
          <p>{texts.code.nothingSays}</p>
        </Notice>
      )}
      <Trouble
        title={words.trouble}
        attempt={attempt}
        onRestart={onRestart}
        onOtherWay={onOtherWay}
        last={<li>{texts.code.strangers}</li>}
      >
        <li>{words.first}</li>
        {help}
        <li className={sent ? undefined : "hidden"}>
          {challengesLeft > 0 ? (
            <>
              <Button
                busy={busy === "again"}
                onClick={onAgain ?? (() => void act("again", () => api.ask(attempt.challenge?.method ?? "")))}
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
      </Trouble>
    </form>
  );
}

const expired = (attempt: Attempt) => Date.parse(attempt.challenge?.expiresAt ?? "") <= serviceTime();

const LATE = 45_000;

/** Whether something was asked for a while ago, so that what to do when nothing comes is said to everybody. */
export function useLate(challenge: string | undefined): boolean {
  const [late, setLate] = useState(false);
  useEffect(() => {
    setLate(false);
    const timer = setTimeout(() => setLate(true), LATE);
    return () => clearTimeout(timer);
  }, [challenge]);
  return late;
}

function useMinutesUntil(time: string | undefined): number {
  const [now, setNow] = useState(serviceTime);
  useEffect(() => {
    const timer = setInterval(() => setNow(serviceTime()), 15_000);
    return () => clearInterval(timer);
  }, []);
  return Math.max(0, Math.round(((time ? Date.parse(time) : 0) - now) / 60_000));
}
