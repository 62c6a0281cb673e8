import { Dialog } from "radix-ui";
import { useEffect, useState } from "react";
import { useTask } from "../shared/task";
import { Button, Field, Notice } from "../shared/ui";
import { api, data, onConfirmation } from "./api";

/** Asks for the second factor again before something dangerous, and then does what was asked for. */
export function Confirmations() {
  const [answer, setAnswer] = useState<((confirmed: boolean) => void) | null>(null);
  const [code, setCode] = useState("");
  const { busy, error, run } = useTask();

  useEffect(() => onConfirmation(() => new Promise((resolve) => setAnswer(() => resolve))), []);

  function close(confirmed: boolean) {
    answer?.(confirmed);
    setAnswer(null);
    setCode("");
  }

  return (
    <Dialog.Root open={answer !== null} onOpenChange={(open) => !open && close(false)}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-20 bg-[rgb(10_20_24/0.5)]" />
        <Dialog.Content className="pop bg-surface text-ink shadow-pop fixed inset-x-4 top-[15vh] z-20 mx-auto flex max-w-sm flex-col gap-4 rounded-lg p-5">
          <Dialog.Title className="text-lg font-semibold">Confirm again that it’s you</Dialog.Title>
          <Dialog.Description className="text-muted">
            What you’re about to do could let someone else in. Your confirmation is valid for ten minutes.
          </Dialog.Description>
          <form
            className="flex flex-col gap-4"
            onSubmit={(event) => {
              event.preventDefault();
              event.stopPropagation();
              void run(async () => {
                await data(api.POST("/api/v1/me/confirmation", { body: { code } }));
                close(true);
              });
            }}
          >
            <CodeField value={code} onChange={setCode} />
            {error && <Notice tone="bad">{error}</Notice>}
            <div className="flex justify-end gap-2">
              <Dialog.Close asChild>
                <Button>Not now</Button>
              </Dialog.Close>
              <Button type="submit" look="primary" busy={Boolean(busy)}>
                Go on
              </Button>
            </div>
          </form>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

/** The second factor, wherever it is asked for. */
export function CodeField({
  value,
  onChange,
  autoFocus = true,
}: {
  value: string;
  onChange: (value: string) => void;
  autoFocus?: boolean;
}) {
  return (
    <Field
      label="Code of your authenticator app"
      hint="Or one of your recovery codes"
      autoFocus={autoFocus}
      autoComplete="one-time-code"
      spellCheck={false}
      required
      maxLength={20}
      value={value}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}
