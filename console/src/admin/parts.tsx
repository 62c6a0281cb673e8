import { clsx } from "clsx";
import { LoaderCircle } from "lucide-react";
import type { ReactNode } from "react";
import { Link, NavLink, Outlet } from "react-router";
import { said } from "../shared/problem";
import { Badge, Button, Empty, Notice } from "../shared/ui";
import type { Finding } from "./api";
import type { Page } from "./page";

/** The head of a page: what it is, and what can be done. */
export function PageHead({ title, children, under }: { title: ReactNode; children?: ReactNode; under?: ReactNode }) {
  return (
    <div className="mb-5 flex flex-wrap items-start justify-between gap-3">
      <div className="min-w-0">
        <h1 className="text-xl font-semibold">{title}</h1>
        {under && <p className="text-muted">{under}</p>}
      </div>
      {children && <div className="flex flex-wrap gap-2">{children}</div>}
    </div>
  );
}

/** Pages that belong together: a way from each to the others, above them. */
export function PagesBeside({ pages }: { pages: Page[] }) {
  return (
    <>
      <nav aria-label="Related pages" className="border-line mb-5 flex flex-wrap gap-1 border-b pb-2">
        {pages.map((page) => (
          <NavLink
            key={page.path}
            to={`/${page.path}`}
            end
            className={({ isActive }) =>
              clsx("rounded-md px-3 py-1", isActive ? "bg-accent-soft text-accent-ink font-medium" : "hover:bg-sunken")
            }
          >
            {page.beside!.title}
          </NavLink>
        ))}
      </nav>
      <Outlet />
    </>
  );
}

export function Section({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="mb-7">
      <h2 className="mb-2 text-lg font-semibold">{title}</h2>
      {children}
    </section>
  );
}

/** What is shown while something loads, and when it could not be. What is there already stays, with what is typed in it. */
export function Loading({
  query,
  children,
}: {
  query: { isPending: boolean; error: unknown; data?: unknown; refetch: () => unknown };
  children: () => ReactNode;
}) {
  const trouble = Boolean(query.error) && (
    <Notice
      tone="bad"
      title={query.data === undefined ? "This couldn’t be loaded" : "What you see below may be out of date"}
    >
      <p>{said(query.error)}</p>
      <Button onClick={() => void query.refetch()} className="self-start">
        Try again
      </Button>
    </Notice>
  );
  if (query.data !== undefined) {
    return (
      <>
        {trouble && <div className="mb-4">{trouble}</div>}
        {children()}
      </>
    );
  }
  if (trouble) return trouble;
  if (query.isPending) {
    return (
      <p role="status" className="text-muted flex items-center gap-2">
        <LoaderCircle aria-hidden className="size-4 animate-spin" /> Loading …
      </p>
    );
  }
  return <>{children()}</>;
}

/** What comes in pages: what there is of it, and a button for more. */
export function Paged<T>({
  query,
  beside,
  children,
}: {
  query: {
    isPending: boolean;
    error: unknown;
    refetch: () => unknown;
    data: { pages: { items: T[] }[] } | undefined;
    hasNextPage: boolean;
    isFetchingNextPage: boolean;
    fetchNextPage: () => unknown;
  };
  beside?: (rows: T[]) => ReactNode;
  children: (rows: T[]) => ReactNode;
}) {
  return (
    <Loading query={query}>
      {() => {
        const rows = query.data!.pages.flatMap((page) => page.items);
        return (
          <>
            {children(rows)}
            {(query.hasNextPage || beside) && (
              <div className="mt-3 flex gap-2">
                {query.hasNextPage && (
                  <Button busy={query.isFetchingNextPage} onClick={() => void query.fetchNextPage()}>
                    Show more
                  </Button>
                )}
                {beside?.(rows)}
              </div>
            )}
          </>
        );
      }}
    </Loading>
  );
}

export interface Column<T> {
  title: string;
  value: (row: T) => ReactNode;
  wide?: boolean;
}

