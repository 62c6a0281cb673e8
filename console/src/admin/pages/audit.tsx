import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { clsx } from "clsx";
import { useParams } from "react-router";
import { Button, Notice, Select } from "../../shared/ui";
import { attemptStateValues } from "../../shared/api-types";
import { chosen } from "../choices";
import { DeliveryFacts } from "./deliveries";
import { LiftLimits } from "./pressure";
import { Loading, PageHead, Paged, PersonLink, ReferenceLink, Section, State, Table, Time, decoys } from "../parts";
import { ask } from "../queries";
import type { Page } from "../page";
import { Days, day } from "../days";
import { useFilter } from "../filter";

export const pages: Page[] = [
  { path: "audit", title: "Audit", place: "audit", beside: { at: 1, title: "Attempts" }, element: Audit },
  { path: "audit/attempts/:reference", title: "Attempt", place: "audit", element: Attempt },
];

export function Audit() {
  const filter = useFilter();
  const state = chosen(attemptStateValues, filter.get("state"));
  const attempts = useInfiniteQuery(
    ask.attempts({ state, since: day(filter.get("since"), 0), until: day(filter.get("until"), 1) }),
  );
  const some = ["state", "since", "until"].some(filter.get);
  return (
    <>
      <PageHead title="Audit" under="Every attempt, newest first. Open one to see all that happened to it.">
        {some && <Button onClick={() => filter.set({ state: null, since: null, until: null })}>Clear filters</Button>}
      </PageHead>
      <div className="mb-4 flex flex-wrap items-end gap-3">
        <Select
          label="State"
          value={state ?? ""}
          onChange={(value) => filter.set({ state: value || null })}
          options={["", ...attemptStateValues]}
        />
        <Days filter={filter} />
      </div>
      <Paged query={attempts}>
        {(rows) => (
          <Table
            name="Attempts"
            rows={rows}
            keyOf={(row) => row.reference}
            empty={
              some ? "No attempt matches. Remove a filter to see more." : "No one has tried to recover anything yet."
            }
            columns={[
              {
                title: "Reference",
                value: (row) => <ReferenceLink reference={row.reference} />,
              },
              { title: "Started", value: (row) => <Time at={row.createdAt} /> },
              { title: "State", value: (row) => <State state={row.state} /> },
              {
                title: "Person",
                value: (row) =>
                  row.personName ? (
                    <PersonLink id={row.person} name={row.personName} />
                  ) : (
                    <span className="text-muted">no one by that name</span>
                  ),
              },
              {
                title: "Policy",
                wide: true,
                value: (row) => row.policy || <span className="text-muted">{decoys[row.cause] ?? "none"}</span>,
              },
            ]}
          />
        )}
      </Paged>
    </>
  );
}

export function Attempt() {
  const { reference = "" } = useParams();
  const attempt = useQuery({
    ...ask.attempt(reference),
    refetchInterval: (query) => (query.state.data?.attempt.endedAt ? false : 2000),
  });
  return (
    <Loading query={attempt}>
      {() => {
        const { attempt: row, deliveries, timeline, reason, limits } = attempt.data!;
        const longest = Math.max(1, ...timeline.map((_, at) => took(timeline, at)));
        return (
          <>
            <PageHead
              title={<span className="font-mono">{row.reference}</span>}
              under={
                <>
                  {row.action} by{" "}
                  {row.personName ? <PersonLink id={row.person} name={row.personName} /> : "no one by that name"},{" "}
                  {row.createdAt ? <Time at={row.createdAt} /> : "purged by now; the record keeps what happened"}{" "}
                  <State state={row.state} />
                </>
              }
            >
              <Button
                onClick={() => window.location.assign(`/api/v1/attempts/${encodeURIComponent(row.reference)}/report`)}
              >
                Report (PDF)
              </Button>
            </PageHead>
            {reason && (
              <div className="mb-5">
                <Notice tone="info" title="This could not succeed">
                  <p>
                    {decoys[reason] ?? reason} The person who typed the name saw the same pages as anyone else. No code
                    was sent.
                  </p>
                </Notice>
              </div>
            )}
            {limits.length > 0 && (
              <Section title="Limits in the way">
                <ul className="mb-3 list-disc pl-5">
                  {limits.map((one) => (
                    <li key={one}>{one}</li>
                  ))}
                </ul>
                {row.person && <LiftLimits person={row.person} />}
              </Section>
            )}
            {deliveries.length > 0 && (
              <Section title="What the directories answered">
                <ul className="flex flex-col gap-3">
                  {deliveries.map((one) => (
                    <li key={one.id} className="border-line bg-surface rounded-lg border p-4">
                      <p className="mb-2 flex flex-wrap items-center gap-2">
                        <strong className="font-semibold">{one.directory}</strong> {one.login}
                        <span className="text-muted">{one.action}</span>
                        <State state={one.state} />
                      </p>
                      <DeliveryFacts delivery={one} />
                    </li>
                  ))}
                </ul>
              </Section>
            )}
            <Section title="Timeline">
              <ol className="border-line bg-surface rounded-lg border">
                {timeline.map((event, at) => {
                  const millis = took(timeline, at);
                  return (
                    <li
                      key={event.id}
                      className="border-line grid grid-cols-[auto_1fr] gap-x-4 border-b px-4 py-2 last:border-0 md:grid-cols-[11rem_1fr_9rem]"
                    >
                      <span className="text-muted text-sm">
                        <Time at={event.at} />
                      </span>
                      <span
                        className={clsx(
                          "min-w-0",
                          (event.severity === "warning" || event.severity === "alert") && "text-bad",
                        )}
                      >
                        {event.sentence}
                      </span>
                      <span className="text-muted col-span-2 flex items-center justify-end gap-2 text-sm max-md:hidden md:col-span-1">
                        <svg aria-hidden viewBox="0 0 60 6" className="h-1.5 w-15">
                          <rect width={Math.max(1, (millis / longest) * 60)} height="6" rx="2" fill="var(--s1)" />
                        </svg>
                        <span className="w-16 text-right">
                          {millis < 10_000 ? `${millis} ms` : `${Math.round(millis / 1000)} s`}
                        </span>
                      </span>
                    </li>
                  );
                })}
              </ol>
            </Section>
          </>
        );
      }}
    </Loading>
  );
}

/** Milliseconds from the step before to this one. */
function took(timeline: { at: string }[], step: number): number {
  return step === 0 ? 0 : Date.parse(timeline[step]!.at) - Date.parse(timeline[step - 1]!.at);
}
