import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { ReactNode } from "react";
import { said } from "../../shared/problem";
import { Badge, Button, Field, Notice, Select } from "../../shared/ui";
import { api, data } from "../api";
import type { Hold } from "../api";
import { Loading, PageHead, ReferenceLink, Section, Table, Time } from "../parts";
import { ask } from "../queries";
import type { Page } from "../page";
import { Modal, ModalFoot } from "../../shared/modal";

export const page: Page = {
  path: "audit/retention",
  title: "Retention",
  place: "audit",
  beside: { at: 4, title: "Retention" },
  element: Retention,
};

/** How long what is kept, what may not go, and whose values are to go. */
export function Retention() {
  const retention = useQuery(ask.retention());
  return (
    <>
      <PageHead
        title="Retention"
        under="How long the record is kept, what mustn’t go, and whose values are to go. Its proof stays whole."
      >
        <PlaceHold />
        <RequestErasure />
      </PageHead>
      <Loading query={retention}>
        {() => {
          const { lastRun, kept, holds, erasures, cuts } = retention.data!;
          return (
            <>
              <div className="mb-6">
                {lastRun ? (
                  <Notice tone="info">
                    <p>
                      Kept: {kept.map((one) => `events of class ${one.kept} for ${one.months} months`).join(", ")}. The
                      retention step ran last at <Time at={lastRun} />.
                    </p>
                  </Notice>
                ) : (
                  <Notice tone="warn" title="Nothing goes yet">
                    <p>
                      The retention step has never run. The operator of the service runs it once a day:{" "}
                      <code>retain</code>.
                    </p>
                  </Notice>
                )}
              </div>
              <Section title="On hold">
                <Table
                  name="Holds"
                  rows={holds}
                  keyOf={(row) => row.id}
                  empty="Nothing is on hold."
                  columns={[
                    { title: "What", value: (row) => <Held hold={row} /> },
                    { title: "Reason", wide: true, value: (row) => row.reason },
                    {
                      title: "Placed",
                      value: (row) => (
                        <>
                          <Time at={row.placedAt} /> by {row.placedBy}
                        </>
                      ),
                    },
                    {
                      title: "",
                      value: (row) =>
                        row.liftedAt ? (
                          <span className="text-muted">
                            lifted <Time at={row.liftedAt} /> by {row.liftedBy}
                          </span>
                        ) : (
                          <Lift hold={row} />
                        ),
                    },
                  ]}
                />
              </Section>
              <Section title="Erased, or to be erased">
                <Table
                  name="Erasures"
                  rows={erasures}
                  keyOf={(row) => row.id}
                  empty="No erasure was asked for."
                  columns={[
                    { title: "Person", value: (row) => row.login ?? <span className="text-muted">erased</span> },
                    { title: "Reason", wide: true, value: (row) => row.reason },
                    {
                      title: "Requested",
                      value: (row) => (
                        <>
                          <Time at={row.requestedAt} /> by {row.requestedBy}
                        </>
                      ),
                    },
                    {
                      title: "What came of it",
                      wide: true,
                      value: (row) =>
                        row.doneAt ? (
                          <>
                            <Badge tone="ok">done</Badge> {row.values} values of {row.events} events went,{" "}
                            <Time at={row.doneAt} />
                          </>
                        ) : row.heldBy ? (
                          <Badge tone="warn">a hold is in the way</Badge>
                        ) : (
                          <Badge tone="none">waits for the retention step</Badge>
                        ),
                    },
                  ]}
                />
              </Section>
              <Section title="Cut off">
                <Table
                  name="Cuts"
                  rows={cuts}
                  keyOf={(row) => row.kept + row.month}
                  empty="No month is old enough."
                  columns={[
                    { title: "Month", value: (row) => row.month },
                    { title: "Events", value: (row) => `${row.events.toLocaleString()} of ${row.kept}` },
                    { title: "When", value: (row) => <Time at={row.cutAt} /> },
                  ]}
                />
              </Section>
            </>
          );
        }}
      </Loading>
    </>
  );
}

function Held({ hold }: { hold: Hold }): ReactNode {
  if (hold.reference) return <ReferenceLink reference={hold.reference} />;
  if (hold.login) return hold.login;
  return (
    <>
      <Time at={hold.since} /> to {hold.until ? <Time at={hold.until} /> : "now and later"}
    </>
  );
}

