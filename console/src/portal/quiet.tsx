import { useState } from "react";
import { Heading } from "./heading";
import { useTask } from "../shared/task";
import { Button, Notice } from "../shared/ui";
import { api } from "./api";
import type { Told } from "./api";
import { texts } from "./texts";

/** What somebody is told of. A click chooses, not the opening of the link: scanners open links. */
export function Quiet() {
  const [told, setTold] = useState<Told | null>(null);
  const { busy, error, run } = useTask(undefined, texts.quiet.failed);

  const choose = (off: boolean) => run(async () => setTold(await api.quiet(window.location.hash.slice(1), off)));

  return (
    <div className="flex flex-col gap-5">
      <Heading>{texts.quiet.title}</Heading>
      {told ? (
        <Notice tone="ok">
          {told.told
            ? texts.quiet.isOn(texts.quiet.about[told.about])
            : texts.quiet.isOff(texts.quiet.about[told.about])}
        </Notice>
      ) : (
        <p className="text-muted">{texts.quiet.says}</p>
      )}
      {error && <Notice tone="bad">{error}</Notice>}
      <Button large busy={Boolean(busy)} onClick={() => void choose(told?.told ?? true)} className="self-start">
        {(told?.told ?? true) ? texts.quiet.off : texts.quiet.on}
      </Button>
    </div>
  );
}
