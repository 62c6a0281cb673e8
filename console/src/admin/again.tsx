import { useEffect, useState } from "react";
import { useTask } from "../shared/task";
import { Button, Field, Notice } from "../shared/ui";
import { api, data, onConfirmation } from "./api";
import { Modal, ModalFoot } from "../shared/modal";

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
    <Modal
      open={answer !== null}
      onOpenChange={(open) => !open && close(false)}
      title="Confirm again that it’s you"
      description="What you’re about to do could let someone else in. Your confirmation is valid for ten minutes."
    >
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
        <ModalFoot>
          <Button type="submit" look="primary" busy={Boolean(busy)}>
            Go on
          </Button>
        </ModalFoot>
      </form>
    </Modal>
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
