import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { parse, stringify } from "yaml";
import { said } from "../../shared/problem";
import { Button, Field, Notice, Select } from "../../shared/ui";
import type { PersonRow } from "../api";
import { useDraftChange } from "../draft-change";
import { Loading, PageHead, Paged, PersonLink, Table, Time } from "../parts";
import { ask } from "../queries";
import type { Page } from "../page";
import { useTyped } from "../typed";

export const page: Page = {
  path: "policies/scopes",
  title: "Scopes",
  place: "policies",
  beside: { at: 2, title: "Scopes" },
  element: Scopes,
};

/** Named sets of people: what they say, how many are in them, and who. */
export function Scopes() {
  const { files, change } = useDraftChange();
  const scopes = useQuery(ask.scopes());
  const [editing, setEditing] = useState<string | null>(null);
  const [shown, setShown] = useState("");
  const drafted = Object.keys(files)
    .filter((path) => path.startsWith("scopes/"))
    .map((path) => path.slice(7, -5))
    .filter((name) => !scopes.data?.some((one) => one.name === name));
  return (
    <>
      <PageHead title="Scopes" under="Named sets of people. A policy covers one of them.">
        <Button look="primary" onClick={() => setEditing("")}>
          New scope
        </Button>
      </PageHead>
      {change.error && <Notice tone="bad">{said(change.error, "The change wasn’t made. Try again.")}</Notice>}
      {editing !== null && (
        <Builder
          key={editing}
          name={editing}
          files={files}
          onLeave={() => setEditing(null)}
          onSave={(name, text, onSaved) => {
            change.mutate((old) => ({ ...old, [`scopes/${name}.yaml`]: text }), { onSuccess: onSaved });
            setEditing(null);
          }}
        />
      )}
      <Loading query={scopes}>
        {() => (
          <Table
            name="Scopes"
            rows={scopes.data!}
            keyOf={(one) => one.name}
            empty="No scope is published yet. Create one, then a policy for it."
            columns={[
              { title: "Scope", value: (one) => <strong className="font-medium">{one.title}</strong> },
              { title: "People", value: (one) => one.people },
              { title: "Policies", value: (one) => one.policies.join(", ") || "none" },
              { title: "Who", wide: true, value: (one) => `People ${one.words}.` },
              {
                title: "What can be done",
                value: (one) => (
                  <span className="flex gap-1">
                    <Button onClick={() => setShown(shown === one.name ? "" : one.name)}>
                      {shown === one.name ? "Hide people" : "Show people"}
                    </Button>
                    <Button look="quiet" aria-label={`Change ${one.title}`} onClick={() => setEditing(one.name)}>
                      Change
                    </Button>
                  </span>
                ),
              },
            ]}
          />
        )}
      </Loading>
      {drafted.length > 0 && (
        <div className="mt-3">
          <p className="text-muted">
            In the draft only: {drafted.join(", ")}. Publish it to put {drafted.length === 1 ? "it" : "them"} in force.
          </p>
          <p className="mt-1 flex flex-wrap gap-1">
            {drafted.map((name) => (
              <Button key={name} look="quiet" onClick={() => setEditing(name)}>
                Change {name}
              </Button>
            ))}
          </p>
        </div>
      )}
      {shown && (
        <>
          <Members scope={shown} />
          <Changes scope={shown} />
        </>
      )}
    </>
  );
}

function Members({ scope }: { scope: string }) {
  const members = useInfiniteQuery(ask.members(scope));
  return (
    <section className="mt-6">
      <h2 className="mb-2 text-lg font-semibold">In {scope} now</h2>
      <Paged query={members}>{(rows) => <PersonTable rows={rows} />}</Paged>
    </section>
  );
}

/** Who came and who left, and why. */
function Changes({ scope }: { scope: string }) {
  const changes = useInfiniteQuery(ask.scopeChanges(scope));
  return (
    <section className="mt-6">
      <h2 className="mb-2 text-lg font-semibold">Who joined and left</h2>
      <Paged query={changes}>
        {(rows) => (
          <Table
            name="Who joined and left"
            rows={rows}
            keyOf={(one) => String(one.id)}
            empty="No one has joined or left since it was published."
            columns={[
              { title: "When", value: (one) => <Time at={one.at} /> },
              { title: "Change", value: (one) => (one.came ? "came" : "left") },
              {
                title: "Who",
                value: (one) =>
                  one.person ? <PersonLink id={one.person} name={one.name} /> : `${one.more} more people`,
              },
              { title: "Why", wide: true, value: (one) => one.why },
              { title: "Revision", value: (one) => one.revision },
            ]}
          />
        )}
      </Paged>
    </section>
  );
}

