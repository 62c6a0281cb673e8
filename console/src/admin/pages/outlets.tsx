import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useId, useRef, useState } from "react";
import type { ReactNode } from "react";
import { Problem, said } from "../../shared/problem";
import { Badge, Button, Empty, Field, Lines, Notice, Select } from "../../shared/ui";
import { eventSeverityValues, outletKindValues } from "../../shared/api-types";
import { api, data } from "../api";
import type { Outlet } from "../api";
import { Loading, PageHead, Time } from "../parts";
import { ask } from "../queries";
import type { Page } from "../page";
import { Modal, ModalFoot } from "../../shared/modal";

export const page: Page = {
  path: "audit/outlets",
  title: "Outlets",
  place: "audit",
  beside: { at: 3, title: "Outlets" },
  element: Outlets,
};

type Kind = (typeof outletKindValues)[number];

/** What each kind is, and what its address looks like. */
const kinds: Record<Kind, { title: string; address?: string; hint?: string }> = {
  syslog: {
    title: "Syslog over TLS",
    address: "Collector",
    hint: "Host and port, such as siem.example.org:6514",
  },
  webhook: {
    title: "Web service, as JSON",
    address: "Address",
    hint: "Such as https://hooks.example.org/entente. Calls are signed",
  },
  "security-events": {
    title: "Security event tokens, pushed",
    address: "Address",
    hint: "Where tokens are taken, such as https://signals.example.org/events",
  },
  "security-events-fetched": { title: "Security event tokens, fetched" },
  file: { title: "File on the server", address: "File", hint: "A name in the operator’s folder, such as events.jsonl" },
};

/** Who outside is told what happens, and how far each of them is. */
export function Outlets() {
  const outlets = useQuery(ask.outlets());
  return (
    <>
      <PageHead
        title="Outlets"
        under="Who outside is told what happens. Each goes at its own pace, and nothing is left out."
      >
        <Edit>
          <Button look="primary">Add an outlet …</Button>
        </Edit>
      </PageHead>
      <Loading query={outlets}>
        {() =>
          outlets.data!.outlets.length === 0 ? (
            <Empty>
              No one outside is told what happens. Add an outlet for a collector of logs, a web service or a file.
            </Empty>
          ) : (
            <ul className="flex flex-col gap-3">
              {outlets.data!.outlets.map((row) => (
                <li
                  key={row.name}
                  className="border-line bg-surface flex flex-wrap items-start justify-between gap-x-6 gap-y-3 rounded-lg border p-4"
                >
                  <div className="min-w-0 flex-1 basis-80">
                    <p className="mb-1 flex flex-wrap items-center gap-2">
                      <strong className="font-semibold">{row.name}</strong>
                      <span className="text-muted">
                        {kinds[row.kind].title}
                        {row.to && (
                          <>
                            , <span className="break-all">{row.to}</span>
                          </>
                        )}
                      </span>
                      <State outlet={row} />
                    </p>
                    {(row.state === "stopped" || row.failures > 0) && (
                      <p className={row.state === "stopped" ? "text-bad" : ""}>
                        {row.why}
                        {row.state === "stopped" && `, at event ${row.position}`}
                        {row.since && (
                          <span className="text-muted">
                            , since <Time at={row.since} />
                          </span>
                        )}
                      </p>
                    )}
                    <p>
                      Told: {told(row)}.{" "}
                      <span className="text-muted">
                        {row.behind === 0
                          ? "Up to date"
                          : `${row.behind.toLocaleString()} ${row.behind === 1 ? "event" : "events"} behind`}
                        {row.sentAt && (
                          <>
                            , last <Time at={row.sentAt} />
                          </>
                        )}
                        .
                      </span>
                    </p>
                  </div>
                  <Deeds outlet={row} />
                </li>
              ))}
            </ul>
          )
        }
      </Loading>
    </>
  );
}

function told(outlet: Outlet): string {
  const some = [...outlet.parts, ...outlet.kinds];
  return [
    some.length > 0 ? some.join(", ") : "everything",
    outlet.severity === "info" ? "" : `at least ${outlet.severity}`,
    outlet.personal ? "with names" : "without names",
  ]
    .filter(Boolean)
    .join(", ");
}

function State({ outlet }: { outlet: Outlet }) {
  if (outlet.state === "paused") return <Badge tone="none">paused</Badge>;
  if (outlet.state === "stopped") return <Badge tone="bad">stopped</Badge>;
  return outlet.failures > 0 ? <Badge tone="warn">waits</Badge> : <Badge tone="ok">follows</Badge>;
}

