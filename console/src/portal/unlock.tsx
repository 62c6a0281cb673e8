import { Heading } from "./heading";
import { useTask } from "../shared/task";
import { Button, Notice } from "../shared/ui";
import { api } from "./api";
import type { Step } from "./api";
import { agree } from "./seal";
import { ReferenceLine } from "./shell";
import { texts } from "./texts";

/** One last question before the lock is cleared. */
export function UnlockPage({
  attempt,
  attemptKey,
  onChange,
  onGone,
}: Omit<Step, "onRestart"> & { attemptKey: CryptoKeyPair }) {
  const { busy, error, run } = useTask(onGone, texts.unlock.failed);

  async function unlock() {
    const sealing = await api.sealing();
    const agreed = [];
    for (const target of sealing.targets) {
      agreed.push({ evidence: await agree(sealing, target, attemptKey) });
    }
    onChange(await api.passwords(agreed));
  }

  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-col gap-2">
        <Heading>{texts.unlock.title}</Heading>
        <p className="text-muted">{texts.unlock.says}</p>
      </div>
      {error && <Notice tone="bad">{error}</Notice>}
      <Button look="primary" large busy={Boolean(busy)} onClick={() => void run(unlock)}>
        {texts.unlock.submit}
      </Button>
      <ReferenceLine attempt={attempt} />
    </div>
  );
}