function PersonTable({ rows }: { rows: PersonRow[] }) {
  return (
    <Table
      name="People"
      rows={rows}
      keyOf={(one) => one.id}
      empty="No one is in it now."
      columns={[
        {
          title: "Name",
          value: (one) => <PersonLink id={one.id} name={one.name} />,
        },
        { title: "Department", value: (one) => one.department },
        {
          title: "Accounts",
          wide: true,
          value: (one) => one.accounts.map((account) => `${account.directory}: ${account.login}`).join(", "),
        },
      ]}
    />
  );
}

type Kind = "group" | "ou" | "where" | "people" | "scope";
interface Row {
  list: "any" | "all" | "none";
  kind: Kind;
  value: string;
  attribute: string;
}

const kinds: Record<Kind, { words: string; hint: string }> = {
  group: { words: "are members of the group", hint: "CN=Deck Crew,OU=Groups,DC=skerry,DC=test" },
  ou: { words: "stand in the OU, or below it,", hint: "OU=Deck,OU=People,DC=skerry,DC=test" },
  where: { words: "have the attribute", hint: "Deck, or several with commas" },
  people: { words: "are", hint: "sign-in names, with commas" },
  scope: { words: "are in the scope", hint: "name of another scope" },
};
const lists = { any: "People who", all: "who also", none: "but not those who" };

/** Reads a scope's file as rows; what rows cannot say is left to the file. */
function rowsOf(text: string): { rows: Row[]; title: string; portion: string } | null {
  const file = (parse(text || "{}") ?? {}) as Record<string, unknown>;
  const rows: Row[] = [];
  for (const list of ["any", "all", "none"] as const) {
    for (const item of (file[list] as Record<string, unknown>[] | undefined) ?? []) {
      const entries = Object.entries(item);
      if (entries.length !== 1) return null;
      const [kind, value] = entries[0]!;
      if (kind === "where") {
        const conditions = Object.entries(value as Record<string, unknown>);
        if (conditions.length !== 1) return null;
        const [attribute, is] = conditions[0]!;
        if (typeof is === "object" && !Array.isArray(is)) return null;
        rows.push({ list, kind, attribute, value: Array.isArray(is) ? is.join(", ") : String(is) });
      } else if (kind === "people") {
        rows.push({ list, kind, attribute: "", value: (value as string[]).join(", ") });
      } else if (kind in kinds && typeof value === "string") {
        rows.push({ list, kind: kind as Kind, attribute: "", value });
      } else {
        return null;
      }
    }
  }
  return { rows, title: String(file.title ?? ""), portion: String(file.portion ?? "") };
}

function textOf(name: string, title: string, portion: string, rows: Row[]): string {
  const file: Record<string, unknown> = { scope: name };
  if (title) file.title = title;
  for (const list of ["any", "all", "none"] as const) {
    const items = rows
      .filter((row) => row.list === list && row.value.trim())
      .map((row) => {
        const several = row.value.split(",").map((one) => one.trim());
        if (row.kind === "where") {
          return { where: { [row.attribute || "department"]: several.length > 1 ? several : several[0] } };
        }
        return row.kind === "people" ? { people: several } : { [row.kind]: row.value.trim() };
      });
    if (items.length) file[list] = items;
  }
  if (portion.trim()) file.portion = portion.trim();
  return stringify(file, { lineWidth: 0 });
}

