import { useState } from "react";
import { useTask } from "../shared/task";
import { Button, Notice } from "../shared/ui";
import { api } from "./api";
import type { AlarmRaised } from "./api";
import { useOrganisation } from "./shell";

/** "This was not me". A click raises the alarm, not the opening of the link: scanners open links. */
export function NotMe() {
  const { helpDesk } = useOrganisation();
  const [raised, setRaised] = useState<AlarmRaised | null>(null);
  const { busy, error, run } = useTask(undefined, "Something went wrong. Call the help desk.");

  const raise = () => run(async () => setRaised(await api.alarm(window.location.hash.slice(1))));

  if (raised) {
    return (
      <div className="flex flex-col gap-5">
        <h1 className="text-2xl font-semibold">The alarm is raised</h1>
        <Notice tone="warn" title="Now call the help desk">
          <p>{raised.helpDesk}</p>
          <p>
            {raised.reference && (
              <>
                Tell them the reference <strong className="font-mono whitespace-nowrap">{raised.reference}</strong>
                .{" "}
              </>
            )}
            They make sure that nobody else keeps access to your accounts.
          </p>
        </Notice>
      </div>
    );
  }
  return (
    <div className="flex flex-col gap-5">
      <h1 className="text-2xl font-semibold">Was this not you?</h1>
      <p className="text-muted">
        A message about your account brought you here. If you did not do what it tells of, raise the alarm now.
      </p>
      {error && <Notice tone="bad">{error}</Notice>}
      <Button look="danger" large busy={Boolean(busy)} onClick={() => void raise()} className="self-start">
        It was not me: raise the alarm
      </Button>
      <p className="text-muted">If it was you, close this page. Questions: {helpDesk}.</p>
    </div>
  );
}
