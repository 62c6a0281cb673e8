import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { said } from "../shared/problem";
import { Badge, Button, Disclosure, Field, Notice, Select } from "../shared/ui";
import { api, data } from "./api";
import type { Comparison, Draft } from "./api";
import { chooseDraft, sound, useDrafts, useNewDraft } from "./draft-change";
import { Loading } from "./parts";
import { ask, plainReset } from "./queries";
import { Modal, ModalFoot } from "../shared/modal";
import { useTyped } from "./typed";

/** Across the top whenever there is an unpublished change. */
export function DraftBar() {
  const { all, draft } = useDrafts();
  const start = useNewDraft();
  if (!draft) return null;
  const several = all.data!.length > 1;
  return (
    <aside
      aria-label="Unpublished change"
      className="border-line bg-warn-soft text-warn flex flex-wrap items-center gap-x-3 gap-y-2 border-b px-4 py-2 md:px-6"
    >
      {several ? (
        <Select
          label="Not published"
          labelled="beside"
          value={draft.id}
          onChange={chooseDraft}
          options={all.data!.map((one) => ({ value: one.id, text: `${one.name} (${one.author})` }))}
        />
      ) : (
        <span className="min-w-0">
          <strong className="font-semibold">{draft.name}</strong> is not published.
        </span>
      )}
      {draft.problems.length > 0 && (
        <Badge tone={sound(draft) ? "warn" : "bad"}>
          {draft.problems.length} {sound(draft) ? "to look at" : draft.problems.length === 1 ? "problem" : "problems"}
        </Badge>
      )}
      <span className="ml-auto flex flex-wrap gap-2">
        <Button look="quiet" busy={start.isPending} onClick={() => start.mutate("")}>
          Another draft
        </Button>
        <Link to="/policies" className="self-center rounded-sm underline">
          Edit
        </Link>
        <Link to="/policies/rehearsal" className="self-center rounded-sm underline">
          Rehearse
        </Link>
        <Compare key={draft.id} draft={draft} />
      </span>
    </aside>
  );
}

