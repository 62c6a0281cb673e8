import { Smartphone } from "lucide-react";
import { useEffect, useState } from "react";
import { api } from "../../portal/api";
import { Problem } from "../../shared/problem";
import { useTask } from "../../shared/task";
import { Button, Notice } from "../../shared/ui";
import type { Asking, MethodView } from "../method";
import { Trouble } from "../trouble";
import { en as words } from "./en";
import { SetUpDevice } from "./set-up";

const PAUSE = 2_000;

/** Shows the number and asks every two seconds whether a device has approved; nothing tells what else happened there. */
function AskDevice({ attempt, onChange, onGone, onRestart, onOtherWay }: Asking) {
  const challenge = attempt.challenge;
  const id = challenge?.id ?? "";
  const [over, setOver] = useState(false);
  const { busy, error, run } = useTask(onGone);

  useEffect(() => {
    let left = false;
    let timer: ReturnType<typeof setTimeout>;
    setOver(false);
    const look = async () => {
      try {
        const answered = await api.answer(id, {});
        if (!left) onChange(answered);
      } catch (problem) {
        if (left) return;
        // Without a connection it goes on trying; what waits is still there afterwards.
        if (!(problem instanceof Problem) || problem.status === 409 || problem.status >= 500) {
          timer = setTimeout(() => void look(), PAUSE);
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
        <h1 className="text-2xl font-semibold">{words.title}</h1>
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
      {over && (challenge?.challengesLeft ?? 0) > 0 && (
        <Button
          look="primary"
          large
          busy={Boolean(busy)}
          onClick={() => void run(async () => onChange(await api.ask("push")))}
        >
          {words.again}
        </Button>
      )}
      <Trouble title={words.trouble} attempt={attempt} onRestart={onRestart} onOtherWay={onOtherWay}>
        <li>{words.first}</li>
        <li>{words.notMine}</li>
      </Trouble>
    </div>
  );
}

const view: MethodView = {
  method: "push",
  icon: Smartphone,
  words,
  usually: { life: "3m", tries: "5", alone: "yes" },
  Ask: AskDevice,
  setUp: { start: () => words.add, ready: words.ready, Page: SetUpDevice },
};
export default view;
