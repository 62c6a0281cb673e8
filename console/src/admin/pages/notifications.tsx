import { useInfiniteQuery, useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Modal, ModalFoot } from "../../shared/modal";
import { said } from "../../shared/problem";
import { notificationChannelValues, notificationKindValues, notificationStateValues } from "../../shared/api-types";
import { Badge, Button, Field, Notice, Select } from "../../shared/ui";
import { api, data } from "../api";
import type { Notification } from "../api";
import { chosen } from "../choices";
import { Days, day } from "../days";
import { useFilter } from "../filter";
import type { Page } from "../page";
import { Facts, Loading, PageHead, Paged, PersonLink, ReferenceLink, Table, Time } from "../parts";
import { ask } from "../queries";

export const page: Page = {
  path: "audit/messages",
  title: "Messages",
  place: "audit",
  beside: { at: 2, title: "Messages" },
  element: Messages,
};

const tones: Record<Notification["state"], "ok" | "info" | "warn" | "bad" | "none"> = {
  queued: "info",
  sending: "info",
  sent: "ok",
  failed: "bad",
  uncertain: "warn",
  bounced: "bad",
  expired: "none",
};

/** What was sent to people and administrators, and what became of it. */
export function Messages() {
  const filter = useFilter();
  const wanted = {
    state: chosen(notificationStateValues, filter.get("state")),
    kind: chosen(notificationKindValues, filter.get("kind")),
    channel: chosen(notificationChannelValues, filter.get("channel")),
    reference: filter.get("reference"),
    person: filter.get("person"),
    since: day(filter.get("since"), 0),
    until: day(filter.get("until"), 1),
  };
  const messages = useInfiniteQuery(ask.notifications(wanted));
  const some = Object.values(wanted).some(Boolean);
  return (
    <>
      <PageHead title="Messages" under="What was sent to people and administrators, newest first.">
        {some && (
          <Button onClick={() => filter.set(Object.fromEntries(Object.keys(wanted).map((name) => [name, null])))}>
            Clear filters
          </Button>
        )}
      </PageHead>
      <div className="mb-4 flex flex-wrap items-end gap-3">
        <Select
          label="State"
          value={wanted.state ?? ""}
          onChange={(state) => filter.set({ state: state || null })}
          options={["", ...notificationStateValues]}
        />
        <Select
          label="Message"
          value={wanted.kind ?? ""}
          onChange={(kind) => filter.set({ kind: kind || null })}
          options={["", ...notificationKindValues]}
        />
        <Select
          label="By"
          value={wanted.channel ?? ""}
          onChange={(channel) => filter.set({ channel: channel || null })}
          options={["", ...notificationChannelValues]}
        />
        <Days filter={filter} />
        <Reference
          key={wanted.reference}
          value={wanted.reference}
          onChange={(reference) => filter.set({ reference: reference || null })}
        />
      </div>
      <Paged query={messages}>
        {(rows) => (
          <Table<Notification>
            name="Messages"
            rows={rows}
            keyOf={(row) => row.id}
            empty={some ? "No message matches. Remove a filter to see more." : "Nothing has been sent yet."}
            columns={[
              { title: "Queued", value: (row) => <Time at={row.createdAt} /> },
              {
                title: "Message",
                value: (row) => <One id={row.id} kind={row.kind} />,
              },
              { title: "To", wide: true, value: (row) => <To message={row} /> },
              { title: "About", value: (row) => row.reference && <ReferenceLink reference={row.reference} /> },
              {
                title: "State",
                wide: true,
                value: (row) => (
                  <>
                    <Badge tone={row.arrival === "undelivered" ? "bad" : tones[row.state]}>
                      {row.arrival ?? row.state}
                    </Badge>
                    {row.why && <span className="text-muted ml-2 text-sm">{row.why}</span>}
                  </>
                ),
              },
            ]}
          />
        )}
      </Paged>
    </>
  );
}

function To({ message }: { message: Notification }) {
  return (
    <>
      {message.administrator && <span className="font-medium">{message.administrator} </span>}
      {message.recipient ? (
        message.person ? (
          <PersonLink id={message.person} name={message.recipient} />
        ) : (
          message.recipient
        )
      ) : (
        <span className="text-muted">no one</span>
      )}
      {message.channel !== "mail" && <span className="text-muted"> by {message.channel}</span>}
    </>
  );
}

function Reference({ value, onChange }: { value: string; onChange: (reference: string) => void }) {
  const [typed, setTyped] = useState(value);
  return (
    <form
      className="flex items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        onChange(typed.trim());
      }}
    >
      <Field label="Reference" value={typed} onChange={(event) => setTyped(event.target.value)} />
      <Button type="submit">Find</Button>
    </form>
  );
}

/** One message, with what it says while that is kept. */
function One({ id, kind }: { id: string; kind: string }) {
  const [open, setOpen] = useState(false);
  return (
    <Modal
      open={open}
      onOpenChange={setOpen}
      wide
      title={kind}
      description="What became of it, and what it says while that is kept."
      trigger={
        <button type="button" className="text-accent-ink rounded-sm text-left underline">
          {kind}
        </button>
      }
    >
      <Detail id={id} />
    </Modal>
  );
}

function Detail({ id }: { id: string }) {
  const message = useQuery(ask.notification(id));
  const again = useMutation({
    meta: { touches: ["notifications"], saidHere: true },
    mutationFn: () => data(api.POST("/api/v1/notifications/{id}/repetitions", { params: { path: { id } } })),
  });
  return (
    <Loading query={message}>
      {() => {
        const one = message.data!;
        return (
          <div className="flex flex-col gap-4">
            <Facts
              facts={[
                ["To", <To key="to" message={one} />],
                ["Queued", <Time key="queued" at={one.createdAt} />],
                ["State", [one.state, one.arrival, one.why].filter(Boolean).join(", ")],
                ...(one.endedAt
                  ? ([["Ended", <Time key="ended" at={one.endedAt} />]] as [string, React.ReactNode][])
                  : []),
                ...(one.nextTry
                  ? ([["Next try", <Time key="next" at={one.nextTry} />]] as [string, React.ReactNode][])
                  : []),
                ...(one.gateway ? ([["Gateway", one.gateway]] as [string, React.ReactNode][]) : []),
              ]}
            />
            {one.text ? (
              <div className="border-line bg-sunken rounded-lg border p-4">
                {one.text.subject && <p className="mb-3 font-semibold">{one.text.subject}</p>}
                <pre className="font-sans whitespace-pre-wrap" lang={one.text.language}>
                  {one.text.text}
                </pre>
              </div>
            ) : (
              <p className="text-muted">
                What it says isn’t kept: codes and links are dropped when they’re sent, news after a week.
              </p>
            )}
            {again.error && <Notice tone="bad">{said(again.error)}</Notice>}
            {again.isSuccess && <Notice tone="ok">It’s queued again.</Notice>}
            {one.repeatable && !again.isSuccess && (
              <ModalFoot close="Close">
                <Button busy={again.isPending} onClick={() => again.mutate()}>
                  Send it again
                </Button>
              </ModalFoot>
            )}
          </div>
        );
      }}
    </Loading>
  );
}
