import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Button, Select } from "../../shared/ui";
import type { approvalRuleAskedForValues } from "../../shared/api-types";
import { api, data } from "../api";
import { Change } from "../drafts";
import { Loading, PageHead, Section, Table, Time } from "../parts";
import { Restore } from "../restore";
import { ask } from "../queries";
import type { Page } from "../page";

export const page: Page = {
  path: "policies/revisions",
  title: "Revisions",
  place: "policies",
  beside: { at: 6, title: "Revisions" },
  element: Revisions,
};

/** The history: every published state, and the way back to it. */
export function Revisions() {
  const revisions = useQuery(ask.revisions());
  const [shown, setShown] = useState(0);
  return (
    <>
      <PageHead title="Revisions" under="Every state that was published. The newest is in force." />
      <ApprovalRule />
      <Planned />
      <Loading query={revisions}>
        {() => (
          <Table
            name="Revisions"
            rows={revisions.data!}
            keyOf={(one) => String(one.number)}
            empty="None yet."
            columns={[
              { title: "Revision", value: (one) => <strong className="font-medium">{one.number}</strong> },
              { title: "Published", value: (one) => <Time at={one.publishedAt} /> },
              {
                title: "By",
                value: (one) => one.author + (one.approvedBy ? `, approved by ${one.approvedBy}` : ""),
              },
              { title: "Note", wide: true, value: (one) => one.note },
              {
                title: "What can be done",
                value: (one) => (
                  <span className="flex gap-1">
                    <Button
                      look="quiet"
                      aria-expanded={shown === one.number}
                      aria-label={`What revision ${one.number} changed`}
                      onClick={() => setShown(shown === one.number ? 0 : one.number)}
                    >
                      What changed
                    </Button>
                    {one.number < revisions.data![0]!.number && (
                      <Restore number={one.number} next={revisions.data![0]!.number + 1} />
                    )}
                  </span>
                ),
              },
            ]}
          />
        )}
      </Loading>
      {shown > 0 && <Changed number={shown} />}
    </>
  );
}

function Changed({ number }: { number: number }) {
  const changes = useQuery(ask.changesOfRevision(number));
  return (
    <section className="mt-6 flex flex-col gap-3">
      <h2 className="text-lg font-semibold">What revision {number} changed</h2>
      <Loading query={changes}>{() => <Change change={changes.data!} past />}</Loading>
    </section>
  );
}

const rules: Record<string, string> = {
  nothing: "No change needs one",
  weakening: "Changes that weaken something need one",
  everything: "Every change needs one",
};

type Asked = (typeof approvalRuleAskedForValues)[number];

/** Whether a second person has to agree before something is published. */
function ApprovalRule() {
  const rule = useQuery(ask.approvalRule());
  const change = useMutation({
    mutationFn: (askedFor: Asked) => data(api.PUT("/api/v1/approval-rule", { body: { askedFor } })),
  });
  if (!rule.data) return null;
  return (
    <div className="mb-5 flex flex-col gap-2">
      <Select
        label="Approval by another administrator"
        labelled="beside"
        value={rule.data.askedFor}
        disabled={change.isPending}
        onChange={(askedFor) => change.mutate(askedFor)}
        options={(Object.entries(rules) as [Asked, string][]).map(([value, text]) => ({ value, text }))}
      />
    </div>
  );
}

/** What is published, or ends, by itself. */
function Planned() {
  const planned = useQuery(ask.plannedChanges());
  const cancel = useMutation({
    mutationFn: (id: string) => data(api.DELETE("/api/v1/planned-changes/{id}", { params: { path: { id } } })),
  });
  if (!planned.data?.length) return null;
  return (
    <Section title="Planned">
      <Table
        name="Planned"
        rows={planned.data}
        keyOf={(one) => one.id}
        empty=""
        columns={[
          { title: "When", value: (one) => <Time at={one.at} /> },
          { title: "What", wide: true, value: (one) => one.says },
          { title: "By", value: (one) => one.author },
          {
            title: "What can be done",
            value: (one) => (
              <Button busy={cancel.isPending} onClick={() => cancel.mutate(one.id)}>
                Cancel it
              </Button>
            ),
          },
        ]}
      />
    </Section>
  );
}