/** What can be done with one. */
function Deeds({ outlet }: { outlet: Outlet }) {
  const at = { params: { path: { name: outlet.name } } };
  const change = { meta: { touches: ["outlets"] } };
  const test = useMutation({ ...change, mutationFn: () => data(api.POST("/api/v1/outlets/{name}/test", at)) });
  const pause = useMutation({ ...change, mutationFn: () => data(api.POST("/api/v1/outlets/{name}/pause", at)) });
  const resume = useMutation({
    ...change,
    mutationFn: (skip: boolean) => data(api.POST("/api/v1/outlets/{name}/resume", { ...at, body: { skip } })),
  });
  const stopped = outlet.state === "stopped";
  return (
    <div className="flex flex-col items-end gap-2 max-md:items-start">
      <div className="flex flex-wrap gap-2">
        {outlet.kind !== "security-events-fetched" && (
          <Button busy={test.isPending} aria-label={`Try ${outlet.name}`} onClick={() => test.mutate()}>
            Try
          </Button>
        )}
        {outlet.state === "following" && outlet.failures === 0 ? (
          <Button busy={pause.isPending} aria-label={`Pause ${outlet.name}`} onClick={() => pause.mutate()}>
            Pause
          </Button>
        ) : (
          <Button busy={resume.isPending} aria-label={`Go on with ${outlet.name}`} onClick={() => resume.mutate(false)}>
            {stopped ? "Try again" : "Go on"}
          </Button>
        )}
        {stopped && (
          <Button
            busy={resume.isPending}
            aria-label={`Leave the event out of ${outlet.name}`}
            onClick={() => resume.mutate(true)}
          >
            Leave that event out
          </Button>
        )}
        <Edit outlet={outlet}>
          <Button aria-label={`Change ${outlet.name}`}>Change …</Button>
        </Edit>
      </div>
      {test.data && (
        <p role="status" className={test.data.taken ? "text-ok text-sm" : "text-bad text-sm"}>
          {test.data.taken ? "The receiver took the test." : `Not taken: ${test.data.why}.`}
        </p>
      )}
    </div>
  );
}

/** Problems that are told beside a field. */
const beside = [
  "outlet-name",
  "outlet-kind-changed",
  "outlets-many",
  "outlet-address",
  "outlet-not-allowed",
  "outlet-authority",
  "outlet-credential",
  "outlet-event-unknown",
  "outlet-position",
];

interface Form {
  name: string;
  kind: Kind;
  to: string;
  authority: string;
  credential: string;
  audience: string;
  parts: string[];
  events: string;
  severity: (typeof eventSeverityValues)[number];
  personal: boolean;
  from: string;
}

function filled(outlet?: Outlet): Form {
  return {
    name: outlet?.name ?? "",
    kind: outlet?.kind ?? "syslog",
    to: outlet?.to ?? "",
    authority: "",
    credential: "",
    audience: outlet?.audience ?? "",
    parts: outlet?.parts ?? [],
    events: outlet?.kinds.join("\n") ?? "",
    severity: outlet?.severity ?? "info",
    personal: outlet?.personal ?? false,
    from: "",
  };
}

