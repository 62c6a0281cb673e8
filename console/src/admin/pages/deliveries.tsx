import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { Fragment, useState } from "react";
import { Button, Empty, Select } from "../../shared/ui";
import { choices, chosen } from "../choices";
import type { Delivery } from "../api";
import { Facts, PageHead, Paged, ReferenceLink, State, Time } from "../parts";
import { ask } from "../queries";
import type { Page } from "../page";
import { useFilter } from "../filter";

export const page: Page = {
  path: "directories/deliveries",
  title: "Deliveries",
  place: "directories",
  beside: { at: 2, title: "Deliveries" },
  element: Deliveries,
};

/** Every delivery: who has it, how long it took, and what the directory said. Filters stand in the address. */
export function Deliveries() {
  const filter = useFilter();
  const [open, setOpen] = useState("");
  const state = chosen(choices.deliveryState, filter.get("state"));
  const directory = filter.get("directory");
  const cause = filter.get("cause");
  const directories = useQuery(ask.directories());
  const deliveries = useInfiniteQuery(ask.deliveries({ state, directory, cause }));
  return (
    <>
      <PageHead title="Deliveries" under="Each password and each unlock on its way to one account, newest first." />
      <div className="mb-4 flex flex-wrap items-end gap-3">
        <Select
          label="State"
          value={state ?? ""}
          onChange={(value) => filter.set({ state: value || null })}
          options={["", ...choices.deliveryState]}
        />
        <Select
          label="Directory"
          value={directory}
          onChange={(value) => filter.set({ directory: value || null })}
          options={["", ...(directories.data ?? []).map((one) => one.name)]}
        />
        {cause && <Button onClick={() => filter.set({ cause: null })}>Only {cause}: show all causes</Button>}
      </div>
      <Paged query={deliveries}>
        {(rows) => {
          if (rows.length === 0) {
            return (
              <Empty>
                {state || directory || cause
                  ? "No delivery matches. Remove a filter to see more."
                  : "Nothing has been delivered yet. The first recovery shows up here."}
              </Empty>
            );
          }
          return (
            <>
              <div
                role="region"
                aria-label="Deliveries"
                tabIndex={0}
                className="border-line bg-surface overflow-x-auto rounded-lg border"
              >
                <table className="w-full border-collapse text-left">
                  <thead>
                    <tr className="border-line text-muted border-b text-sm">
                      {["Started", "Attempt", "Action", "Account", "State", "Took", "Steward", "Cause"].map((title) => (
                        <th key={title} scope="col" className="px-3 py-2 font-medium whitespace-nowrap">
                          {title}
                        </th>
                      ))}
                    </tr>
                  </thead>
                  <tbody>
                    {rows.map((row) => (
                      <Fragment key={row.id}>
                        <tr className="border-line hover:bg-sunken border-b align-top">
                          <td className="px-3 py-2 whitespace-nowrap">
                            <button
                              type="button"
                              aria-expanded={open === row.id}
                              className="text-accent-ink rounded-sm underline"
                              onClick={() => setOpen(open === row.id ? "" : row.id)}
                            >
                              <Time at={row.createdAt} />
                            </button>
                          </td>
                          <td className="px-3 py-2 whitespace-nowrap">
                            <ReferenceLink reference={row.reference} />
                          </td>
                          <td className="px-3 py-2">{row.action}</td>
                          <td className="px-3 py-2 whitespace-nowrap">
                            <span className="text-muted">{row.directory}</span> {row.login}
                          </td>
                          <td className="px-3 py-2 whitespace-nowrap">
                            <State state={row.state} />
                          </td>
                          <td className="px-3 py-2 whitespace-nowrap">
                            {row.endedAt ? `${Date.parse(row.endedAt) - Date.parse(row.createdAt)} ms` : "…"}
                          </td>
                          <td className="px-3 py-2 whitespace-nowrap">{row.steward}</td>
                          <td className="w-full px-3 py-2">
                            {row.code && (
                              <button
                                type="button"
                                title="Show only this cause"
                                className="text-accent-ink rounded-sm text-left underline"
                                onClick={() => filter.set({ cause: row.code })}
                              >
                                {row.code}
                              </button>
                            )}
                          </td>
                        </tr>
                        {open === row.id && (
                          <tr className="border-line bg-sunken border-b">
                            <td colSpan={8} className="px-3 py-3">
                              <DeliveryFacts delivery={row} />
                            </td>
                          </tr>
                        )}
                      </Fragment>
                    ))}
                  </tbody>
                </table>
              </div>
            </>
          );
        }}
      </Paged>
    </>
  );
}

/** One delivery in full: phases, the raw result, the cause and what to do. */
export function DeliveryFacts({ delivery }: { delivery: Delivery }) {
  const facts: [string, React.ReactNode][] = [];
  if (delivery.cause) facts.push(["Cause", delivery.cause]);
  if (delivery.whatToDo) facts.push(["What to do", delivery.whatToDo]);
  if (delivery.detail) facts.push(["Raw result", <span className="font-mono text-sm">{delivery.detail}</span>]);
  if (delivery.server) facts.push(["Server", delivery.server]);
  if (delivery.versionBefore) {
    facts.push([
      "Version",
      <span className="font-mono text-sm">
        {delivery.versionBefore}
        {delivery.versionAfter && ` → ${delivery.versionAfter}`}
      </span>,
    ]);
  }
  if (delivery.bind) facts.push(["Bind", delivery.bind]);
  facts.push(["Taken", `${delivery.epoch} ${delivery.epoch === 1 ? "time" : "times"}`]);
  const phases = Object.entries(delivery.phases as Record<string, number>);
  if (phases.length > 0) facts.push(["Phases", phases.map(([name, ms]) => `${name} ${ms} ms`).join(", ")]);
  facts.push(["Delivery", <span className="font-mono text-sm">{delivery.id}</span>]);
  return <Facts facts={facts} />;
}
