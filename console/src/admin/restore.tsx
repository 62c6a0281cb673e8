import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { Problem, said } from "../shared/problem";
import { Button, Field, Notice } from "../shared/ui";
import { api, data } from "./api";
import { Change } from "./drafts";
import { Loading } from "./parts";

/** Back to an older revision, with what that would change before it does. */
export function Restore({ number, next }: { number: number; next: number }) {
  const [open, setOpen] = useState(false);
  const [note, setNote] = useState("");
  const [losesWay, setLosesWay] = useState("");
  const queries = useQueryClient();
  const params = { params: { path: { number } } };
  const comparison = useQuery({
    queryKey: ["revisions", number, "comparison", next],
    queryFn: () => data(api.GET("/api/v1/revisions/{number}/comparison", params)),
    enabled: open,
    retry: false,
  });
  const restore = useMutation({
    meta: { saidHere: true },
    mutationFn: () =>
      data(
        api.POST("/api/v1/revisions/{number}/restoration", {
          ...params,
          body: { note, after: next - 1, losesWay: losesWay ? Number(losesWay) : undefined },
        }),
      ),
    onSuccess: async () => {
      setOpen(false);
      await queries.invalidateQueries();
    },
  });
  return (
    <Dialog.Root open={open} onOpenChange={setOpen}>
      <Dialog.Trigger asChild>
        <Button>Restore …</Button>
      </Dialog.Trigger>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 bg-[rgb(10_20_24/0.5)]" />
        <Dialog.Content className="pop bg-surface text-ink shadow-pop fixed inset-x-4 top-[6vh] mx-auto flex max-h-[88vh] max-w-3xl flex-col gap-4 overflow-y-auto rounded-lg p-5">
          <div>
            <Dialog.Title className="text-lg font-semibold">Back to revision {number}</Dialog.Title>
            <Dialog.Description className="text-muted">
              What it held becomes revision {next}. Everything in between stays in the history.
            </Dialog.Description>
          </div>
          {restore.error && <Notice tone="bad">{said(restore.error)}</Notice>}
          <Loading query={comparison}>
            {() => (
              <>
                <Change change={comparison.data!} />
                {restore.error instanceof Problem && restore.error.type === "people-lose-a-way" && (
                  <Field
                    label="If that’s intended, type their number"
                    inputMode="numeric"
                    value={losesWay}
                    onChange={(event) => setLosesWay(event.target.value)}
                  />
                )}
                <Field
                  label="Note for the history"
                  hint="Why, in a few words"
                  value={note}
                  onChange={(event) => setNote(event.target.value)}
                />
              </>
            )}
          </Loading>
          <div className="flex flex-wrap justify-end gap-2">
            <Dialog.Close asChild>
              <Button>Not now</Button>
            </Dialog.Close>
            <Button
              look="primary"
              disabled={!comparison.data}
              busy={restore.isPending}
              onClick={() => restore.mutate()}
            >
              Publish as revision {next}
            </Button>
          </div>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
