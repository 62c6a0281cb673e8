import { useMutation } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { said } from "../../shared/problem";
import { Button, Empty, Notice } from "../../shared/ui";
import { api, data } from "../api";
import type { Draft } from "../api";
import { useDrafts, useNewDraft } from "../draft-change";
import { Problems } from "../drafts";
import { PageHead, Section } from "../parts";
import type { Page } from "../page";

export const page: Page = {
  path: "policies/files",
  title: "Files",
  place: "policies",
  beside: { at: 5, title: "Files" },
  element: Files,
};

/** Everything in configuration as files, as a folder in version control holds them. */
export function Files() {
  const { all, draft } = useDrafts();
  const start = useNewDraft();
  return (
    <>
      <PageHead
        title="Files"
        under="Policies, scopes, rule sets, networks, terms and methods, each in a file of its own."
      >
        {!draft && all.data && (
          <Button look="primary" busy={start.isPending} onClick={() => start.mutate("")}>
            Start a draft
          </Button>
        )}
      </PageHead>
      {draft ? (
        <Editor key={draft.id} draft={draft} />
      ) : (
        <Empty>Start a draft to see and change the files; or load a folder: entente draft load DIR</Empty>
      )}
    </>
  );
}

/** The files of a draft. Saved as a whole; somebody else's change in between is not overwritten. */
function Editor({ draft }: { draft: Draft }) {
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
    meta: { touches: ["drafts"], saidHere: true },
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
    },
    // What somebody else made of it is there when the changes here are undone.
  });

  return (
    <Section title={`Draft: ${draft.name}`}>
      <div className="flex flex-col gap-3">
        {save.error && <Notice tone="bad">{said(save.error, "The change wasn’t saved. Try again.")}</Notice>}
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
          <Button
            disabled={!changed}
            onClick={() => {
              setFiles(base.files);
              save.reset();
            }}
          >
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
