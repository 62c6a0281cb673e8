import { useState } from "react";
import { Heading } from "../portal/heading";
import { api } from "../portal/api";
import { useOrganisation } from "../portal/shell";
import { texts } from "../portal/texts";
import { useTask } from "../shared/task";
import { Button, Field } from "../shared/ui";
import type { Asking } from "./method";
import { Trouble } from "./trouble";

interface NumberWords {
  beforeTitle: string;
  before: (organisation: string) => string;
  end: string;
  endWrong: string;
  trouble: string;
  noNumber: string;
  go: string;
}

/** The end of the number, before anything is sent to it. Nothing here tells whether it is right. */
export function NumberPage({
  method,
  words,
  attempt,
  onChange,
  onGone,
  onRestart,
  onOtherWay,
}: Asking & { method: string; words: NumberWords }) {
  const { organisation } = useOrganisation();
  const [end, setEnd] = useState("");
  const { busy, error, setError, run } = useTask(onGone);

  function go(event: React.FormEvent) {
    event.preventDefault();
    if (!/^[0-9]{4}$/.test(end)) {
      setError(words.endWrong);
      return;
    }
    void run(async () => onChange(await api.ask(method, { end })));
  }

  return (
    <form onSubmit={go} className="flex flex-col gap-5" noValidate>
      <div className="flex flex-col gap-2">
        <Heading>{words.beforeTitle}</Heading>
        <p className="text-muted">{words.before(organisation)}</p>
      </div>
      <Field
        large
        label={words.end}
        name="end"
        inputMode="numeric"
        autoComplete="off"
        maxLength={4}
        placeholder="0000"
        className="tracking-widest"
        value={end}
        onChange={(event) => setEnd(event.target.value.replace(/\D/g, ""))}
        error={error}
      />
      <Button type="submit" look="primary" large busy={Boolean(busy)}>
        {words.go}
      </Button>
      <Trouble title={words.trouble} attempt={attempt} onRestart={onRestart} onOtherWay={onOtherWay}>
        <li>{words.noNumber}</li>
      </Trouble>
      {!onOtherWay && (
        <Button look="quiet" large onClick={onRestart} className="self-start">
          {texts.startAgain}
        </Button>
      )}
    </form>
  );
}