/** A plain table; scrolls by itself on narrow screens. */
export function Table<T>({
  name,
  rows,
  columns,
  keyOf,
  empty,
}: {
  name: string;
  rows: T[];
  columns: Column<T>[];
  keyOf: (row: T) => string;
  empty: ReactNode;
}) {
  if (rows.length === 0) {
    return <Empty>{empty}</Empty>;
  }
  return (
    <div
      role="region"
      aria-label={name}
      tabIndex={0}
      className="border-line bg-surface overflow-x-auto rounded-lg border"
    >
      <table className="w-full border-collapse text-left">
        <thead>
          <tr className="border-line text-muted border-b text-sm">
            {columns.map((column) => (
              <th key={column.title} scope="col" className="px-3 py-2 font-medium whitespace-nowrap">
                {column.title}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row) => (
            <tr key={keyOf(row)} className="border-line hover:bg-sunken border-b last:border-0">
              {columns.map((column) => (
                <td
                  key={column.title}
                  className={clsx("px-3 py-2 align-baseline", column.wide ? "w-full" : "md:whitespace-nowrap")}
                >
                  {column.value(row)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

/** Names and values, as they are read. */
export function Facts({ facts }: { facts: [string, ReactNode][] }) {
  return (
    <dl className="grid grid-cols-1 gap-x-6 gap-y-1.5 sm:grid-cols-[max-content_1fr]">
      {facts.map(([name, value]) => (
        <div key={name} className="contents">
          <dt className="text-muted">{name}</dt>
          <dd className="mb-2 min-w-0 break-words sm:mb-0">{value}</dd>
        </div>
      ))}
    </dl>
  );
}

const severities = { ok: "ok", info: "info", warning: "warn", error: "bad" } as const;

/** Findings, the worst first. */
export function Findings({ findings }: { findings: Finding[] }) {
  const order = ["error", "warning", "info", "ok"];
  const sorted = [...findings].sort((a, b) => order.indexOf(a.severity) - order.indexOf(b.severity));
  return (
    <ul className="divide-line border-line bg-surface divide-y rounded-lg border">
      {sorted.map((finding) => (
        <li key={finding.code + finding.evidence} className="flex flex-col gap-1 p-3 sm:flex-row sm:gap-4">
          <span className="w-24 shrink-0">
            <Badge tone={severities[finding.severity as keyof typeof severities] ?? "info"}>{finding.severity}</Badge>
          </span>
          <div className="min-w-0">
            <p>{finding.cause}</p>
            {finding.evidence && <p className="text-muted text-sm break-all">{finding.evidence}</p>}
            {finding.whatToDo && <p className="text-sm">What to do: {finding.whatToDo}</p>}
          </div>
        </li>
      ))}
    </ul>
  );
}

const states: Record<string, "ok" | "info" | "warn" | "bad" | "none"> = {
  completed: "ok",
  done: "ok",
  delivering: "info",
  proving: "none",
  proved: "info",
  identified: "none",
  incomplete: "warn",
  unknown: "warn",
  refused: "bad",
  failed: "bad",
  blocked: "bad",
  expired: "none",
};

export function State({ state }: { state: string }) {
  return <Badge tone={states[state] ?? "none"}>{state}</Badge>;
}

const format = new Intl.DateTimeFormat("en-GB", { dateStyle: "medium", timeStyle: "medium" });

/** A time as people read it, with the exact one for machines. */
export function Time({ at }: { at: string | null | undefined }) {
  if (!at) return <span className="text-muted">never</span>;
  return (
    <time dateTime={at} className="whitespace-nowrap">
      {format.format(new Date(at))}
    </time>
  );
}

/** A name that leads to its person. */
export function PersonLink({ id, name }: { id: string; name: string }) {
  return (
    <Link to={`/people/${id}`} className="text-accent-ink rounded-sm font-medium underline">
      {name}
    </Link>
  );
}

/** A reference that leads to its attempt. */
export function ReferenceLink({ reference }: { reference: string }) {
  return (
    <Link
      to={`/audit/attempts/${encodeURIComponent(reference)}`}
      className="text-accent-ink rounded-sm font-mono whitespace-nowrap underline"
    >
      {reference}
    </Link>
  );
}

/** Why a decoy was one, in words. */
export const decoys: Record<string, string> = {
  "tries-from-unknown-places": "Strangers have used up every method this person could use from unfamiliar places.",
  "unknown-name": "No one has that name.",
  "not-covered": "No policy covers the person.",
  "action-off": "The policy doesn’t allow it.",
  "no-account": "The person has no account to write to.",
  "account-disabled": "An account is disabled.",
  "no-mail": "No e-mail address is known.",
  "mailbox-locked": "The only mailbox known opens with the person’s own password.",
  "device-unknown": "It takes a device that the person used before.",
  "reset-limit": "The person has used up the resets for this period.",
  "reset-wait": "The pause between two resets is not over.",
  "tries-limit": "Too many wrong answers were given for this person.",
  "methods-missing": "The person hasn’t enrolled the methods the policy requires.",
  "channel-broken": "The channel for a required method isn’t working.",
  "account-inactive": "The person hasn’t signed in for too long.",
  refused: "The policy refuses it under these circumstances.",
};