/** A scope built row by row; it reads as a sentence, and shows who would be in it. */
function Builder({
  name: known,
  files,
  onSave,
  onLeave,
}: {
  name: string;
  files: Record<string, string>;
  /** `onSaved` is called once it is in the draft. */
  onSave: (name: string, text: string, onSaved: () => void) => void;
  onLeave: () => void;
}) {
  const begun = rowsOf(files[`scopes/${known}.yaml`] ?? "");
  // A file that somebody else has changed meanwhile begins anew.
  const [form, type, forget] = useTyped(`scope ${known} ${files[`scopes/${known}.yaml`] ?? ""}`, {
    name: known,
    title: begun?.title ?? "",
    portion: begun?.portion ?? "",
    rows: begun?.rows.length ? begun.rows : ([{ list: "any", kind: "group", value: "", attribute: "" }] as Row[]),
  });
  const { name, title, portion, rows } = form;
  const text = textOf(name || "new", title, portion, rows);
  const preview = useQuery({
    ...ask.scopePreview(name || "new", text, files),
    enabled: rows.some((row) => row.value.trim()),
  });
  const wrong = name !== "" && !/^[a-z0-9][a-z0-9-]{0,62}$/.test(name);
  const set = (at: number, part: Partial<Row>) =>
    type({ ...form, rows: rows.map((row, index) => (index === at ? { ...row, ...part } : row)) });
  if (!begun) {
    return (
      <div className="mb-5">
        <Notice tone="info">
          <p>
            {known} says more than these rows can show. Change it under{" "}
            <Link to="/policies/files" className="underline">
              Files
            </Link>
            .
          </p>
          <Button onClick={onLeave} className="self-start">
            Close
          </Button>
        </Notice>
      </div>
    );
  }
  return (
    <form
      aria-label="Scope"
      className="border-line bg-surface mb-6 flex flex-col gap-4 rounded-lg border p-5"
      onSubmit={(event) => {
        event.preventDefault();
        if (name && !wrong) onSave(name, textOf(name, title, portion, rows), forget);
      }}
    >
      <div className="grid gap-3 sm:grid-cols-3">
        <Field
          label="Name"
          hint="For files, such as deck-crew"
          disabled={known !== ""}
          value={name}
          onChange={(event) => type({ ...form, name: event.target.value })}
          error={wrong ? "Lower-case letters, digits and dashes." : undefined}
        />
        <Field
          label="Title"
          hint="For people"
          value={title}
          onChange={(event) => type({ ...form, title: event.target.value })}
        />
        <Field
          label="Portion"
          hint="A stable share, such as 10%; empty for all"
          value={portion}
          onChange={(event) => type({ ...form, portion: event.target.value })}
        />
      </div>
      <ul className="flex flex-col gap-2">
        {rows.map((row, at) => (
          <li key={at} className="flex flex-wrap items-center gap-2">
            <Select
              label={`Row ${at + 1}: how it joins`}
              labelled="unseen"
              value={row.list}
              onChange={(list) => set(at, { list })}
              options={(Object.entries(lists) as [Row["list"], string][]).map(([list, words]) => ({
                value: list,
                text: list === "any" && rows.findIndex((one) => one.list === "any") !== at ? "or who" : words,
              }))}
            />
            <Select
              label={`Row ${at + 1}: what`}
              labelled="unseen"
              value={row.kind}
              onChange={(kind) => set(at, { kind })}
              options={(Object.entries(kinds) as [Kind, { words: string }][]).map(([kind, one]) => ({
                value: kind,
                text: one.words,
              }))}
            />
            {row.kind === "where" && (
              <input
                aria-label={`Row ${at + 1}: attribute`}
                placeholder="department"
                value={row.attribute}
                onChange={(event) => set(at, { attribute: event.target.value })}
                className="border-control bg-surface min-h-8 w-36 rounded-md border px-2"
              />
            )}
            {row.kind === "where" && <span>as</span>}
            <input
              aria-label={`Row ${at + 1}: value`}
              placeholder={kinds[row.kind].hint}
              value={row.value}
              onChange={(event) => set(at, { value: event.target.value })}
              className="border-control bg-surface min-h-8 min-w-40 flex-1 rounded-md border px-2"
            />
            <Button
              look="quiet"
              aria-label={`Remove row ${at + 1}`}
              onClick={() => type({ ...form, rows: rows.filter((_row, index) => index !== at) })}
            >
              <Trash2 aria-hidden className="size-4" />
            </Button>
          </li>
        ))}
      </ul>
      <Button
        look="quiet"
        className="self-start"
        onClick={() =>
          type({ ...form, rows: [...rows, { list: "any", kind: "where", value: "", attribute: "department" }] })
        }
      >
        <Plus aria-hidden className="size-4" /> Add a row
      </Button>
      {preview.data && (
        <div aria-live="polite" className="bg-sunken flex flex-col gap-2 rounded-md p-3">
          {preview.data.problems.length > 0 ? (
            <ul className="text-bad">
              {preview.data.problems.map((problem) => (
                <li key={problem.pointer + problem.message}>{problem.message}</li>
              ))}
            </ul>
          ) : (
            <>
              <p>
                People {preview.data.words}: <strong className="font-semibold">{preview.data.people}</strong> now.
              </p>
              <p className="text-muted text-sm">
                {preview.data.sample.map((one) => one.name).join(", ")}
                {preview.data.people > preview.data.sample.length && " …"}
              </p>
            </>
          )}
        </div>
      )}
      <div className="flex flex-wrap gap-2">
        <Button type="submit" look="primary" disabled={!name || wrong || (preview.data?.problems.length ?? 0) > 0}>
          Put into the draft
        </Button>
        <Button
          onClick={() => {
            forget();
            onLeave();
          }}
        >
          Keep it
        </Button>
      </div>
    </form>
  );
}