function Lift({ hold }: { hold: Hold }) {
  const [open, setOpen] = useState(false);
  const lift = useMutation({
    meta: { touches: ["retention"] },
    mutationFn: () => data(api.POST("/api/v1/retention/holds/{id}/lift", { params: { path: { id: hold.id } } })),
    onSuccess: () => setOpen(false),
  });
  return (
    <Modal
      open={open}
      onOpenChange={setOpen}
      trigger={<Button>Lift …</Button>}
      title="Lift this hold"
      description="What it covers may go with the next run of the retention step, and can’t be brought back then."
    >
      <ModalFoot>
        <Button look="danger" busy={lift.isPending} onClick={() => lift.mutate()}>
          Lift the hold
        </Button>
      </ModalFoot>
    </Modal>
  );
}

const things = ["a person", "an attempt", "a span of time"] as const;

function PlaceHold() {
  const [open, setOpen] = useState(false);
  const [on, setOn] = useState<(typeof things)[number]>("a person");
  const [form, setForm] = useState({ reason: "", what: "", since: "", until: "" });
  const place = useMutation({
    meta: { touches: ["retention"], saidHere: true },
    mutationFn: () =>
      data(
        api.POST("/api/v1/retention/holds", {
          body: {
            reason: form.reason,
            login: on === "a person" ? form.what : undefined,
            reference: on === "an attempt" ? form.what : undefined,
            since: on === "a span of time" && form.since ? new Date(form.since).toISOString() : undefined,
            until: on === "a span of time" && form.until ? new Date(form.until).toISOString() : undefined,
          },
        }),
      ),
    onSuccess: () => {
      setOpen(false);
      setForm({ reason: "", what: "", since: "", until: "" });
    },
  });
  const put = (changes: Partial<typeof form>) => setForm({ ...form, ...changes });
  return (
    <Modal
      open={open}
      onOpenChange={setOpen}
      trigger={<Button>Place a hold …</Button>}
      title="Place a hold"
      description="Nothing that it covers is erased or cut off, whatever else is said, until somebody lifts it."
    >
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          place.mutate();
        }}
      >
        <Select label="On" value={on} onChange={setOn} options={things} />
        {on === "a span of time" ? (
          <>
            <Field
              label="From"
              type="datetime-local"
              value={form.since}
              onChange={(event) => put({ since: event.target.value })}
            />
            <Field
              label="Until (optional)"
              type="datetime-local"
              value={form.until}
              onChange={(event) => put({ until: event.target.value })}
            />
          </>
        ) : (
          <Field
            label={on === "a person" ? "Person’s sign-in name" : "Reference"}
            value={form.what}
            onChange={(event) => put({ what: event.target.value })}
          />
        )}
        <Field
          label="Reason"
          hint="Kept on record"
          maxLength={200}
          value={form.reason}
          onChange={(event) => put({ reason: event.target.value })}
          error={place.error ? said(place.error) : undefined}
        />
        <ModalFoot>
          <Button type="submit" look="primary" busy={place.isPending}>
            Place the hold
          </Button>
        </ModalFoot>
      </form>
    </Modal>
  );
}

function RequestErasure() {
  const [open, setOpen] = useState(false);
  const [form, setForm] = useState({ login: "", reason: "" });
  const request = useMutation({
    meta: { touches: ["retention"], saidHere: true },
    mutationFn: () => data(api.POST("/api/v1/retention/erasures", { body: form })),
    onSuccess: () => {
      setOpen(false);
      setForm({ login: "", reason: "" });
    },
  });
  return (
    <Modal
      open={open}
      onOpenChange={setOpen}
      trigger={<Button>Erase someone’s values …</Button>}
      title="Erase someone’s values"
      description="Sign-in names, addresses and networks of everything that concerned the person go from the record. What happened stays, without saying to whom. This can’t be undone."
    >
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          request.mutate();
        }}
      >
        <Field
          label="Person’s sign-in name"
          value={form.login}
          onChange={(event) => setForm({ ...form, login: event.target.value })}
        />
        <Field
          label="Reason"
          hint="Kept on record, so name no one in it"
          maxLength={200}
          value={form.reason}
          onChange={(event) => setForm({ ...form, reason: event.target.value })}
          error={request.error ? said(request.error) : undefined}
        />
        <ModalFoot>
          <Button type="submit" look="danger" busy={request.isPending}>
            Erase with the next run
          </Button>
        </ModalFoot>
      </form>
    </Modal>
  );
}
