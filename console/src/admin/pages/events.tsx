import { useInfiniteQuery, useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Badge, Button, Field, Select } from "../../shared/ui";
import {
  eventSeverityValues,
  pathsApiV1EventsExportGetParametersQueryFormatValues as exportFormats,
} from "../../shared/api-types";
import { Modal, ModalFoot } from "../../shared/modal";
import { said } from "../../shared/problem";
import { api, data } from "../api";
import { chosen } from "../choices";
import { PageHead, Paged, ReferenceLink, Table, Time } from "../parts";
import { ask } from "../queries";
import type { Page } from "../page";
import { Days, day } from "../days";
import { useFilter } from "../filter";

export const page: Page = {
  path: "audit/events",
  title: "Events",
  place: "audit",
  beside: { at: 2, title: "Events" },
  element: Events,
};

/** Typed rather than chosen; the same words as on the command line. */
const typed = {
  text: "Words",
  person: "Person’s sign-in name",
  administrator: "Administrator",
  reference: "Reference",
  network: "Network address",
} as const;

/** What a link or a saved search can look for besides, in the words of the command line. */
const besides = ["steward", "method", "policy", "cause", "state", "message"] as const;

/** Words for several kinds at once: what went wrong, and what administrators changed. */
const several = ["failures", "changes"];

const tones = { info: "none", notice: "info", warning: "warn", alert: "bad" } as const;

/** The record, by what events say. Every filter stands in the address. */
export function Events() {
  const filter = useFilter();
  const kinds = useQuery(ask.eventKinds());
  const directories = useQuery(ask.directories());
  const severity = chosen(eventSeverityValues, filter.get("severity"));
  const wanted = {
    text: filter.get("text"),
    kind: filter.get("kind"),
    part: filter.get("part"),
    person: filter.get("person"),
    administrator: filter.get("administrator"),
    reference: filter.get("reference"),
    network: filter.get("network"),
    directory: filter.get("directory"),
    since: day(filter.get("since"), 0),
    until: day(filter.get("until"), 1),
    severity,
    ...(Object.fromEntries(besides.map((name) => [name, filter.get(name)])) as Record<
      (typeof besides)[number],
      string
    >),
  };
  const some = Object.values(wanted).some(Boolean);
  const show = (filters: Record<string, string>) =>
    filter.set(Object.fromEntries(Object.keys(wanted).map((name) => [name, filters[name] ?? null])));
  const following = filter.get("follow") === "yes";
  // What is new stands on the first page; older ones don't change.
  const events = useInfiniteQuery({ ...ask.events(wanted), refetchInterval: following ? 2_000 : false });
  const count = useQuery({ ...ask.eventCount(wanted), refetchInterval: following ? 2_000 : false });
  const parts = [...new Set((kinds.data ?? []).map((kind) => kind.part))];
  return (
    <>
      <PageHead title="Events" under="Everything on record, newest first. Filters narrow it down together.">
        <Button
          aria-pressed={following}
          look={following ? "primary" : undefined}
          onClick={() => filter.set({ follow: following ? null : "yes" })}
        >
          {following ? "Stop following" : "Follow"}
        </Button>
        {some && <Button onClick={() => show({})}>Clear filters</Button>}
        <span className="text-muted self-center text-sm" id="export-as">
          Export as
        </span>
        {exportFormats.map((format) => (
          <Button
            key={format}
            aria-describedby="export-as"
            onClick={() =>
              window.location.assign(
                `/api/v1/events/export?${new URLSearchParams({
                  format,
                  ...Object.fromEntries(
                    Object.entries(wanted).flatMap(([name, value]) => (value ? [[name, value]] : [])),
                  ),
                })}`,
              )
            }
          >
            {format.toUpperCase()}
          </Button>
        ))}
      </PageHead>
      <Saved wanted={wanted} some={some} onShow={show} />
      <div className="mb-4 flex flex-wrap items-end gap-3">
        <Select
          label="At least"
          value={severity ?? ""}
          empty="any severity"
          onChange={(value) => filter.set({ severity: value || null })}
          options={["", ...eventSeverityValues.filter((one) => one !== "info")]}
        />
        <Select
          label="Part of the record"
          value={wanted.part}
          onChange={(part) => filter.set({ part: part || null, kind: null })}
          options={["", ...parts]}
        />
        <Select
          label="Kind"
          value={wanted.kind}
          onChange={(kind) => filter.set({ kind: kind || null })}
          options={[
            "",
            ...(wanted.part ? [] : several),
            ...(kinds.data ?? []).filter((kind) => !wanted.part || kind.part === wanted.part).map((kind) => kind.name),
          ]}
        />
        <Select
          label="Directory"
          value={wanted.directory}
          onChange={(directory) => filter.set({ directory: directory || null })}
          options={["", ...(directories.data ?? []).map((one) => one.name)]}
        />
        <Days filter={filter} />
        <Typed
          key={Object.keys(typed)
            .map((name) => filter.get(name))
            .join("\n")}
          values={wanted}
          onChange={(changes) => filter.set(changes)}
        />
      </div>
      {besides.some((name) => wanted[name]) && (
        <p className="mb-3">
          Only{" "}
          {besides
            .filter((name) => wanted[name])
            .map((name) => `${name} ${wanted[name]}`)
            .join(", ")}
          .
        </p>
      )}
      <p className="text-muted mb-2" role="status">
        {!!count.data?.events && counted(count.data)}
      </p>
      <Paged query={events}>
        {(rows) => (
          <Table
            name="Events"
            rows={rows}
            keyOf={(row) => row.id}
            empty={some ? "No event matches. Remove a filter to see more." : "Nothing has happened yet."}
            columns={[
              { title: "When", value: (row) => <Time at={row.at} /> },
              {
                title: "What happened",
                wide: true,
                value: (row) => (
                  <>
                    {row.severity !== "info" && (
                      <>
                        <Badge tone={tones[row.severity]}>{row.severity}</Badge>{" "}
                      </>
                    )}
                    {/* A signed statement is one long word. */}
                    <span className="wrap-anywhere">{row.sentence}</span>
                  </>
                ),
              },
              { title: "Attempt", value: (row) => row.reference && <ReferenceLink reference={row.reference} /> },
              {
                title: "Kind",
                value: (row) => (
                  <button
                    type="button"
                    title="Show only this kind"
                    className="text-accent-ink rounded-sm text-left underline"
                    onClick={() => filter.set({ kind: row.kind })}
                  >
                    {row.kind}
                  </button>
                ),
              },
            ]}
          />
        )}
      </Paged>
    </>
  );
}

