import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { ReactNode } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { said } from "../../shared/problem";
import { Badge, Button, Disclosure, Field, Lines, Notice } from "../../shared/ui";
import { api, data } from "../api";
import type { Directory as DirectoryData, Job } from "../api";
import { Facts, Findings, Loading, PageHead, Section, Table, Time } from "../parts";
import { ask } from "../queries";
import type { Page } from "../page";

export const pages: Page[] = [
  {
    path: "directories",
    title: "Directories",
    place: "directories",
    beside: { at: 1, title: "All directories" },
    element: Directories,
  },
  { path: "directories/:name", title: "Directory", place: "directories", element: Directory },
];

const kinds: Record<string, string> = {
  "active-directory": "Active Directory kind",
  ldap: "standard LDAP kind",
  scim: "SCIM service",
  local: "local command",
};

export function Directories() {
  const directories = useQuery(ask.directories());
  return (
    <>
      <PageHead title="Directories" under="Where passwords are written, and by which stewards.">
        <Link to="/directories/connect">
          <Button>Connect a directory</Button>
        </Link>
      </PageHead>
      <Loading query={directories}>
        {() => (
          <Table
            name="Directories"
            rows={directories.data!}
            keyOf={(one) => one.id}
            empty={
              <>
                <p>No directory is connected yet.</p>
                <p>
                  <Link to="/directories/connect" className="text-accent-ink rounded-sm underline">
                    Connect the first one
                  </Link>
                  ; the page leads through it.
                </p>
              </>
            }
            columns={[
              {
                title: "Directory",
                value: (one) => (
                  <Link to={`/directories/${one.name}`} className="text-accent-ink rounded-sm font-medium underline">
                    {one.title}
                  </Link>
                ),
              },
              { title: "Kind", value: (one) => kinds[one.kind] },
              { title: "Accounts", value: (one) => one.accounts },
              { title: "Read", value: (one) => <Time at={one.syncedAt} /> },
              { title: "Waiting", value: (one) => one.waitingDeliveries },
              {
                title: "Attention",
                wide: true,
                value: (one) =>
                  one.attention.length === 0 ? <Badge tone="ok">all well</Badge> : one.attention.join(" "),
              },
            ]}
          />
        )}
      </Loading>
    </>
  );
}

export function Directory() {
  const { name = "" } = useParams();
  const directory = useQuery({
    ...ask.directory(name),
    // Long work is followed while it runs.
    refetchInterval: (query) => (running(query.state.data) ? 500 : 10_000),
  });
  const start = useMutation({
    meta: { touches: ["directories"], saidHere: true },
    mutationFn: (kind: "preflight" | "sync") =>
      data(
        kind === "preflight"
          ? api.POST("/api/v1/directories/{name}/preflight", { params: { path: { name } } })
          : api.POST("/api/v1/directories/{name}/sync", { params: { path: { name } } }),
      ),
  });
  return (
    <Loading query={directory}>
      {() => {
        const one = directory.data!;
        return (
          <>
            <PageHead title={one.title} under={`${one.name}, ${kinds[one.kind]}`}>
              <Button
                busy={(start.isPending && start.variables === "preflight") || active(one.lastPreflight)}
                onClick={() => start.mutate("preflight")}
              >
                Run preflight
              </Button>
              <Button
                busy={(start.isPending && start.variables === "sync") || active(one.lastSync)}
                onClick={() => start.mutate("sync")}
              >
                Read people now
              </Button>
              <Suspension directory={one} />
            </PageHead>
            {start.error && (
              <div className="mb-5">
                <Notice tone="bad">{said(start.error)}</Notice>
              </div>
            )}
            {one.attention.length > 0 && (
              <div className="mb-5">
                <Notice tone="warn" title="Needs attention">
                  {one.attention.map((text) => (
                    <p key={text}>{text}</p>
                  ))}
                </Notice>
              </div>
            )}
            <Section title="Preflight">
              <Preflight job={one.lastPreflight} />
            </Section>
            <Section title="Stewards">
              <Table
                name="Stewards"
                rows={one.stewards}
                keyOf={(steward) => steward.id}
                empty={
                  <>
                    No steward has joined. Admit one:{" "}
                    <code className="font-mono">entente steward admit --directory {one.name} NAME</code>
                  </>
                }
                columns={[
                  { title: "Steward", value: (steward) => <span className="font-medium">{steward.name}</span> },
                  {
                    title: "Roster",
                    value: (steward) =>
                      steward.state === "listed" ? (
                        <Badge tone="ok">signed in, version {one.rosterVersion}</Badge>
                      ) : steward.state === "joined" ? (
                        <Badge tone="warn">not signed in yet</Badge>
                      ) : (
                        <Badge tone={steward.state === "copied" ? "bad" : "none"}>{steward.state}</Badge>
                      ),
                  },
                  {
                    title: "Connection",
                    value: (steward) =>
                      steward.connected ? <Badge tone="ok">connected</Badge> : <Badge tone="bad">not connected</Badge>,
                  },
                  { title: "Last seen", value: (steward) => <Time at={steward.lastSeen} /> },
                  { title: "Server", value: (steward) => steward.server },
                  { title: "Certificate", value: (steward) => <Days until={steward.certificateEnds} /> },
                  { title: "Service answers in", value: (steward) => `${steward.latencyMillis} ms` },
                  { title: "Holds", value: (steward) => `${steward.held} orders` },
                  { title: "Version", wide: true, value: (steward) => steward.version },
                ]}
              />
            </Section>
            <Section title="Connection">
              <Facts
                facts={[
                  ["Servers", one.servers.join(", ")],
                  ["People below", one.base],
                  ...(one.groupBase ? ([["Groups below", one.groupBase]] as [string, ReactNode][]) : []),
                  ...(one.serviceAccount ? ([["Service account", one.serviceAccount]] as [string, ReactNode][]) : []),
                  ["People are matched by", one.correlation],
                  ["Further sign-in names", one.loginAttributes.join(", ") || "none"],
                  ["Protected groups", one.protectedGroups.join("; ") || "none"],
                  ["Mailboxes with the same password", one.mailboxes.join(", ") || "none"],
                  ["Trust", `${one.trust} (a lower number is believed more)`],
                  ["Largest loss in a sync", `${one.lossShare} % before it stops and asks`],
                  ["Operator key", <span className="font-mono text-sm break-all">{one.operatorKey}</span>],
                  ["Read", `${one.accounts} accounts and ${one.groups} groups`],
                  ["Last read", <Sync job={one.lastSync} at={one.syncedAt} />],
                  ["Changes", one.followsChanges ? "follow within seconds" : "come with the next full comparison"],
                  ["Deliveries waiting", one.waitingDeliveries],
                ]}
              />
            </Section>
            <Section title="Change">
              <Edit key={one.id} directory={one} />
            </Section>
            <Section title="Remove">
              <Remove name={one.name} />
            </Section>
          </>
        );
      }}
    </Loading>
  );
}