/** Makes or changes one, or removes it. */
function Edit({ outlet, children }: { outlet?: Outlet; children: ReactNode }) {
  const [open, setOpen] = useState(false);
  const [form, setForm] = useState(() => filled(outlet));
  const [removing, setRemoving] = useState(false);
  const names = useId();
  const outlets = useQuery(ask.outlets());
  const events = useQuery(ask.eventKinds());
  const parts = [...new Set((events.data ?? []).map((kind) => kind.part))];
  const kind = kinds[form.kind];
  const put = (changes: Partial<Form>) => setForm({ ...form, ...changes });
  const save = useMutation({
    meta: { touches: ["outlets"], saidHere: true },
    mutationFn: () =>
      data(
        api.PUT("/api/v1/outlets/{name}", {
          params: { path: { name: form.name.trim() } },
          body: {
            kind: form.kind,
            to: kind.address ? form.to.trim() : undefined,
            authority: form.authority.trim() ? form.authority : undefined,
            credential: form.credential || undefined,
            audience: form.audience.trim() || undefined,
            parts: form.parts,
            kinds: form.events.split(/\s+/).filter(Boolean),
            severity: form.severity,
            personal: form.personal,
            from: form.from === "" ? undefined : Number(form.from),
          },
        }),
      ),
    onSuccess: (made) => {
      // Empty while it waits for another administrator.
      if (!made?.fetchWith) setOpen(false);
    },
  });
  const remove = useMutation({
    meta: { touches: ["outlets"] },
    mutationFn: () => data(api.DELETE("/api/v1/outlets/{name}", { params: { path: { name: outlet!.name } } })),
    onSuccess: () => setOpen(false),
  });
  const drawn = useRef<HTMLFormElement>(null);
  // What is wrong may be out of sight.
  useEffect(() => {
    if (save.error) drawn.current?.querySelector<HTMLElement>("[aria-invalid=true]")?.focus();
  }, [save.error]);
  const fault = (...types: string[]) =>
    save.error instanceof Problem && types.includes(save.error.type) ? said(save.error) : undefined;
  const web = form.kind === "webhook" || form.kind === "security-events";
  const allowed = outlets.data?.receivers ?? [];
  return (
    <Modal
      open={open}
      onOpenChange={(wanted) => {
        setOpen(wanted);
        if (wanted) {
          setForm(filled(outlet));
          setRemoving(false);
          save.reset();
        }
      }}
      trigger={children}
      title={outlet ? `Change ${outlet.name}` : "Add an outlet"}
      description="It is told of events in the order of the record, each at least once."
    >
      {save.data?.fetchWith ? (
        <>
          <Notice tone="ok" title="Saved">
            <p>
              Events are fetched with a POST to <code>/api/v1/event-streams/{form.name.trim()}</code> and this token.
              It’s shown only now.
            </p>
            <p className="font-mono break-all">{save.data.fetchWith}</p>
          </Notice>
          <ModalFoot close="Done" />
        </>
      ) : (
        <form
          ref={drawn}
          className="flex flex-col gap-4"
          onSubmit={(event) => {
            event.preventDefault();
            save.mutate();
          }}
        >
          {!outlet && (
            <>
              <Field
                label="Name"
                hint="Small letters, digits and dashes"
                value={form.name}
                error={fault("outlet-name", "outlet-kind-changed", "outlets-many")}
                onChange={(event) => put({ name: event.target.value })}
              />
              <Select
                label="Kind"
                value={form.kind}
                onChange={(value) => put({ kind: value })}
                options={outletKindValues.map((value) => ({ value, text: kinds[value].title }))}
              />
            </>
          )}
          {kind.address && (
            <Field
              label={kind.address}
              hint={kind.hint}
              value={form.to}
              error={fault("outlet-address", "outlet-not-allowed")}
              onChange={(event) => put({ to: event.target.value })}
            />
          )}
          {form.kind !== "file" && kind.address && (
            <p className="text-muted -mt-2 text-sm">
              {allowed.length > 0
                ? `The operator allows ${allowed.join(", ")}.`
                : "The operator of the service hasn’t allowed any receiver yet: entente.outlets.receivers."}
            </p>
          )}
          {(web || form.kind === "syslog") && (
            <Lines
              label="Authority (optional)"
              hint={
                outlet?.trusts
                  ? "Leave empty to keep the saved one"
                  : "PEM of the authority that issued its certificate, if browsers don’t know it"
              }
              value={form.authority}
              error={fault("outlet-authority")}
              most={6}
              onChange={(authority) => put({ authority })}
            />
          )}
          {web && (
            <Field
              label="Token (optional)"
              hint={outlet?.credential ? "Leave empty to keep the saved one" : "If the receiver asks for one"}
              type="password"
              autoComplete="new-password"
              value={form.credential}
              error={fault("outlet-credential")}
              onChange={(event) => put({ credential: event.target.value })}
            />
          )}
          {form.kind.startsWith("security-events") && (
            <Field
              label="Audience (optional)"
              hint="How the receiver is called in tokens; its address if empty"
              value={form.audience}
              onChange={(event) => put({ audience: event.target.value })}
            />
          )}
          <fieldset className="flex flex-col gap-2">
            <legend className="mb-1 font-medium">Parts of the record</legend>
            <p className="text-muted text-sm">None means everything, unless kinds of events are named below.</p>
            <div className="flex flex-wrap gap-x-4 gap-y-1">
              {parts.map((part) => (
                <label key={part} className="flex items-center gap-2">
                  <input
                    type="checkbox"
                    checked={form.parts.includes(part)}
                    onChange={(event) =>
                      put({
                        parts: event.target.checked ? [...form.parts, part] : form.parts.filter((one) => one !== part),
                      })
                    }
                  />
                  {part}
                </label>
              ))}
            </div>
          </fieldset>
          <Lines
            label="Kinds of events (optional)"
            hint="Such as order.done, one a line"
            value={form.events}
            error={fault("outlet-event-unknown")}
            most={6}
            onChange={(value) => put({ events: value })}
          />
          <Select
            label="At least"
            value={form.severity}
            onChange={(severity) => put({ severity })}
            options={eventSeverityValues}
          />
          <div>
            <label className="flex items-center gap-2">
              <input
                type="checkbox"
                aria-describedby={names}
                checked={form.personal}
                onChange={(event) => put({ personal: event.target.checked })}
              />
              Tell names, too
            </label>
            <p id={names} className="text-muted text-sm">
              Sign-in names, addresses and networks leave the service. What a receiver has can’t be erased here.
            </p>
          </div>
          <Field
            label="First event (optional)"
            hint={
              outlet ? "A position, to tell everything since again" : "A position, 0 for everything. Empty: from now on"
            }
            inputMode="numeric"
            value={form.from}
            onChange={(event) => put({ from: event.target.value.replace(/\D/g, "") })}
            error={fault("outlet-position")}
          />
          {save.error && !fault(...beside) && <Notice tone="bad">{said(save.error)}</Notice>}
          <ModalFoot
            aside={
              outlet &&
              (removing ? (
                <Button busy={remove.isPending} look="danger" onClick={() => remove.mutate()}>
                  Yes, remove it
                </Button>
              ) : (
                <Button onClick={() => setRemoving(true)}>Remove …</Button>
              ))
            }
          >
            <Button type="submit" look="primary" busy={save.isPending}>
              Save
            </Button>
          </ModalFoot>
        </form>
      )}
    </Modal>
  );
}
