import { useEffect, useState } from "react";
import { Heading } from "./heading";
import { useTask } from "../shared/task";
import { Button, Notice } from "../shared/ui";
import { api } from "./api";
import type { AlarmAsked, AlarmRaised } from "./api";
import { useOrganisation } from "./shell";
import { texts } from "./texts";

/** "This was not me". A click raises the alarm, not the opening of the link: scanners open links. */
export function NotMe() {
  const { helpDesk } = useOrganisation();
  const [raised, setRaised] = useState<AlarmRaised | null>(null);
  const [follows, setFollows] = useState<AlarmAsked | null>(null);
  const { busy, error, run } = useTask(undefined, texts.notMe.failed);
  const [token] = useState(() => window.location.hash.slice(1));

  // What follows is said before anything is done.
  useEffect(() => {
    void run(async () => setFollows(await api.alarmAsked(token)), "asks");
  }, [run, token]);

  const raise = (close: boolean) => run(async () => setRaised(await api.alarm(token, close)), close ? "closes" : "it");

  if (raised) {
    return (
      <div className="flex flex-col gap-5">
        <Heading>{texts.notMe.raised}</Heading>
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
      <Heading>{texts.notMe.title}</Heading>
      <p className="text-muted">{texts.notMe.says}</p>
      {error && <Notice tone="bad">{error}</Notice>}
      {follows && (
        <ul className="flex list-disc flex-col gap-1 pl-5">
          {follows.ends && <li>{texts.notMe.ends}</li>}
          <li>{texts.notMe.tells}</li>
        </ul>
      )}
      {follows && (
        <Button look="danger" large busy={busy === "it"} onClick={() => void raise(false)} className="self-start">
          {texts.notMe.submit}
        </Button>
      )}
      {follows?.mayClose && (
        <>
          <p>{texts.notMe.mayClose}</p>
          <Button large busy={busy === "closes"} onClick={() => void raise(true)} className="self-start">
            {texts.notMe.submitClose}
          </Button>
        </>
      )}
      <p className="text-muted">{texts.notMe.close(helpDesk)}</p>
    </div>
  );
}
