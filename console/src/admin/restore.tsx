import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Problem, said } from "../shared/problem";
import { Button, Field, Notice } from "../shared/ui";
import { api, data } from "./api";
import { Change } from "./drafts";
import { Loading } from "./parts";
import { ask } from "./queries";
import { Modal, ModalFoot } from "../shared/modal";

/** Back to an older revision, with what that would change before it does. */
export function Restore({ number, next }: { number: number; next: number }) {
  const [open, setOpen] = useState(false);
  const [note, setNote] = useState("");
  const [losesWay, setLosesWay] = useState("");
  const params = { params: { path: { number } } };
  const comparison = useQuery({ ...ask.restoration(number, next), enabled: open });
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
    },
  });
  return (
    <Modal
      open={open}
      onOpenChange={setOpen}
      trigger={<Button>Restore …</Button>}
      wide
      title={`Back to revision ${number}`}
      description={`What it held becomes revision ${next}. Everything in between stays in the history.`}
    >
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
      <ModalFoot>
        <Button look="primary" disabled={!comparison.data} busy={restore.isPending} onClick={() => restore.mutate()}>
          Publish as revision {next}
        </Button>
      </ModalFoot>
    </Modal>
  );
}
