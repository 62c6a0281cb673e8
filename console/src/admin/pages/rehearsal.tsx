import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { clsx } from "clsx";
import { useEffect, useRef } from "react";
import { Button, Empty, Field, Notice, Select } from "../../shared/ui";
import { type Action, choices, chosen } from "../choices";
import type { RehearsalPart } from "../api";
import { sound, useDrafts } from "../draft-change";
import { Loading, PageHead, Paged, PersonLink, ReferenceLink, Section, Table, Time } from "../parts";
import { ask } from "../queries";
import type { Which } from "../queries";
import type { Page } from "../page";
import { useFilter } from "../filter";

export const page: Page = {
  path: "policies/rehearsal",
  title: "Rehearsal",
  place: "policies",
  beside: { at: 4, title: "Rehearsal" },
  element: RehearsalPage,
};

/** A draft tried on everybody before it is published; each number opens to the people behind it. */
export function RehearsalPage() {
  const filter = useFilter();
  const { all: drafts, draft } = useDrafts();
  const action = chosen(choices.action, filter.get("action")) ?? "reset";
  const network = filter.get("network");
  const at = filter.get("at");
  const kind = filter.get("kind");
  const usable = draft !== undefined && sound(draft);
  const rehearsal = useQuery({
    ...ask.rehearsal(draft ?? { id: "", version: 0 }, { action, network, at }),
    enabled: usable,
    placeholderData: keepPreviousData,
  });

  const part = filter.get("part");
  const from = filter.given("from");
  const to = filter.given("to");

  /** Opens the people behind a number, and closes them when they are open. */
  function open(asked: Which) {
    const wanted = { kind: asked.kind, part: asked.part, from: asked.from, to: asked.to };
    const isOpen = Object.entries(wanted).every(([name, value]) => filter.given(name) === (value ?? null));
    filter.set(isOpen ? { kind: null, part: null, from: null, to: null } : wanted);
  }

  if (drafts.isSuccess && !usable) {
    return (
      <>
        <PageHead title="Rehearsal" under="Try a draft on everyone before you publish it." />
        <Empty>
          {draft
            ? "The draft has problems. Fix them first; they’re listed under Policies."
            : "There’s no draft. Change a policy or a scope to see here what it would mean."}
        </Empty>
      </>
    );
  }
  return (
    <>
      <PageHead
        title="Rehearsal"
        under={draft && `What “${draft.name}” would mean for everyone, with people as they are today.`}
      />
      <div className="mb-5 flex flex-wrap items-start gap-4">
        <Select
          label="For"
          value={action}
          options={choices.action}
          onChange={(value) => filter.set({ action: value || null })}
        />
        <div className="w-56">
          <Field
            label="From the address"
            hint="Leave empty for every place that makes a difference"
            placeholder="203.0.113.7"
            defaultValue={network}
            onBlur={(event) => filter.set({ network: event.target.value.trim() || null })}
          />
        </div>
        <div className="w-56">
          <Field
            label="At"
            hint="Leave empty for every time that makes a difference"
            type="datetime-local"
            value={at}
            onChange={(event) => filter.set({ at: event.target.value || null })}
          />
        </div>
      </div>
      <Loading query={rehearsal}>
        {() => {
          const found = rehearsal.data!;
          return (
            <>
              <div className="mb-5 grid gap-3 sm:grid-cols-2">
                {found.counts.slice(0, 2).map((one) => (
                  <button
                    key={one.kind}
                    type="button"
                    disabled={one.people === 0}
                    aria-pressed={kind === one.kind && !part}
                    onClick={() => open({ kind: one.kind })}
                    className={clsx(
                      "flex items-baseline gap-3 rounded-lg p-4 text-left",
                      one.people > 0 ? "bg-bad-soft text-bad" : "bg-ok-soft text-ok",
                    )}
                  >
                    <span className="text-2xl font-semibold">{one.people}</span>
                    <span>
                      of {found.people} people {one.words}.{one.people > 0 && " Open them."}
                    </span>
                  </button>
                ))}
              </div>
              <ul className="border-line bg-surface divide-line mb-7 divide-y rounded-lg border">
                {found.counts.slice(2).map((one) => (
                  <li key={one.kind}>
                    <button
                      type="button"
                      disabled={one.people === 0}
                      aria-pressed={kind === one.kind && !part}
                      onClick={() => open({ kind: one.kind })}
                      className="hover:bg-sunken disabled:text-muted flex w-full gap-3 px-4 py-1.5 text-left"
                    >
                      <span className="w-14 text-right font-semibold">{one.people}</span>
                      <span>{one.words}</span>
                    </button>
                  </li>
                ))}
              </ul>
              {found.situations.length > 1 && (
                <Section title="In which situation">
                  <Table
                    name="Situations"
                    rows={found.situations}
                    keyOf={(one) => one.words}
                    empty="None."
                    columns={[
                      { title: "Situation", wide: true, value: (one) => one.words || "any" },
                      { title: "Lose a way in", value: (one) => one.losesWay },
                      { title: "Lack methods", value: (one) => one.lacksMethods },
                    ]}
                  />
                </Section>
              )}
              {draft && (kind || from !== null) && (
                <Behind draft={draft.id} asked={{ kind, part, from, to }} action={action} network={network} at={at} />
              )}
              {found.moves.length > 0 && (
                <Section title="Moves between policies">
                  <ul>
                    {found.moves.map((one) => (
                      <li key={one.from + one.to}>
                        <button
                          type="button"
                          className="text-accent-ink rounded-sm text-left underline"
                          onClick={() => open({ from: one.from, to: one.to })}
                        >
                          <strong className="font-semibold">{one.people}</strong> go from {one.from || "no policy"} to{" "}
                          {one.to || "no policy"}
                        </button>
                      </li>
                    ))}
                  </ul>
                </Section>
              )}
              <Parts title="By scope" rows={found.scopes} onOpen={open} />
              <Parts title="By department" rows={found.departments} onOpen={open} />
              <Parts title="By privilege" rows={found.privilege} onOpen={open} />
              {draft && <Past draft={draft.id} version={draft.version} />}
            </>
          );
        }}
      </Loading>
    </>
  );
}

