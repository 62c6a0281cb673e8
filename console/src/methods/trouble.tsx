import type { ReactNode } from "react";
import { ReferenceLine, useOrganisation } from "../portal/shell";
import { texts } from "../portal/texts";
import { Button } from "../shared/ui";
import type { Asking } from "./method";

/** What every page that asks ends with: what may help, another method, and the reference. `children` are what helps first and last. */
export function Trouble({
  title,
  children,
  last,
  attempt,
  onRestart,
  onOtherWay,
}: Pick<Asking, "attempt" | "onRestart" | "onOtherWay"> & { title: string; children: ReactNode; last?: ReactNode }) {
  const { helpDesk } = useOrganisation();
  return (
    <>
      <details className="border-line bg-surface rounded-lg border p-4">
        <summary className="cursor-pointer rounded-sm font-medium">{title}</summary>
        <ol className="mt-3 flex list-decimal flex-col gap-2 pl-5">
          {children}
          <li>
            <button type="button" onClick={onRestart} className="text-accent-ink rounded-sm underline">
              {texts.startAgain}
            </button>{" "}
            {texts.code.mistyped}
          </li>
          {last}
          <li>{texts.contact(helpDesk)}</li>
        </ol>
      </details>
      {onOtherWay && (
        <Button look="quiet" large onClick={onOtherWay} className="self-start">
          {texts.code.other}
        </Button>
      )}
      <ReferenceLine attempt={attempt} />
    </>
  );
}
