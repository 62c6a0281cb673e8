import { useState } from "react";
import { useTask } from "../shared/task";
import { Button, Notice } from "../shared/ui";
import { api } from "./api";
import type { AlarmRaised } from "./api";
import { useOrganisation } from "./shell";
import { texts } from "./texts";

/** "This was not me". A click raises the alarm, not the opening of the link: scanners open links. */
export function NotMe() {
  const { helpDesk } = useOrganisation();
  const [raised, setRaised] = useState<AlarmRaised | null>(null);
  const { busy, error, run } = useTask(undefined, texts.notMe.failed);

  const raise = () => run(async () => setRaised(await api.alarm(window.location.hash.slice(1))));

  if (raised) {
    return (
      <div className="flex flex-col gap-5">
        <h1 className="text-2xl font-semibold">{texts.notMe.raised}</h1>
        <Notice tone="warn" title={texts.notMe.call}>
          <p>{raised.helpDesk}</p>
          {raised.ended && <p>{texts.notMe.ended}</p>}
          {raised.closed && <p>{texts.notMe.closed}</p>}
          <p>
            {raised.reference && (
              <>
                {texts.notMe.tell} <strong className="font-mono whitespace-nowrap">{raised.reference}</strong>.{" "}
              </>
            )}
            {texts.notMe.sure}
          </p>
        </Notice>
      </div>
    );
  }
  return (
    <div className="flex flex-col gap-5">
      <h1 className="text-2xl font-semibold">{texts.notMe.title}</h1>
      <p className="text-muted">{texts.notMe.says}</p>
      {error && <Notice tone="bad">{error}</Notice>}
      <Button look="danger" large busy={Boolean(busy)} onClick={() => void raise()} className="self-start">
        {texts.notMe.submit}
      </Button>
      <p className="text-muted">{texts.notMe.close(helpDesk)}</p>
    </div>
  );
}
