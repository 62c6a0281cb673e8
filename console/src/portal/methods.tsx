import { Mail } from "lucide-react";
import { Heading } from "./heading";
import { useTask } from "../shared/task";
import { Button, Notice } from "../shared/ui";
import { before, methods } from "../methods";
import { api } from "./api";
import type { Step } from "./api";
import { Choice } from "./choice";
import { ReferenceLine, useOrganisation } from "./shell";
import { texts } from "./texts";

/** Choose how to show that it is you. Before the first proof everybody sees the same ways. */
export function MethodsPage({
  attempt,
  onChange,
  onGone,
  onRestart,
  onBefore,
}: Step & { /** Something is asked before this method is. */ onBefore: (method: string) => void }) {
  const { helpDesk } = useOrganisation();
  const { busy, error, run } = useTask(onGone);
  const again = attempt.proved.length > 0;

  const choose = (method: string) =>
    before(method, attempt) ? onBefore(method) : void run(async () => onChange(await api.ask(method)), method);

  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-col gap-2">
        <Heading>{again ? texts.choose.again : texts.choose.title}</Heading>
        <p className="text-muted">
          {again
            ? texts.choose.saysAgain(methods[attempt.proved.at(-1)!]?.words.name ?? texts.choose.thatOne)
            : texts.choose.says}
        </p>
      </div>
      {error && <Notice tone="bad">{error}</Notice>}
      {attempt.methods.length === 0 && (
        <Notice tone="warn">
          <p>{texts.choose.none(helpDesk)}</p>
        </Notice>
      )}
      <ul className="flex flex-col gap-3">
        {attempt.methods.map((method) => {
          const words = methods[method]?.words;
          return (
            <li key={method}>
              <Choice
                icon={methods[method]?.icon ?? Mail}
                title={words?.name ?? method}
                about={words?.about}
                method={method}
                busy={busy === method}
                disabled={Boolean(busy)}
                onClick={() => choose(method)}
              />
            </li>
          );
        })}
      </ul>
      <details className="border-line bg-surface rounded-lg border p-4">
        <summary className="cursor-pointer rounded-sm font-medium">{texts.choose.cannot}</summary>
        <p className="mt-3">{texts.choose.cannotSays(helpDesk)}</p>
      </details>
      <Button look="quiet" large onClick={onRestart} className="self-start">
        {texts.startAgain}
      </Button>
      <ReferenceLine attempt={attempt} />
    </div>
  );
}
