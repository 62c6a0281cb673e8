import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useParams } from "react-router";
import { Problem } from "../shared/problem";
import { Badge, Button, Notice } from "../shared/ui";
import { api, data } from "./api";
import type { Directory as DirectoryData, Job } from "./api";
import { Facts, Findings, Loading, PageHead, Section, Table, Time } from "./parts";

const kinds: Record<string, string> = { "active-directory": "Active Directory kind", ldap: "standard LDAP kind" };

export function Directories() {
  const directories = useQuery({
    queryKey: ["directories"],
    queryFn: () => data(api.GET("/api/v1/directories")),
    refetchInterval: 10_000,
  });
  return (
    <>
      <PageHead title="Directories" under="Where passwords are written, and by which stewards." />
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
                  Connect one from the command line, where its operator key stays:{" "}
                  <code className="font-mono">entente directory add --help</code>
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
  const queries = useQueryClient();
  const directory = useQuery({
    queryKey: ["directories", name],
    queryFn: () => data(api.GET("/api/v1/directories/{name}", { params: { path: { name } } })),
    // Long work is followed while it runs.
    refetchInterval: (query) => (running(query.state.data) ? 500 : 10_000),
  });
  const start = useMutation({
    mutationFn: (kind: "preflight" | "sync") =>
      data(
        kind === "preflight"
          ? api.POST("/api/v1/directories/{name}/preflight", { params: { path: { name } } })
          : api.POST("/api/v1/directories/{name}/sync", { params: { path: { name } } }),
      ),
    onSettled: () => queries.invalidateQueries({ queryKey: ["directories", name] }),
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
            </PageHead>
            {start.error && (
              <div className="mb-5">
                <Notice tone="bad">{start.error instanceof Problem ? start.error.message : "Try again."}</Notice>
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
                      ) : (
                        <Badge tone="warn">not signed in yet</Badge>
                      ),
                  },
                  {
                    title: "Connection",
                    value: (steward) =>
                      steward.connected ? <Badge tone="ok">connected</Badge> : <Badge tone="bad">not connected</Badge>,
                  },
                  { title: "Last seen", value: (steward) => <Time at={steward.lastSeen} /> },
                  { title: "Version", wide: true, value: (steward) => steward.version },
                ]}
              />
            </Section>
            <Section title="Connection">
              <Facts
                facts={[
                  ["Servers", one.servers.join(", ")],
                  ["Base", one.base],
                  ["Service account", one.serviceAccount],
                  ["People are matched by", one.correlation],
                  ["Operator key", <span className="font-mono text-sm break-all">{one.operatorKey}</span>],
                  ["Read", `${one.accounts} accounts and ${one.groups} groups`],
                  ["Last read", <Sync job={one.lastSync} at={one.syncedAt} />],
                  ["Deliveries waiting", one.waitingDeliveries],
                ]}
              />
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
    return <p className="text-muted">It was never run. Run it before the first person needs the directory.</p>;
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

function Sync({ job, at }: { job: Job | null; at: number | null }) {
  if (active(job)) return <span role="status">reading, {job!.done} entries so far …</span>;
  return (
    <>
      <Time at={at} />
      {job?.state === "failed" && <span className="text-bad"> · the last try failed: {job.message}</span>}
    </>
  );
}
