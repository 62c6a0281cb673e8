import { useEffect, useState } from "react";
import type { ReactNode } from "react";
import { Heading } from "../portal/heading";
import { api, serviceTime } from "../portal/api";
import { Problem } from "../shared/problem";
import { useTask } from "../shared/task";
import { Button, Notice } from "../shared/ui";
import { texts } from "../portal/texts";
import { useLate } from "./code-page";
import type { Asking } from "./method";
import { Trouble } from "./trouble";

const PAUSE = 2_000;

interface WaitingWords {
  title: string;
  what: ReactNode;
  /** What the number is, for whoever hears the page. */
  number: string;
  waiting: string;
  expired: string;
  again: string;
  trouble: string;
}

/**
 * Shows the number and asks every two seconds whether it was agreed to elsewhere; nothing tells what else happened there.
 * `children` are what may help.
 */
export function WaitingPage({
  method,
  words,
  attempt,
  onChange,
  onGone,
  onRestart,
  onOtherWay,
  children,
}: Asking & { method: string; words: WaitingWords; children: ReactNode }) {
  const challenge = attempt.challenge;
  const id = challenge?.id ?? "";
  const ends = Date.parse(challenge?.expiresAt ?? "") || Infinity;
  const late = useLate(id);
  const [over, setOver] = useState(false);
  const { busy, error, run } = useTask(onGone);

  useEffect(() => {
    let left = false;
    let timer: ReturnType<typeof setTimeout>;
    setOver(false);
    const again = () => {
      if (serviceTime() >= ends) setOver(true);
      else timer = setTimeout(() => void look(), PAUSE);
    };
    const look = async () => {
      try {
        const answered = await api.answer(id, {});
        if (left) return;
        // While nothing is there, the challenge is still the one that waits.
        if (answered.state === "proving" && answered.challenge?.id === id) again();
        else onChange(answered);
      } catch (problem) {
        if (left) return;
        // Without a connection it goes on trying; what waits is still there afterwards.
        if (!(problem instanceof Problem) || problem.status === 0 || problem.status >= 500) {
          again();
        } else if (problem.status === 410 && !problem.type.endsWith("attempt-gone")) {
          setOver(true);
        } else {
          onGone(problem);
        }
      }
    };
    timer = setTimeout(() => void look(), PAUSE);
    return () => {
      left = true;
      clearTimeout(timer);
    };
    // The page waits for one challenge, whatever else about the attempt changes.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [id]);

  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-col gap-2">
        <Heading>{words.title}</Heading>
        <p className="text-muted">{words.what}</p>
      </div>
      <p
        role="img"
        aria-label={`${words.number}: ${challenge?.parts.number ?? ""}`}
        className="border-line bg-surface rounded-lg border py-5 text-center text-[3.5rem] leading-none font-semibold tracking-widest"
      >
        {challenge?.parts.number}
      </p>
      {error && <Notice tone="bad">{error}</Notice>}
      {over ? <Notice tone="warn">{words.expired}</Notice> : <p role="status">{words.waiting}</p>}
      {late && !over && (
        <Notice tone="info" title={texts.code.nothingYet}>
          <p>{texts.code.nothingSays}</p>
        </Notice>
      )}
      {over && (challenge?.challengesLeft ?? 0) === 0 && (
        <Button look="primary" large onClick={onRestart}>
          {texts.startAgain}
        </Button>
      )}
      {over && (challenge?.challengesLeft ?? 0) > 0 && (
        <Button
          look="primary"
          large
          busy={Boolean(busy)}
          onClick={() => void run(async () => onChange(await api.ask(method)))}
        >
          {words.again}
        </Button>
      )}
      <Trouble title={words.trouble} attempt={attempt} onRestart={onRestart} onOtherWay={onOtherWay}>
        {children}
      </Trouble>
    </div>
  );
}
