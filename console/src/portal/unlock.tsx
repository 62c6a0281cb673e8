import { useTask } from "../shared/task";
import { Button, Notice } from "../shared/ui";
import { api } from "./api";
import type { Step } from "./api";
import { agree } from "./seal";
import { ReferenceLine } from "./shell";

/** One last question before the lock is cleared. */
export function UnlockPage({
  attempt,
  attemptKey,
  onChange,
  onGone,
}: Omit<Step, "onRestart"> & { attemptKey: CryptoKeyPair }) {
  const { busy, error, run } = useTask(onGone, "Something went wrong, and nothing has changed. Try again.");

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
        <h1 className="text-2xl font-semibold">Unlock your account</h1>
        <p className="text-muted">
          Your password stays the same. If you find you’ve forgotten it, you can choose a new one afterwards.
        </p>
      </div>
      {error && <Notice tone="bad">{error}</Notice>}
      <Button look="primary" large busy={Boolean(busy)} onClick={() => void run(unlock)}>
        Unlock my account
      </Button>
      <ReferenceLine attempt={attempt} />
    </div>
  );
}