function Behind({
  draft,
  asked,
  action,
  network,
  at,
}: {
  draft: string;
  asked: Which;
  action: Action;
  network: string;
  at: string;
}) {
  const { kind, part, from, to } = asked;
  const place = useRef<HTMLDivElement>(null);
  // A number far below opens here.
  useEffect(() => {
    // Its result, in newer browsers a promise, is nothing to clean up by.
    void place.current?.scrollIntoView({ block: "nearest" });
  }, [kind, part, from, to]);
  const people = useInfiniteQuery(ask.rehearsedPeople(draft, asked, { action, network, at }));
  return (
    <div ref={place}>
      <Section title="The people behind it">
        <Paged
          query={people}
          beside={(rows) => (
            <Button
              look="quiet"
              onClick={() =>
                save(
                  `${kind || "moved"}.csv`,
                  ["name,department,sign-in names,now,with the draft"]
                    .concat(
                      rows.map((one) =>
                        [one.name, one.department ?? "", one.logins.join(" "), one.before, one.after]
                          .map((cell) => `"${cell.replace(/^([=+\-@])/, "'$1").replaceAll('"', '""')}"`)
                          .join(","),
                      ),
                    )
                    .join("\r\n"),
                )
              }
            >
              Save what is shown as CSV
            </Button>
          )}
        >
          {(rows) => (
            <Table
              name="The people behind it"
              rows={rows}
              keyOf={(one) => one.id}
              empty="No one."
              columns={[
                {
                  title: "Name",
                  value: (one) => <PersonLink id={one.id} name={one.name} />,
                },
                { title: "Department", value: (one) => one.department },
                { title: "Now", value: (one) => one.before },
                { title: "With the draft", wide: true, value: (one) => one.after },
              ]}
            />
          )}
        </Paged>
      </Section>
    </div>
  );
}

function save(name: string, text: string) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type: "text/csv" }));
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}

function Parts({ title, rows, onOpen }: { title: string; rows: RehearsalPart[]; onOpen: (asked: Which) => void }) {
  if (rows.length === 0) return null;
  return (
    <Section title={title}>
      <Table
        name={title}
        rows={rows}
        keyOf={(one) => one.part}
        empty="None."
        columns={[
          { title: "Name", wide: true, value: (one) => one.name },
          { title: "People", value: (one) => one.people },
          {
            title: "Lose a way in",
            value: (one) => <Count of={one.losesWay} onOpen={() => onOpen({ kind: "loses-way", part: one.part })} />,
          },
          {
            title: "Lack methods",
            value: (one) => (
              <Count of={one.lacksMethods} onOpen={() => onOpen({ kind: "lacks-methods", part: one.part })} />
            ),
          },
        ]}
      />
    </Section>
  );
}

function Count({ of, onOpen }: { of: number; onOpen: () => void }) {
  return of > 0 ? (
    <button type="button" onClick={onOpen} className="text-bad rounded-sm px-1 font-semibold underline">
      {of}
    </button>
  ) : (
    <span className="text-muted px-1">0</span>
  );
}

function Past({ draft, version }: { draft: string; version: number }) {
  const filter = useFilter();
  const days = filter.get("days");
  const attempts = useQuery({ ...ask.rehearsedAttempts({ id: draft, version }, Number(days)), enabled: days !== "" });
  return (
    <Section title="On past attempts">
      <div className="mb-3 flex flex-wrap gap-2">
        {["1", "7", "30"].map((one) => (
          <Button
            key={one}
            aria-pressed={days === one}
            look={days === one ? "primary" : "plain"}
            onClick={() => filter.set({ days: one })}
          >
            Last {one === "1" ? "day" : `${one} days`}
          </Button>
        ))}
      </div>
      {days !== "" && (
        <Loading query={attempts}>
          {() =>
            attempts.data!.length === 0 ? (
              <Notice tone="ok">Every attempt of that time would have started the same way.</Notice>
            ) : (
              <Table
                name="Past attempts"
                rows={attempts.data!}
                keyOf={(one) => one.reference}
                empty=""
                columns={[
                  { title: "Reference", value: (one) => <ReferenceLink reference={one.reference} /> },
                  { title: "Who", value: (one) => one.name },
                  { title: "When", value: (one) => <Time at={one.at} /> },
                  { title: "Then", value: (one) => one.before },
                  { title: "With the draft", value: (one) => one.after },
                  { title: "Because", wide: true, value: (one) => one.because },
                ]}
              />
            )
          }
        </Loading>
      )}
    </Section>
  );
}
