import { Mail } from "lucide-react";
import { Heading } from "../portal/heading";
import { api } from "../portal/api";
import type { Attempt } from "../portal/api";
import { Choice } from "../portal/choice";
import { texts } from "../portal/texts";
import { useTask } from "../shared/task";
import { Notice } from "../shared/ui";
import type { Asking } from "./method";
import { Trouble } from "./trouble";

/** Whether there are mailboxes to choose from. */
export function severalAddresses(attempt: Attempt): boolean {
  return attempt.addresses.length > 1;
}

/** Which of several mailboxes it goes to; told only to somebody who has shown something already. */
export function AddressPage({ method, attempt, onChange, onGone, onRestart, onOtherWay }: Asking & { method: string }) {
  const { busy, error, run } = useTask(onGone);
  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-col gap-2">
        <Heading>{texts.addresses.title}</Heading>
        <p className="text-muted">{texts.addresses.says}</p>
      </div>
      {error && <Notice tone="bad">{error}</Notice>}
      <ul className="flex flex-col gap-3">
        {attempt.addresses.map(({ id, hint }) => (
          <li key={id}>
            <Choice
              icon={Mail}
              title={hint}
              busy={busy === id}
              disabled={Boolean(busy)}
              onClick={() => void run(async () => onChange(await api.ask(method, { address: id })), id)}
            />
          </li>
        ))}
      </ul>
      <Trouble title={texts.addresses.none} attempt={attempt} onRestart={onRestart} onOtherWay={onOtherWay}>
        {null}
      </Trouble>
    </div>
  );
}