function active(job: Job | null | undefined): boolean {
  return job != null && !job.endedAt;
}

function running(one: DirectoryData | undefined): boolean {
  return active(one?.lastPreflight) || active(one?.lastSync);
}

function Preflight({ job }: { job: Job | null }) {
  if (!job) {
    return <p className="text-muted">Not run yet. Run it before anyone needs the directory.</p>;
  }
  if (!job.endedAt) {
    return (
      <p role="status" className="text-muted">
        {job.state === "waiting" ? "Waiting for a steward …" : "Looking …"}
      </p>
    );
  }
  return (
    <>
      <p className="text-muted mb-2 text-sm">
        Run <Time at={job.endedAt} />
      </p>
      {job.message && <Notice tone="bad">{job.message}</Notice>}
      {job.findings.length > 0 && <Findings findings={job.findings} />}
    </>
  );
}

function Days({ until }: { until: string | null }) {
  if (!until) return null;
  const days = Math.floor((Date.parse(until) - Date.now()) / 86_400_000);
  return days > 30 ? <>{days} days</> : <Badge tone={days > 0 ? "warn" : "bad"}>{days} days</Badge>;
}

/** Stops deliveries at once, and lets them go on. */
function Suspension({ directory }: { directory: DirectoryData }) {
  const suspended = Boolean(directory.suspendedAt);
  const turn = useMutation({
    meta: { touches: ["directories"] },
    mutationFn: () => {
      const params = { params: { path: { name: directory.name } } };
      return suspended
        ? data(api.DELETE("/api/v1/directories/{name}/suspension", params))
        : data(api.POST("/api/v1/directories/{name}/suspension", params));
    },
  });
  const accept = useMutation({
    meta: { touches: ["directories"] },
    mutationFn: () =>
      data(api.POST("/api/v1/directories/{name}/loss-accepted", { params: { path: { name: directory.name } } })),
  });
  return (
    <>
      {directory.lastSync?.state === "held" && (
        <Button look="danger" busy={accept.isPending} onClick={() => accept.mutate()}>
          These accounts are gone
        </Button>
      )}
      <Button busy={turn.isPending} onClick={() => turn.mutate()}>
        {suspended ? "Resume deliveries" : "Suspend deliveries"}
      </Button>
    </>
  );
}

