import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { Button, Notice } from "../../shared/ui";
import { Loading, PageHead, Section, State, Time } from "../parts";
import { StopAt } from "./stops";
import { ask } from "../queries";
import type { Page } from "../page";

export const page: Page = { path: "", title: "Today", place: "today", element: Today };

/** What needs attention, and how the last day went. */
export function Today() {
  const today = useQuery(ask.today());
  return (
    <>
      <PageHead title="Today" under="What needs attention, and the last 24 hours." />
      <Loading query={today}>
        {() => {
          const now = today.data!;
          const outcomes = Object.entries(now.outcomes);
          return (
            <>
              <dl className="divide-line border-line bg-surface mb-7 grid grid-cols-2 overflow-hidden rounded-lg border sm:grid-cols-4 sm:divide-x">
                <Figure name="People" value={now.people} />
                <Figure
                  name="Covered by a policy"
                  value={now.people ? `${Math.round((now.covered / now.people) * 100)} %` : "–"}
                  under={`${now.covered} people`}
                />
                <Figure name="Revision in force" value={now.revision || "none"} />
                <Figure
                  name="Events on record"
                  value={now.recordSize}
                  under={
                    now.recordSignedAt ? (
                      <>
                        signed <Time at={now.recordSignedAt} />
                      </>
                    ) : (
                      "none yet"
                    )
                  }
                />
              </dl>
              <Section title="Needs attention">
                {now.attention.length === 0 ? (
                  <Notice tone="ok">Nothing needs attention.</Notice>
                ) : (
                  <ul className="flex flex-col gap-2">
                    {now.attention.map((one) => (
                      <li key={one.text}>
                        <Notice tone={one.severity === "error" ? "bad" : "warn"}>
                          <p>{one.text}</p>
                          <span className="flex items-center gap-4">
                            <Link to={`/${one.page}`} className="rounded-sm underline">
                              Look
                            </Link>
                            {one.stop && (
                              <StopAt what={one.stop}>
                                <Button>Stop {one.stop} …</Button>
                              </StopAt>
                            )}
                          </span>
                        </Notice>
                      </li>
                    ))}
                  </ul>
                )}
              </Section>
              <Section title="Attempts in the last 24 hours">
                {now.madeUp > 0 && (
                  <p className="text-muted mb-2">
                    Beside these,{" "}
                    <Link to="/audit/pressure" className="rounded-sm underline">
                      {now.madeUp} for names that don’t exist
                    </Link>
                    .
                  </p>
                )}
                {outcomes.length === 0 ? (
                  <p className="text-muted">No one has tried to recover anything.</p>
                ) : (
                  <ul className="flex flex-wrap gap-x-6 gap-y-2">
                    {outcomes.map(([state, count]) => (
                      <li key={state}>
                        <Link to={`/audit?state=${state}`} className="flex items-center gap-2 rounded-sm">
                          <strong className="text-lg font-semibold">{count}</strong> <State state={state} />
                        </Link>
                      </li>
                    ))}
                  </ul>
                )}
              </Section>
            </>
          );
        }}
      </Loading>
    </>
  );
}

function Figure({ name, value, under }: { name: string; value: React.ReactNode; under?: React.ReactNode }) {
  return (
    <div className="p-4">
      <dt className="text-muted text-sm">{name}</dt>
      <dd className="text-xl font-semibold">{value}</dd>
      {under && <dd className="text-muted text-sm">{under}</dd>}
    </div>
  );
}
