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
        <h1 className="text-2xl font-semibold">Alarm raised</h1>
        <Notice tone="warn" title="Now call the help desk">
          <p>{raised.helpDesk}</p>
          <p>
            {raised.reference && (
              <>
                Tell them the reference <strong className="font-mono whitespace-nowrap">{raised.reference}</strong>
                .{" "}
              </>
            )}
            They’ll make sure no one else has access to your accounts.
          </p>
        </Notice>
      </div>
    );
  }
  return (
    <div className="flex flex-col gap-5">
      <h1 className="text-2xl font-semibold">Wasn’t this you?</h1>
      <p className="text-muted">
        You came here from a message about your account. If you didn’t do what it says, raise the alarm now.
      </p>
      {error && <Notice tone="bad">{error}</Notice>}
      <Button look="danger" large busy={Boolean(busy)} onClick={() => void raise()} className="self-start">
        This wasn’t me: raise the alarm
      </Button>
      <p className="text-muted">If it was you, close this page. Questions: {helpDesk}.</p>
    </div>
  );
}
