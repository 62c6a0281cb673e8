import { Heading } from "./heading";
import { useTask } from "../shared/task";
import { Button, Notice } from "../shared/ui";
import { api } from "./api";
import type { Step } from "./api";
import { ReferenceLine } from "./shell";
import { texts } from "./texts";

/** Read and accept, before anything is done. */
export function TermsPage({ attempt, onChange, onGone, onRestart }: Step) {
  const { busy, error, run } = useTask(onGone);

  const accept = () => run(async () => onChange(await api.accept(attempt.terms.name)));

  return (
    <div className="flex flex-col gap-5">
      <Heading>{texts.terms.title}</Heading>
      <p lang={attempt.terms.language} className="border-line bg-surface rounded-lg border p-4 whitespace-pre-line">
        {attempt.terms.text}
      </p>
      {error && <Notice tone="bad">{error}</Notice>}
      <Button look="primary" large busy={Boolean(busy)} onClick={() => void accept()}>
        {texts.terms.accept}
      </Button>
      <Button look="quiet" large onClick={onRestart} className="self-start">
        {texts.terms.stop}
      </Button>
      <ReferenceLine attempt={attempt} />
    </div>
  );
}
