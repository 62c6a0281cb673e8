import { MonitorCheck } from "lucide-react";
import { useEffect } from "react";
import { Heading } from "../../portal/heading";
import { api } from "../../portal/api";
import { useTask } from "../../shared/task";
import { Button, Notice } from "../../shared/ui";
import type { Asking, MethodView } from "../method";
import { en as words } from "./en";

/** The browser itself is the answer: nothing is asked of the person. */
function AskDevice({ attempt, onChange, onGone, onRestart, onOtherWay }: Asking) {
  const id = attempt.challenge?.id ?? "";
  const { error, run } = useTask(onGone);

  useEffect(() => {
    void run(async () => onChange(await api.answer(id, {})));
    // One answer for each challenge, whatever else about the attempt changes.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [id]);

  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-col gap-2">
        <Heading>{words.title}</Heading>
        <p className="text-muted" role="status">
          {error ? words.failed : words.what}
        </p>
      </div>
      {error && <Notice tone="bad">{error}</Notice>}
      {error && (
        <Button look="primary" large onClick={onOtherWay ?? onRestart}>
          {words.otherWay}
        </Button>
      )}
    </div>
  );
}

const view: MethodView = {
  method: "known-device",
  icon: MonitorCheck,
  words: { ...words },
  usually: { tries: "3", alone: "no" },
  Ask: AskDevice,
  listed: (_, since) => words.listed(since),
};
export default view;