function Edit({ directory }: { directory: DirectoryData }) {
  const [form, setForm] = useState({
    title: directory.title,
    base: directory.base ?? "",
    groupBase: directory.groupBase ?? "",
    correlation: directory.correlation,
    loginAttributes: directory.loginAttributes.join(" "),
    protectedGroups: directory.protectedGroups.join("\n"),
    mailboxes: directory.mailboxes.join(" "),
    trust: String(directory.trust),
    lossShare: String(directory.lossShare),
  });
  const save = useMutation({
    meta: { touches: ["directories"], saidHere: true },
    mutationFn: () =>
      data(
        api.PUT("/api/v1/directories/{name}/settings", {
          params: { path: { name: directory.name } },
          body: {
            title: form.title,
            base: form.base || undefined,
            groupBase: form.groupBase || undefined,
            correlation: form.correlation,
            loginAttributes: form.loginAttributes.split(/\s+/).filter(Boolean),
            protectedGroups: form.protectedGroups.split("\n").filter((line) => line.trim()),
            mailboxes: form.mailboxes.split(/[\s,]+/).filter(Boolean),
            trust: Number(form.trust),
            lossShare: Number(form.lossShare),
          },
        }),
      ),
  });
  const field = (name: keyof typeof form, label: string, hint?: string) => (
    <Field
      label={label}
      hint={hint}
      value={form[name]}
      onChange={(event) => setForm({ ...form, [name]: event.target.value })}
    />
  );
  return (
    <Disclosure summary="What the service knows" framed>
      <form
        className="grid gap-4 md:grid-cols-2"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        {field("title", "Title")}
        {field("correlation", "Correlation attribute", "A changed value opens a case instead of moving the account")}
        {field("base", "People below")}
        {field("groupBase", "Groups below", "Leave empty to use the same")}
        {field("loginAttributes", "Further sign-in names", "Names of attributes, separated by spaces")}
        {field(
          "mailboxes",
          "Mailboxes with the same password",
          "Domains, such as skerry.test. No code goes there unless a policy says so",
        )}
        {field("trust", "Trust", "1 is believed most; addresses come from the most trusted directory")}
        {field("lossShare", "Largest loss in a sync, in per cent", "A larger loss stops the sync and asks you")}
        <Lines
          label="Protected groups"
          hint="One per line. Their members count as privileged"
          value={form.protectedGroups}
          onChange={(protectedGroups) => setForm({ ...form, protectedGroups })}
        />
        <div className="flex flex-col gap-3 md:col-span-2">
          <p className="text-muted text-sm">
            How the steward reaches the directory and signs in is set in the steward’s own file.
          </p>
          {save.error && <Notice tone="bad">{said(save.error)}</Notice>}
          {save.isSuccess && <Notice tone="ok">Saved. Preflight runs again automatically.</Notice>}
          <Button type="submit" look="primary" busy={save.isPending} className="self-start">
            Save
          </Button>
        </div>
      </form>
    </Disclosure>
  );
}

/** Says first what it would do, and asks for the name. */
function Remove({ name }: { name: string }) {
  const navigate = useNavigate();
  const [open, setOpen] = useState(false);
  const [typed, setTyped] = useState("");
  const removal = useQuery({ ...ask.removal(name), enabled: open });
  const remove = useMutation({
    meta: { touches: ["directories"], saidHere: true },
    mutationFn: () =>
      data(api.DELETE("/api/v1/directories/{name}", { params: { path: { name } }, body: { name: typed } })),
    onSuccess: async () => {
      // Where another administrator has to approve it, it is there still, and waits under Settings.
      await navigate("/directories");
    },
  });
  return (
    <Disclosure summary="What removing it would do" framed onToggle={(event) => setOpen(event.currentTarget.open)}>
      {removal.data && (
        <form
          className="flex max-w-xl flex-col gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            remove.mutate();
          }}
        >
          <p>
            {removal.data.accounts} accounts would be forgotten, {removal.data.onlyHere} of them of people who have no
            other, and {removal.data.stewards} stewards retired. Attempts, deliveries and the record stay.
          </p>
          {removal.data.policies.length > 0 ? (
            <Notice tone="warn">
              These policies deliver to it: {removal.data.policies.join(", ")}. Publish a revision without it first.
            </Notice>
          ) : (
            <>
              <Field
                label={`Type ${name} to remove it`}
                value={typed}
                onChange={(event) => setTyped(event.target.value)}
                error={remove.error ? said(remove.error) : undefined}
              />
              <Button
                type="submit"
                look="danger"
                disabled={typed !== name}
                busy={remove.isPending}
                className="self-start"
              >
                Remove it
              </Button>
            </>
          )}
        </form>
      )}
    </Disclosure>
  );
}

function Sync({ job, at }: { job: Job | null; at: string | null }) {
  if (active(job)) return <span role="status">reading, {job!.done} entries so far …</span>;
  return (
    <>
      <Time at={at} />
      {job?.state === "failed" && <span className="text-bad"> · the last try failed: {job.message}</span>}
    </>
  );
}