function counted({ events, exact }: { events: number; exact: boolean }): string {
  const about = exact ? events : Number(events.toPrecision(2));
  return `${exact ? "" : "About "}${about.toLocaleString()} ${events === 1 ? "event" : "events"}`;
}

/** Searches that administrators keep, and a way to keep this one. */
function Saved({
  wanted,
  some,
  onShow,
}: {
  wanted: Record<string, string | undefined>;
  some: boolean;
  onShow: (filters: Record<string, string>) => void;
}) {
  const saved = useQuery(ask.savedSearches());
  const [naming, setNaming] = useState(false);
  const [name, setName] = useState("");
  const filters = Object.fromEntries(
    Object.entries(wanted).flatMap(([filter, value]) => (value ? [[filter, value]] : [])),
  );
  const same = (one: Record<string, string>) =>
    Object.keys({ ...one, ...filters }).every((filter) => one[filter] === filters[filter]);
  const shown = saved.data?.find((one) => same(one.filters));
  const save = useMutation({
    mutationFn: () =>
      data(api.PUT("/api/v1/events/searches/{name}", { params: { path: { name: name.trim() } }, body: { filters } })),
    meta: { saidHere: true, touches: ["saved-searches"] },
    onSuccess: () => setNaming(false),
  });
  const remove = useMutation({
    mutationFn: (gone: string) =>
      data(api.DELETE("/api/v1/events/searches/{name}", { params: { path: { name: gone } } })),
    meta: { touches: ["saved-searches"] },
  });
  if (!some && !saved.data?.length) return null;
  return (
    <div className="mb-3 flex flex-wrap items-end gap-3">
      {!!saved.data?.length && (
        <Select
          label="Saved search"
          value={shown?.name ?? ""}
          empty="none"
          onChange={(chosen) => onShow(saved.data.find((one) => one.name === chosen)?.filters ?? {})}
          options={["", ...saved.data.map((one) => one.name)]}
        />
      )}
      {shown ? (
        <Button onClick={() => remove.mutate(shown.name)} busy={remove.isPending}>
          Remove this search
        </Button>
      ) : (
        some && (
          <Modal
            open={naming}
            onOpenChange={setNaming}
            trigger={<Button>Save this search …</Button>}
            title="Save this search"
            description="Every administrator can use it, here and on the command line. A name that exists is saved anew."
          >
            <form
              className="flex flex-col gap-4"
              onSubmit={(event) => {
                event.preventDefault();
                save.mutate();
              }}
            >
              <Field
                label="Name"
                value={name}
                maxLength={60}
                onChange={(event) => setName(event.target.value)}
                error={save.error ? said(save.error) : undefined}
              />
              <ModalFoot>
                <Button type="submit" look="primary" busy={save.isPending} disabled={!name.trim()}>
                  Save
                </Button>
              </ModalFoot>
            </form>
          </Modal>
        )
      )}
    </div>
  );
}

function Typed({
  values,
  onChange,
}: {
  values: Record<keyof typeof typed, string>;
  onChange: (changes: Record<string, string | null>) => void;
}) {
  const names = Object.keys(typed) as (keyof typeof typed)[];
  const [form, setForm] = useState(() => Object.fromEntries(names.map((name) => [name, values[name]])));
  return (
    <form
      className="flex flex-wrap items-end gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        onChange(Object.fromEntries(names.map((name) => [name, form[name]?.trim() || null])));
      }}
    >
      {names.map((name) => (
        <Field
          key={name}
          className="w-40"
          label={typed[name]}
          value={form[name] ?? ""}
          onChange={(event) => setForm({ ...form, [name]: event.target.value })}
        />
      ))}
      <Button type="submit">Find</Button>
    </form>
  );
}
