import { useState } from "react";
import { Heading } from "../../portal/heading";
import { texts } from "../../portal/texts";
import { Button, Field, Notice, Select } from "../../shared/ui";
import type { SettingUp } from "../method";
import { en as words } from "./en";
import { inLanguage, under } from "./texts";

const OWN = "own";

interface Chosen {
  question: string;
  own: string;
  answer: string;
}

/** So many questions from the list, or of one's own where that is allowed, each with an answer. */
export function SetUpQuestions({
  offered,
  error,
  busy,
  onBack,
  onConfirm,
  title = words.addTitle,
  what = words.addWhat,
}: SettingUp & { title?: string; what?: (many: number) => string }) {
  const { parts } = offered;
  const names = [...new Set(Object.keys(under(parts, "question.")).map((name) => name.split(".")[0]!))];
  const own = Number(parts.own) > 0;
  const many = Number(parts.register) || 0;
  const [chosen, setChosen] = useState<Chosen[]>(() =>
    Array.from({ length: many }, () => ({ question: "", own: "", answer: "" })),
  );
  const [shown, setShown] = useState(true);
  const change = (at: number, more: Partial<Chosen>) =>
    setChosen(chosen.map((one, index) => (index === at ? { ...one, ...more } : one)));
  // One that is chosen elsewhere is not offered again.
  const offeredAt = (at: number) => [
    { value: "", text: words.choose },
    ...names
      .filter((name) => chosen.every((one, index) => index === at || one.question !== name))
      .map((name) => ({ value: name, text: inLanguage(under(parts, `question.${name}.`)) })),
    ...(own ? [{ value: OWN, text: words.own }] : []),
  ];
  // The service names the question that it speaks of first.
  const [, number, rest] = /^Question (\d+): (.*)$/.exec(error) ?? [];

  function save(event: React.FormEvent) {
    event.preventDefault();
    const answer: Record<string, string> = {};
    chosen.forEach((one, at) => {
      answer[`${at + 1}.answer`] = one.answer;
      if (one.question === OWN) answer[`${at + 1}.own`] = one.own;
      else answer[`${at + 1}.question`] = one.question;
    });
    onConfirm({ parts: answer });
  }

  return (
    <form onSubmit={save} className="flex flex-col gap-6" noValidate>
      <div className="flex flex-col gap-2">
        <Heading>{title}</Heading>
        <p className="text-muted">{what(many)}</p>
      </div>
      {chosen.map((one, at) => (
        <fieldset key={at} className="flex min-w-0 flex-col gap-3">
          <Select
            label={words.question(at + 1)}
            value={one.question}
            onChange={(question) => change(at, { question })}
            options={offeredAt(at)}
          />
          {one.question === OWN && (
            <Field
              large
              label={words.ownField(at + 1)}
              maxLength={200}
              value={one.own}
              onChange={(event) => change(at, { own: event.target.value })}
            />
          )}
          <Field
            large
            label={words.answer(at + 1)}
            hint={parts[`digits.${one.question}`] && words.digits(parts[`digits.${one.question}`]!)}
            type={shown ? "text" : "password"}
            inputMode={parts[`digits.${one.question}`] ? "numeric" : undefined}
            autoComplete="off"
            autoCapitalize="none"
            spellCheck={false}
            maxLength={100}
            value={one.answer}
            onChange={(event) => change(at, { answer: event.target.value })}
            error={Number(number) === at + 1 ? rest : undefined}
          />
        </fieldset>
      ))}
      {error && !number && <Notice tone="bad">{error}</Notice>}
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="accent-accent size-5"
          checked={shown}
          onChange={(event) => setShown(event.target.checked)}
        />
        {words.show}
      </label>
      <Button type="submit" look="primary" large busy={busy}>
        {words.submit}
      </Button>
      <Button look="quiet" large onClick={onBack} className="self-start">
        {texts.back}
      </Button>
    </form>
  );
}
