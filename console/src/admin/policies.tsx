import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { Problem } from "../shared/problem";
import { Button, Notice } from "../shared/ui";
import { api, data } from "./api";
import type { Draft } from "./api";
import { Problems, useDrafts } from "./drafts";
import { Facts, Loading, PageHead, Section, Table, Time } from "./parts";
import { Restore } from "./restore";

/** What is published, as sentences; the files of a draft to change it; and its history. */
export function Policies() {
  const queries = useQueryClient();
  const policies = useQuery({ queryKey: ["policies"], queryFn: () => data(api.GET("/api/v1/policies")) });
  const revisions = useQuery({ queryKey: ["revisions"], queryFn: () => data(api.GET("/api/v1/revisions")) });
  const drafts = useDrafts();
  const start = useMutation({
    mutationFn: () => data(api.POST("/api/v1/drafts", { body: { name: "" } })),
    onSuccess: () => queries.invalidateQueries({ queryKey: ["drafts"] }),
  });
  const draft = drafts.data?.[0];
  return (
    <>
      <PageHead
        title="Policies"
        under="In order: the first that covers a person decides. Nobody outside can do anything."
      >
        {!draft && drafts.data && (
          <Button look="primary" busy={start.isPending} onClick={() => start.mutate()}>
            Start a draft
          </Button>
        )}
      </PageHead>
      <Loading query={policies}>
        {() =>
          policies.data!.length === 0 ? (
            <Section title="Published">
              <p className="text-muted">Nothing is published yet, so nobody can recover anything. Start a draft.</p>
            </Section>
          ) : (
            policies.data!.map((policy) => (
              <section key={policy.name} className="border-line bg-surface mb-7 rounded-lg border p-5">
                <div className="mb-3 flex flex-wrap items-baseline justify-between gap-2">
                  <h2 className="text-lg font-semibold">{policy.title}</h2>
                  <span className="text-muted">
                    covers <strong className="text-ink font-semibold">{policy.people}</strong> people
                  </span>
                </div>
                <div className="text-md mb-4 flex max-w-prose flex-col gap-2">
                  {policy.sentences.map((sentence) => (
                    <p key={sentence}>{sentence}</p>
                  ))}
                </div>
                <details>
                  <summary className="cursor-pointer rounded-sm font-medium">Each value and where it was said</summary>
                  <div className="mt-3">
                    <Facts
                      facts={policy.facts.map((fact) => [
                        fact.name,
                        <>
                          {fact.value} <span className="text-muted text-sm">{fact.source}</span>
                        </>,
                      ])}
                    />
                  </div>
                </details>
              </section>
            ))
          )
        }
      </Loading>
      {draft && <Editor key={draft.id} draft={draft} />}
      <Section title="Revisions">
        <Loading query={revisions}>
          {() => (
            <Table
              name="Revisions"
              rows={revisions.data!}
              keyOf={(one) => String(one.number)}
              empty="None yet."
              columns={[
                { title: "Revision", value: (one) => <strong className="font-medium">{one.number}</strong> },
                { title: "Published", value: (one) => <Time at={one.publishedAt} /> },
                { title: "By", value: (one) => one.author },
                { title: "Note", wide: true, value: (one) => one.note },
                {
                  title: "",
                  value: (one) =>
                    one.number < revisions.data![0]!.number && (
                      <Restore number={one.number} next={revisions.data![0]!.number + 1} />
                    ),
                },
              ]}
            />
          )}
        </Loading>
      </Section>
    </>
  );
}

/** The files of a draft. Saved as a whole; somebody else's change in between is not overwritten. */
function Editor({ draft }: { draft: Draft }) {
  const queries = useQueryClient();
  const [files, setFiles] = useState<Record<string, string>>(draft.files);
  const [base, setBase] = useState(draft);
  const [open, setOpen] = useState(Object.keys(draft.files)[0] ?? "");
  const [path, setPath] = useState("");
  const changed = JSON.stringify(files) !== JSON.stringify(base.files);

  useEffect(() => {
    // A newer version from elsewhere is taken over as long as nothing was typed here.
    if (!changed && draft.version > base.version) {
      setBase(draft);
      setFiles(draft.files);
    }
  }, [draft, base, changed]);

  const save = useMutation({
    mutationFn: () =>
      data(
        api.PUT("/api/v1/drafts/{id}/files", {
          params: { path: { id: draft.id }, header: { "If-Match": `"${base.version}"` } },
          body: { files },
        }),
      ),
    onSuccess: async (saved) => {
      setBase(saved);
      setFiles(saved.files);
      await queries.invalidateQueries({ queryKey: ["drafts"] });
    },
  });

  return (
    <Section title={`Draft: ${draft.name}`}>
      <div className="flex flex-col gap-3">
        {save.error && (
          <Notice tone="bad">
            {save.error instanceof Problem ? save.error.message : "It was not saved. Try again."}
          </Notice>
        )}
        {base.problems.length > 0 && <Problems draft={base} />}
        <div className="grid gap-3 md:grid-cols-[16rem_1fr]">
          <div className="flex flex-col gap-1">
            {Object.keys(files)
              .sort()
              .map((name) => (
                <Button
                  key={name}
                  look={name === open ? "plain" : "quiet"}
                  aria-pressed={name === open}
                  className="justify-start break-all"
                  onClick={() => setOpen(name)}
                >
                  {name}
                </Button>
              ))}
            <form
              className="mt-2 flex gap-2"
              onSubmit={(event) => {
                event.preventDefault();
                if (/^[a-z-]+(\/[a-z0-9-]+)?\.yaml$/.test(path)) {
                  setFiles({ ...files, [path]: files[path] ?? "" });
                  setOpen(path);
                  setPath("");
                }
              }}
            >
              <input
                aria-label="Path of a new file"
                placeholder="policies/name.yaml"
                value={path}
                onChange={(event) => setPath(event.target.value)}
                className="border-control bg-surface min-h-8 min-w-0 flex-1 rounded-md border px-2"
              />
              <Button type="submit">Add</Button>
            </form>
          </div>
          {open ? (
            <textarea
              aria-label={open}
              spellCheck={false}
              value={files[open] ?? ""}
              onChange={(event) => setFiles({ ...files, [open]: event.target.value })}
              className="border-control bg-surface min-h-72 rounded-md border p-3 font-mono text-sm"
            />
          ) : (
            <p className="text-muted">
              Add a file, such as scopes/deck-crew.yaml, or load a folder: entente draft load DIR
            </p>
          )}
        </div>
        <div className="flex flex-wrap gap-2">
          <Button look="primary" disabled={!changed} busy={save.isPending} onClick={() => save.mutate()}>
            Save the draft
          </Button>
          <Button disabled={!changed} onClick={() => setFiles(base.files)}>
            Undo changes
          </Button>
          {open && (
            <Button
              look="quiet"
              onClick={() => {
                const { [open]: _removed, ...rest } = files;
                setFiles(rest);
                setOpen(Object.keys(rest)[0] ?? "");
              }}
            >
              Remove {open}
            </Button>
          )}
        </div>
      </div>
    </Section>
  );
}