/** What would change, and from there on to publishing. */
function Compare({ draft }: { draft: Draft }) {
  const [open, setOpen] = useState(false);
  const [note, setNote, forgetNote] = useTyped(`note of ${draft.id}`, "");
  const [typed, setTyped] = useState("");
  const rehearsal = useQuery({ ...ask.rehearsal(draft, plainReset), enabled: open && sound(draft) });
  const approval = useQuery({ ...ask.draftApproval(draft), enabled: open && sound(draft) });
  const submit = useMutation({
    meta: { touches: ["drafts"], saidHere: true },
    mutationFn: () => data(api.POST("/api/v1/drafts/{id}/submission", { params: { path: { id: draft.id } } })),
  });
  const approve = useMutation({
    meta: { touches: ["drafts"], saidHere: true },
    mutationFn: (digest: string) =>
      data(api.POST("/api/v1/drafts/{id}/approval", { params: { path: { id: draft.id } }, body: { digest } })),
  });
  const queries = useQueryClient();
  // Nobody is offered for another moment what is no draft any more.
  const gone = async () => {
    await queries.cancelQueries({ queryKey: ["drafts"], exact: true });
    queries.setQueryData<Draft[]>(["drafts"], (old) => old?.filter((one) => one.id !== draft.id));
  };
  const waits = Boolean(approval.data?.needed && !approval.data.approvedBy);
  const [at, setAt] = useState("");
  const [until, setUntil] = useState("");
  const losesWay = rehearsal.data?.counts.find((one) => one.kind === "loses-way")?.people ?? 0;
  const comparison = useQuery({ ...ask.draftComparison(draft), enabled: open && sound(draft) });
  const publish = useMutation({
    meta: { saidHere: true },
    mutationFn: () =>
      data(
        api.POST("/api/v1/drafts/{id}/publish", {
          params: { path: { id: draft.id } },
          body: {
            note,
            losesWay,
            at: at ? new Date(at).toISOString() : undefined,
            until: until ? new Date(until).toISOString() : undefined,
          },
        }),
      ),
    onSuccess: async () => {
      if (!at) await gone();
      setOpen(false);
      forgetNote();
    },
  });
  const discard = useMutation({
    meta: { touches: ["drafts"], saidHere: true },
    mutationFn: () => data(api.DELETE("/api/v1/drafts/{id}", { params: { path: { id: draft.id } } })),
    onSuccess: gone,
  });
  const failed = publish.error ?? discard.error ?? submit.error ?? approve.error;
  return (
    <Modal
      open={open}
      onOpenChange={setOpen}
      trigger={<Button>Compare and publish</Button>}
      wide
      title="What publishing would change"
      description={`${draft.name}, from revision ${draft.baseRevision}`}
    >
      {failed && <Notice tone="bad">{said(failed)}</Notice>}
      {open && <Merge draft={draft} />}
      {draft.problems.length > 0 && <Problems draft={draft} />}
      {sound(draft) && (
        <Loading query={comparison}>
          {() => {
            const change = comparison.data!;
            return (
              <>
                <Change change={change} />
                {losesWay > 0 && (
                  <Notice
                    tone="bad"
                    title={`${losesWay} ${losesWay === 1 ? "person" : "people"} could not reset a password any more`}
                  >
                    <p>
                      <Link
                        to="/policies/rehearsal?kind=loses-way"
                        className="underline"
                        onClick={() => setOpen(false)}
                      >
                        See who, and why
                      </Link>
                    </p>
                    <Field
                      label="If that’s intended, type their number"
                      inputMode="numeric"
                      value={typed}
                      onChange={(event) => setTyped(event.target.value)}
                    />
                  </Notice>
                )}
                {approval.data?.needed && (
                  <Notice
                    tone={waits ? "warn" : "ok"}
                    title={
                      waits ? "Another administrator has to approve this" : `Approved by ${approval.data.approvedBy}`
                    }
                  >
                    {waits && (
                      <div className="flex flex-wrap gap-2">
                        <Button busy={submit.isPending} onClick={() => submit.mutate()}>
                          {approval.data.submittedBy ? "Submit it again" : "Submit it"}
                        </Button>
                        {approval.data.submittedBy && (
                          <Button busy={approve.isPending} onClick={() => approve.mutate(approval.data.digest)}>
                            Approve it
                          </Button>
                        )}
                      </div>
                    )}
                  </Notice>
                )}
                <Disclosure summary="Schedule">
                  <div className="grid gap-3 sm:grid-cols-2">
                    <Field
                      label="Publish at"
                      hint="Leave empty for now"
                      type="datetime-local"
                      value={at}
                      onChange={(event) => setAt(event.target.value)}
                    />
                    <Field
                      label="Until"
                      hint="Then the present revision comes back. Leave empty to keep the change"
                      type="datetime-local"
                      value={until}
                      onChange={(event) => setUntil(event.target.value)}
                    />
                  </div>
                </Disclosure>
                <Field
                  label="Note for the history"
                  hint="Why, in a few words"
                  value={note}
                  onChange={(event) => setNote(event.target.value)}
                />
              </>
            );
          }}
        </Loading>
      )}
      <ModalFoot
        aside={
          <Button look="quiet" busy={discard.isPending} onClick={() => discard.mutate()}>
            Discard the draft
          </Button>
        }
      >
        <Button
          look="primary"
          disabled={
            !sound(draft) ||
            !comparison.data ||
            !rehearsal.data ||
            waits ||
            (losesWay > 0 && typed.trim() !== String(losesWay))
          }
          busy={publish.isPending}
          onClick={() => publish.mutate()}
        >
          {at ? "Plan it" : `Publish as revision ${draft.baseRevision + 1}`}
        </Button>
      </ModalFoot>
    </Modal>
  );
}

