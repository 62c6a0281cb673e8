import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { clsx } from "clsx";
import { Link, useSearchParams } from "react-router";
import { Button, Field, Notice, Select } from "../shared/ui";
import { api, data } from "./api";
import type { RehearsalPart } from "./api";
import { useDrafts } from "./draft-change";
import { Loading, PageHead, ReferenceLink, Section, Table, Time } from "./parts";

/** A draft tried on everybody before it is published; each number opens to the people behind it. */
export function RehearsalPage() {
  const [filter, setFilter] = useSearchParams();
  const { all: drafts, draft } = useDrafts();
  const action = filter.get("action") ?? "reset";
  const network = filter.get("network") ?? "";
  const kind = filter.get("kind") ?? "";
  const sound = draft !== undefined && draft.problems.length === 0;
  const rehearsal = useQuery({
    queryKey: ["drafts", draft?.id, "rehearsal", draft?.version, action, network],
    queryFn: () =>
      data(
        api.GET("/api/v1/drafts/{id}/rehearsal", {
          params: { path: { id: draft!.id }, query: { action, network: network || undefined } },
        }),
      ),
    enabled: sound,
    placeholderData: keepPreviousData,
  });

  function set(name: string, value: string) {
    const next = new URLSearchParams(filter);
    if (value) next.set(name, value);
    else next.delete(name);
    setFilter(next, { replace: true });
  }

  if (drafts.isSuccess && !sound) {
    return (
      <>
        <PageHead title="Rehearsal" under="A draft tried on everybody before it is published." />
        <p className="border-line text-muted rounded-lg border border-dashed p-6">
          {draft
            ? "The draft has problems. Mend them first; they stand under Policies."
            : "There is no draft. Change a policy or a scope, and see here what it would mean."}
        </p>
      </>
    );
  }
  return (
    <>
      <PageHead
        title="Rehearsal"
        under={draft && `What “${draft.name}” would mean for everybody, by people as they are today.`}
      />
      <div className="mb-5 flex flex-wrap items-start gap-4">
        <Select
          label="For"
          value={action}
          options={["reset", "unlock", "change", "details"]}
          onChange={(value) => set("action", value)}
        />
        <div className="w-56">
          <Field
            label="From the address"
            hint="Empty: nobody knows from where, the stricter answer"
            placeholder="203.0.113.7"
            defaultValue={network}
            onBlur={(event) => set("network", event.target.value.trim())}
          />
        </div>
      </div>
      <Loading query={rehearsal}>
        {() => {
          const found = rehearsal.data!;
          const loses = found.counts[0]!;
          return (
            <>
              <button
                type="button"
                onClick={() => set("kind", loses.kind)}
                className={clsx(
                  "mb-5 flex w-full items-baseline gap-3 rounded-lg p-4 text-left",
                  loses.people > 0 ? "bg-bad-soft text-bad" : "bg-ok-soft text-ok",
                )}
              >
                <span className="text-2xl font-semibold">{loses.people}</span>
                <span>
                  {loses.people > 0
                    ? `of ${found.people} people ${loses.words}. Open them.`
                    : `Nobody of ${found.people} people would lose a way in.`}
                </span>
              </button>
              <ul className="border-line bg-surface divide-line mb-7 divide-y rounded-lg border">
                {found.counts.slice(1).map((one) => (
                  <li key={one.kind}>
                    <button
                      type="button"
                      disabled={one.people === 0}
                      aria-pressed={kind === one.kind}
                      onClick={() => set("kind", kind === one.kind ? "" : one.kind)}
                      className="hover:bg-sunken disabled:text-muted flex w-full gap-3 px-4 py-1.5 text-left"
                    >
                      <span className="w-14 text-right font-semibold">{one.people}</span>
                      <span>{one.words}</span>
                    </button>
                  </li>
                ))}
              </ul>
              {kind && draft && <Behind draft={draft.id} kind={kind} action={action} network={network} />}
              {found.moves.length > 0 && (
                <Section title="Who changes hands">
                  <ul>
                    {found.moves.map((one) => (
                      <li key={one.from + one.to}>
                        <strong className="font-semibold">{one.people}</strong> go from {one.from || "no policy"} to{" "}
                        {one.to || "no policy"}
                      </li>
                    ))}
                  </ul>
                </Section>
              )}
              <Parts title="By scope" rows={found.scopes} />
              <Parts title="By department" rows={found.departments} />
              <Parts title="By privilege" rows={found.privilege} />
              {draft && <Past draft={draft.id} version={draft.version} />}
            </>
          );
        }}
      </Loading>
    </>
  );
}

