import { useState } from "react";
import { Heading } from "../../portal/heading";
import { api } from "../../portal/api";
import type { HelpRequest } from "../../portal/api";
import { useLink } from "../../portal/link";
import { Button, Field, Notice } from "../../shared/ui";
import { Checklist } from "./checklist";
import { managers as words } from "./en";

/** The page that a manager's link opens. Opening it changes nothing; the number on the person's screen does. */
export function ConfirmPerson() {
  const { token, found: request, busy, error, setError, run } = useLink<HelpRequest>(api.managerFind);
  const [checked, setChecked] = useState<string[]>([]);
  const [number, setNumber] = useState("");
  const [done, setDone] = useState<"confirmed" | "more" | "denied">();

  if (!request) {
    return error ? <Notice tone="bad">{error}</Notice> : <p role="status">{words.opening}</p>;
  }
  if (done) {
    return (
      <div className="flex flex-col gap-2" role="status">
        <Heading>{done === "denied" ? words.denied : words.confirmed}</Heading>
        <p className="text-muted">
          {{ confirmed: words.confirmedSays, more: words.more, denied: words.deniedSays }[done](request.name)}
        </p>
      </div>
    );
  }
  const ready = request.checklist.every((one) => checked.includes(one));
  return (
    <form
      noValidate
      className="flex flex-col gap-5"
      onSubmit={(event) => {
        event.preventDefault();
        if (!/^[0-9]{6}$/.test(number)) {
          setError(words.numberWrong);
          return;
        }
        void run(
          async () => setDone((await api.managerConfirm(token, number, checked)).complete ? "confirmed" : "more"),
          "confirm",
        );
      }}
    >
      <div className="flex flex-col gap-2">
        <Heading>{words.title(request.name)}</Heading>
        <p className="text-muted">{words.says(request.name, request.network)}</p>
      </div>
      <Checklist name={words.checklist} items={request.checklist} checked={checked} onChange={setChecked} />
      <Field
        large
        label={words.number}
        hint={words.numberHint}
        name="number"
        inputMode="numeric"
        autoComplete="off"
        maxLength={7}
        className="tracking-widest"
        value={number}
        onChange={(event) => setNumber(event.target.value.replace(/\D/g, ""))}
        error={error}
      />
      {!ready && <p className="text-muted text-sm">{words.tick}</p>}
      <div className="flex flex-wrap gap-3">
        <Button type="submit" look="primary" large disabled={!ready} busy={busy === "confirm"}>
          {words.confirm}
        </Button>
        <Button
          large
          busy={busy === "deny"}
          onClick={() =>
            void run(async () => {
              await api.managerDeny(token);
              setDone("denied");
            }, "deny")
          }
        >
          {words.deny}
        </Button>
      </div>
    </form>
  );
}
