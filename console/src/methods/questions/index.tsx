import { MessageCircleQuestion } from "lucide-react";
import { useState } from "react";
import { Heading } from "../../portal/heading";
import { api } from "../../portal/api";
import { texts } from "../../portal/texts";
import { useTask } from "../../shared/task";
import { Button, Field } from "../../shared/ui";
import type { Asking, MethodView } from "../method";
import { Trouble } from "../trouble";
import { en as words } from "./en";
import { SetUpQuestions } from "./set-up";
import { inLanguage, under } from "./texts";

function AskQuestions({ attempt, onChange, onGone, onRestart, onOtherWay }: Asking) {
  const parts = attempt.challenge?.parts ?? {};
  const numbers = Array.from({ length: Number(parts.count) || 0 }, (_, at) => String(at + 1));
  const [answers, setAnswers] = useState<Record<string, string>>({});
  const [shown, setShown] = useState(parts.shown === "true");
  const { busy, error, setError, run } = useTask(onGone);

  function go(event: React.FormEvent) {
    event.preventDefault();
    if (numbers.some((n) => !answers[n]?.trim())) {
      setError(words.missing);
      return;
    }
    void run(async () => onChange(await api.answer(attempt.challenge?.id ?? "", { parts: answers })));
  }

  return (
    <form onSubmit={go} className="flex flex-col gap-5" noValidate>
      <div className="flex flex-col gap-2">
        <Heading>{words.title}</Heading>
        <p className="text-muted">{words.what}</p>
      </div>
      {numbers.map((n, at) => (
        <Field
          key={n}
          large
          label={inLanguage(under(parts, `${n}.`))}
          name={`answer-${n}`}
          type={shown ? "text" : "password"}
          inputMode={parts[`digits.${n}`] ? "numeric" : undefined}
          autoComplete="off"
          autoCapitalize="none"
          spellCheck={false}
          maxLength={100}
          value={answers[n] ?? ""}
          onChange={(event) => setAnswers({ ...answers, [n]: event.target.value })}
          error={at === numbers.length - 1 ? error : undefined}
        />
      ))}
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="accent-accent size-5"
          checked={shown}
          onChange={(event) => setShown(event.target.checked)}
        />
        {words.show}
      </label>
      <Button type="submit" look="primary" large busy={Boolean(busy)}>
        {texts.continue}
      </Button>
      <Trouble title={words.trouble} attempt={attempt} onRestart={onRestart} onOtherWay={onOtherWay}>
        <li>{words.first}</li>
      </Trouble>
    </form>
  );
}

const view: MethodView = {
  method: "questions",
  icon: MessageCircleQuestion,
  words: { ...words },
  usually: { life: "15m", tries: "3", alone: "no" },
  Ask: AskQuestions,
  setUp: {
    start: (has) => (has ? words.replace : words.add),
    ready: words.ready,
    Page: SetUpQuestions,
  },
};
export default view;