function Behind({ draft, kind, action, network }: { draft: string; kind: string; action: string; network: string }) {
  const people = useInfiniteQuery({
    queryKey: ["drafts", draft, "rehearsal", "people", kind, action, network],
    queryFn: ({ pageParam }) =>
      data(
        api.GET("/api/v1/drafts/{id}/rehearsal/people", {
          params: {
            path: { id: draft },
            query: { kind, action, network: network || undefined, limit: 50, after: pageParam || undefined },
          },
        }),
      ),
    initialPageParam: "",
    getNextPageParam: (page) => page.after || undefined,
  });
  return (
    <Section title="The people behind it">
      <Loading query={people}>
        {() => {
          const rows = people.data!.pages.flatMap((page) => page.items);
          return (
            <>
              <Table
                name="The people behind it"
                rows={rows}
                keyOf={(one) => one.id}
                empty="Nobody."
                columns={[
                  {
                    title: "Name",
                    value: (one) => (
                      <Link to={`/people/${one.id}`} className="text-accent-ink rounded-sm font-medium underline">
                        {one.name}
                      </Link>
                    ),
                  },
                  { title: "Department", value: (one) => one.department },
                  { title: "Now", value: (one) => one.before },
                  { title: "With the draft", wide: true, value: (one) => one.after },
                ]}
              />
              <div className="mt-3 flex gap-2">
                {people.hasNextPage && (
                  <Button busy={people.isFetchingNextPage} onClick={() => void people.fetchNextPage()}>
                    Show more
                  </Button>
                )}
                <Button
                  look="quiet"
                  onClick={() =>
                    save(
                      `${kind}.csv`,
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
              </div>
            </>
          );
        }}
      </Loading>
    </Section>
  );
}

function save(name: string, text: string) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([text], { type: "text/csv" }));
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}

function Parts({ title, rows }: { title: string; rows: RehearsalPart[] }) {
  if (rows.length === 0) return null;
  return (
    <Section title={title}>
      <Table
        name={title}
        rows={rows}
        keyOf={(one) => one.name}
        empty="None."
        columns={[
          { title: "", wide: true, value: (one) => one.name },
          { title: "People", value: (one) => one.people },
          { title: "Lose a way in", value: (one) => <Count of={one.losesWay} /> },
          { title: "Lack methods", value: (one) => <Count of={one.lacksMethods} /> },
        ]}
      />
    </Section>
  );
}

function Count({ of }: { of: number }) {
  return of > 0 ? <strong className="text-bad font-semibold">{of}</strong> : <span className="text-muted">0</span>;
}

function Past({ draft, version }: { draft: string; version: number }) {
  const [filter, setFilter] = useSearchParams();
  const days = filter.get("days") ?? "";
  const attempts = useQuery({
    queryKey: ["drafts", draft, "rehearsal", version, "attempts", days],
    queryFn: () =>
      data(
        api.GET("/api/v1/drafts/{id}/rehearsal/attempts", {
          params: { path: { id: draft }, query: { days: Number(days) } },
        }),
      ),
    enabled: days !== "",
  });
  return (
    <Section title="On past attempts">
      <div className="mb-3 flex flex-wrap gap-2">
        {["1", "7", "30"].map((one) => (
          <Button
            key={one}
            aria-pressed={days === one}
            look={days === one ? "primary" : "plain"}
            onClick={() => {
              const next = new URLSearchParams(filter);
              next.set("days", one);
              setFilter(next, { replace: true });
            }}
          >
            Last {one === "1" ? "day" : `${one} days`}
          </Button>
        ))}
      </div>
      {days !== "" && (
        <Loading query={attempts}>
          {() =>
            attempts.data!.length === 0 ? (
              <Notice tone="ok">Every attempt of that time would have begun as it did.</Notice>
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
