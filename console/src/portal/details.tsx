import { Pencil, Trash2 } from "lucide-react";
import { useCallback, useEffect, useState } from "react";
import { Heading } from "./heading";
import { useTask } from "../shared/task";
import { methods } from "../methods";
import { Button, Field, Notice } from "../shared/ui";
import { api } from "./api";
import type { Attempt, Enrolment, OfferedEnrolment, Settable } from "./api";
import { useBack } from "./back";
import { madeHere, thumbprintOf, withdraw } from "./remembered";
import { texts } from "./texts";

function listed(one: Enrolment): string {
  const since = texts.details.since(new Date(one.since));
  return methods[one.method]?.listed?.(one, since) ?? since;
}

/** Whether it is of a kind that people set up, and that their policy accepts no more. */
function countsNoMore(method: string, settable: Settable[]): boolean {
  return Boolean(methods[method]?.setUp) && !settable.some((one) => one.method === method);
}

/** How the person can be recognised, and setting up more. */
export function DetailsPage({
  onChange,
  onGone,
}: {
  onChange: (attempt: Attempt) => void;
  onGone: (problem: unknown) => boolean;
}) {
  const [enrolments, setEnrolments] = useState<Enrolment[] | null>(null);
  const [offered, setOffered] = useState<OfferedEnrolment | null>(null);
  const [renaming, setRenaming] = useState<{ id: string; label: string } | null>(null);
  const [removing, setRemoving] = useState<Enrolment | null>(null);
  const [said, setSaid] = useState("");
  // Made in this very browser: what only the service says of one is shown to nobody for comparison.
  const [own, setOwn] = useState<string[]>([]);
  const [settable, setSettable] = useState<Settable[]>([]);
  const { busy, error, run } = useTask(onGone);

  const act = useCallback(
    (what: string, work: () => Promise<void>) => {
      setSaid("");
      return run(work, what);
    },
    [run],
  );

  useEffect(() => {
    void act("list", async () => {
      const [have, can] = await Promise.all([api.enrolments(), api.settable()]);
      setEnrolments(have);
      setSettable(can);
    });
  }, [act]);

  useEffect(() => {
    void Promise.all(madeHere().map(thumbprintOf)).then(setOwn);
  }, [enrolments]);

  useBack(offered ? () => setOffered(null) : undefined);
  const settingUp = offered && methods[offered.method]?.setUp;
  if (settingUp) {
    return (
      <settingUp.Page
        offered={offered}
        error={error}
        busy={busy === "confirm"}
        onBack={() => setOffered(null)}
        onConfirm={(answer) =>
          void act("confirm", async () => {
            setEnrolments(await (offered.complete ? api.enrolments() : api.confirm(offered.id, answer)));
            setOffered(null);
            setSaid(settingUp.ready);
          })
        }
      />
    );
  }
  return (
    <div className="flex flex-col gap-5">
      <div className="flex flex-col gap-2">
        <Heading>{texts.details.title}</Heading>
        <p className="text-muted">
          {enrolments && settable.length === 0 ? texts.details.nothingElse : texts.details.says}
        </p>
      </div>
      {said && <Notice tone="ok">{said}</Notice>}
      {error && <Notice tone="bad">{error}</Notice>}
      {enrolments && (
        <ul className="border-line bg-surface divide-line flex flex-col divide-y rounded-lg border">
          {enrolments.length === 0 && <li className="text-muted p-4">{texts.details.none}</li>}
          {enrolments.map((one) => {
            const view = methods[one.method];
            const Icon = view?.icon;
            return (
              <li key={one.id ?? one.method} className="flex flex-wrap items-center gap-3 p-4">
                {Icon && <Icon aria-hidden className="text-accent-ink size-5 shrink-0" />}
                <span className="flex min-w-0 flex-1 flex-col">
                  <strong className="font-semibold">{one.id ? one.label : view?.words.name}</strong>
                  <span className="text-muted text-sm">
                    {one.id ? listed(one) : texts.details.fromOrganisation(one.label)}
                  </span>
                  {one.id && settable.length > 0 && countsNoMore(one.method, settable) && (
                    <span className="text-warn text-sm">{texts.details.countsNoMore}</span>
                  )}
                  {one.unknownTo.length > 0 && (
                    <span className="text-warn text-sm">
                      {texts.details.unknownTo(one.unknownTo, own.includes(one.thumbprint))}
                    </span>
                  )}
                  {one.unknownTo.length > 0 && own.includes(one.thumbprint) && (
                    <details className="text-muted text-sm">
                      <summary className="cursor-pointer rounded-sm">{texts.details.thumbprint}</summary>
                      <span className="font-mono break-all">{one.thumbprint}</span>
                    </details>
                  )}
                </span>
                {one.id && (
                  <span className="flex">
                    <Button
                      look="quiet"
                      aria-label={texts.details.renameOne(one.label)}
                      onClick={() => setRenaming({ id: one.id, label: one.label })}
                    >
                      <Pencil aria-hidden className="size-4" />
                    </Button>
                    <Button
                      look="quiet"
                      aria-label={texts.details.removeOne(one.label)}
                      onClick={() => setRemoving(one)}
                    >
                      <Trash2 aria-hidden className="size-4" />
                      {texts.details.remove}
                    </Button>
                  </span>
                )}
                {renaming?.id === one.id && one.id && (
                  <form
                    className="flex w-full items-end gap-2"
                    onSubmit={(event) => {
                      event.preventDefault();
                      void act("rename", async () => {
                        setEnrolments(await api.rename(one.id, renaming.label));
                        setRenaming(null);
                        setSaid(texts.details.renamed(renaming.label));
                      });
                    }}
                  >
                    <div className="flex-1">
                      <Field
                        label={texts.details.name}
                        name="label"
                        autoFocus
                        maxLength={60}
                        value={renaming.label}
                        onChange={(event) => setRenaming({ id: one.id, label: event.target.value })}
                      />
                    </div>
                    <Button type="submit" busy={busy === "rename"} disabled={!renaming.label.trim()}>
                      {texts.details.save}
                    </Button>
                  </form>
                )}
                {removing?.id === one.id && one.id && (
                  <div className="flex w-full flex-wrap items-center gap-2">
                    <span className="flex-1">{texts.details.removeAsk}</span>
                    <Button onClick={() => setRemoving(null)}>{texts.details.keep}</Button>
                    <Button
                      look="danger"
                      busy={busy === "remove"}
                      onClick={() =>
                        void act("remove", async () => {
                          setEnrolments(await api.removeEnrolment(one.id));
                          if (one.thumbprint) withdraw(one.thumbprint);
                          setRemoving(null);
                          setSaid(texts.details.removed(one.label));
                        })
                      }
                    >
                      {texts.details.remove}
                    </Button>
                  </div>
                )}
              </li>
            );
          })}
        </ul>
      )}
      {settable.map(({ method, actions }) => {
        const setUp = methods[method]?.setUp;
        return (
          setUp && (
            <div key={method} className="flex flex-col gap-1">
              <Button
                large
                busy={busy === method}
                onClick={() => void act(method, async () => setOffered(await api.setUp(method)))}
              >
                {setUp.start(enrolments?.some((one) => one.method === method) ?? false)}
              </Button>
              <span className="text-muted text-sm">{texts.details.goodFor(actions)}</span>
            </div>
          )
        );
      })}
      <Button
        look="primary"
        large
        busy={busy === "end"}
        onClick={() => void act("end", async () => onChange(await api.finish()))}
      >
        {texts.details.done}
      </Button>
    </div>
  );
}
