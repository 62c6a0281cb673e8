import { useState } from "react";
import { Heading } from "../../portal/heading";
import { api } from "../../portal/api";
import type { FollowedLink } from "../../portal/api";
import { useLink } from "../../portal/link";
import { useOrganisation } from "../../portal/shell";
import { Button, Field, Notice } from "../../shared/ui";
import { en as words } from "./en";

/** The page that a mailed link opens. Only the browser that asked goes on by itself: scanners open links, too. */
export function FollowLink() {
  const { helpDesk } = useOrganisation();
  const { token, found, setFound, busy, error, setError, run } = useLink<FollowedLink>(api.follow);
  const [number, setNumber] = useState("");

  if (!found) {
    return error ? <Notice tone="bad">{error}</Notice> : <p role="status">{words.follow}</p>;
  }
  if (found.done) {
    return (
      <div className="flex flex-col gap-5">
        <Heading>{found.here ? words.here : words.done}</Heading>
        <p className="text-muted">{found.here ? words.hereSays : words.doneSays}</p>
      </div>
    );
  }
  return (
    <form
      noValidate
      className="flex flex-col gap-5"
      onSubmit={(event) => {
        event.preventDefault();
        if (!/^[0-9]{2}$/.test(number)) {
          setError(words.fieldWrong);
          return;
        }
        void run(async () => setFound(await api.follow(token, number)));
      }}
    >
      <div className="flex flex-col gap-2">
        <Heading>{words.elsewhereTitle}</Heading>
        <p className="text-muted">{words.elsewhere(words.actions[found.action] ?? found.action, found.network)}</p>
      </div>
      <Field
        large
        label={words.field}
        name="number"
        inputMode="numeric"
        autoComplete="off"
        maxLength={2}
        placeholder="00"
        className="tracking-widest"
        value={number}
        onChange={(event) => setNumber(event.target.value.replace(/\D/g, ""))}
        error={error}
      />
      <Button type="submit" look="primary" large busy={Boolean(busy)} className="self-start">
        {words.submit}
      </Button>
      <p className="text-muted">{words.notMe(helpDesk)}</p>
    </form>
  );
}
