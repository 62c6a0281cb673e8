import { ChevronRight, Mail } from "lucide-react";
import { useTask } from "../shared/task";
import { Button, Notice } from "../shared/ui";
import { ways } from "../shared/ways";
import { api } from "./api";
import type { Step } from "./api";
import { ReferenceLine, useOrganisation } from "./shell";

/** Choose how to show that it is you. Before the first proof everybody sees the same ways. */
export function MethodsPage({ attempt, onChange, onGone, onRestart }: Step) {
  const { helpDesk } = useOrganisation();
  const { busy, error, run } = useTask(onGone);
  const again = attempt.proved.length > 0;

  const choose = (method: string) => run(async () => onChange(await api.ask(method)), method);

  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-col gap-2">
        <h1 className="text-2xl font-semibold">{again ? "One more proof" : "Show that it is you"}</h1>
        <p className="text-muted">
          {again
            ? `${ways[attempt.proved[attempt.proved.length - 1]!]?.name ?? "That"} was right. To protect your account, we need one more method.`
            : "Choose a method you can use now."}
        </p>
      </div>
      {error && <Notice tone="bad">{error}</Notice>}
      {attempt.methods.length === 0 && (
        <Notice tone="warn">
          <p>There’s no other method you can use. Contact the help desk: {helpDesk}.</p>
        </Notice>
      )}
      <ul className="flex flex-col gap-3">
        {attempt.methods.map((method) => {
          const way = ways[method];
          const Icon = way?.icon ?? Mail;
          return (
            <li key={method}>
              <button
                type="button"
                data-method={method}
                aria-busy={busy === method}
                disabled={Boolean(busy)}
                onClick={() => void choose(method)}
                className="border-control bg-surface hover:bg-sunken flex min-h-16 w-full items-center gap-3 rounded-lg border p-4 text-left disabled:opacity-60"
              >
                <Icon aria-hidden className="text-accent-ink size-5 shrink-0" />
                <span className="flex min-w-0 flex-1 flex-col">
                  <strong className="font-semibold">{way?.name ?? method}</strong>
                  <span className="text-muted">{way?.about}</span>
                </span>
                <ChevronRight aria-hidden className="text-muted size-5 shrink-0" />
              </button>
            </li>
          );
        })}
      </ul>
      <details className="border-line bg-surface rounded-lg border p-4">
        <summary className="cursor-pointer rounded-sm font-medium">Can’t use any of these?</summary>
        <p className="mt-3">Contact the help desk: {helpDesk}. They can help you get back in.</p>
      </details>
      <Button look="quiet" large onClick={onRestart} className="self-start">
        Start again
      </Button>
      <ReferenceLine attempt={attempt} />
    </div>
  );
}