/** When somebody else published meanwhile, their change is brought in first. */
function Merge({ draft }: { draft: Draft }) {
  const revisions = useQuery(ask.revisions());
  const newest = revisions.data?.[0]?.number ?? 0;
  const merge = useMutation({
    mutationFn: () => data(api.POST("/api/v1/drafts/{id}/merge", { params: { path: { id: draft.id } } })),
  });
  if (merge.data) {
    return merge.data.conflicts.length === 0 ? (
      <Notice tone="ok">Revision {merge.data.revision} is brought in.</Notice>
    ) : (
      <Notice tone="warn" title={`Changed here, and otherwise in revision ${merge.data.revision}`}>
        <p>{merge.data.conflicts.join(", ")}. They are kept as they are here: look at each once more.</p>
      </Notice>
    );
  }
  if (newest <= draft.baseRevision) return null;
  return (
    <Notice tone="warn" title={`Revision ${newest} was published after this draft was started`}>
      <p>Merge it before you publish. Nothing in the draft is lost.</p>
      <Button busy={merge.isPending} onClick={() => merge.mutate()} className="self-start">
        Bring it in
      </Button>
    </Notice>
  );
}

/** What changes, in sentences and as a diff of the files. */
export function Change({ change, past }: { change: Comparison; past?: boolean }) {
  return (
    <>
      <p>
        Covered people: <strong className="font-semibold">{change.coveredBefore}</strong> {past ? "before" : "now"},{" "}
        <strong className="font-semibold">{change.coveredAfter}</strong> after{past && ", of those who are there today"}
        .
      </p>
      {change.sentences.length === 0 ? (
        <p className="text-muted">Nothing changes in meaning.</p>
      ) : (
        <ul className="flex list-disc flex-col gap-1 pl-5 break-words">
          {change.sentences.map((sentence) => (
            <li key={sentence}>{sentence}</li>
          ))}
        </ul>
      )}
      {change.weaker.length > 0 && (
        <Notice tone="warn" title={past ? "This made something weaker" : "This makes something weaker"}>
          <ul className="list-disc pl-5">
            {change.weaker.map((one) => (
              <li key={one}>{one}</li>
            ))}
          </ul>
        </Notice>
      )}
      <WaysChanged
        title={past ? "Ways in that this opened" : "Ways in that this opens"}
        ways={change.waysOpened}
        warn
      />
      <WaysChanged title={past ? "Ways in that this closed" : "Ways in that this closes"} ways={change.waysClosed} />
      {change.diff && <Diff text={change.diff} />}
    </>
  );
}

/** What somebody who isn’t the person would need to reset a password, and did not before, or does no more. */
function WaysChanged({ title, ways, warn }: { title: string; ways: string[]; warn?: boolean }) {
  if (ways.length === 0) return null;
  return (
    <Notice tone={warn ? "warn" : "ok"} title={title}>
      <ul className="list-disc pl-5">
        {ways.map((one) => (
          <li key={one}>{one}</li>
        ))}
      </ul>
    </Notice>
  );
}

export function Problems({ draft }: { draft: Draft }) {
  return (
    <Notice tone={sound(draft) ? "warn" : "bad"} title={sound(draft) ? "Check these findings" : "Fix these first"}>
      <ul className="flex flex-col gap-1">
        {draft.problems.map((problem) => (
          <li key={problem.file + problem.line + problem.message} className="break-words">
            <span className="font-mono text-sm">
              {problem.file}
              {problem.line > 0 && `:${problem.line}:${problem.column}`}
            </span>{" "}
            {problem.message}
          </li>
        ))}
      </ul>
    </Notice>
  );
}

function Diff({ text }: { text: string }) {
  return (
    <Disclosure summary="Changed files">
      <pre tabIndex={0} className="bg-sunken overflow-x-auto rounded-md p-3 font-mono text-sm">
        {text.split("\n").map((line, at) => (
          <span
            key={at}
            className={
              line.startsWith("+") ? "text-ok block" : line.startsWith("-") ? "text-bad block" : "text-muted block"
            }
          >
            {line || " "}
          </span>
        ))}
      </pre>
    </Disclosure>
  );
}
