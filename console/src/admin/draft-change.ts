import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSyncExternalStore } from "react";
import { api, data } from "./api";
import type { Draft } from "./api";
import { ask } from "./queries";

type Files = Record<string, string>;

const kept = "entente.draft";
const listeners = new Set<() => void>();

/** Makes a draft the one that the pages show and change, in this tab. */
export function chooseDraft(id: string) {
  sessionStorage.setItem(kept, id);
  listeners.forEach((listener) => listener());
}

function chosen() {
  return sessionStorage.getItem(kept) ?? "";
}

function listen(listener: () => void) {
  listeners.add(listener);
  return () => listeners.delete(listener);
}

const oneOf = (drafts: Draft[] | undefined, id: string) => drafts?.find((one) => one.id === id) ?? drafts?.[0];

/** All drafts, and the one that was chosen; the newest where none was. */
export function useDrafts() {
  const id = useSyncExternalStore(listen, chosen);
  const all = useQuery(ask.drafts());
  return { all, draft: oneOf(all.data, id) };
}

/** Starts a draft of what is in force, and chooses it. */
export function useNewDraft() {
  const queries = useQueryClient();
  return useMutation({
    meta: { touches: ["drafts"] },
    mutationFn: (name: string) => data(api.POST("/api/v1/drafts", { body: { name } })),
    onSuccess: async (started) => {
      queries.setQueryData<Draft[]>(["drafts"], (old = []) => [started, ...old]);
      chooseDraft(started.id);
    },
  });
}

/** What would be wrong with one field; told beside it, and nothing is changed. */
export class FieldProblem extends Error {}

/** Files, unless one of them would be wrong. */
export async function checked(files: Files, path: string): Promise<Files> {
  const found = await data(api.POST("/api/v1/configuration-check", { body: { files } }));
  const wrong = found.filter((one) => one.file === path && one.severity !== "warning").map((one) => one.message);
  if (wrong.length > 0) throw new FieldProblem(wrong.join(" "));
  return files;
}

/** Whether it could be published: findings that are only warnings are in nobody's way. */
export function sound(draft: Draft): boolean {
  return draft.problems.every((one) => one.severity === "warning");
}

/** The draft that changes go to, the files as they are now, and a way to change them: without a draft one is started. */
export function useDraftChange() {
  const queries = useQueryClient();
  const { all, draft } = useDrafts();
  const revisions = useQuery(ask.revisions());
  const number = revisions.data?.[0]?.number ?? 0;
  const published = useQuery({ ...ask.revision(number), enabled: number > 0 });
  const files: Files = draft?.files ?? (published.data?.files as Files | undefined) ?? {};
  const change = useMutation({
    // Beside the field, or above the page.
    meta: { goesOn: true, saidHere: true },
    // One after the other, each upon what the one before left: a quick second change is neither lost nor refused.
    scope: { id: "draft" },
    mutationFn: async (edit: (files: Files) => Files | Promise<Files>) => {
      const base =
        oneOf(queries.getQueryData<Draft[]>(["drafts"]), chosen()) ??
        // A list that was on its way when the draft was made does not hold it.
        oneOf(await data(api.GET("/api/v1/drafts")), chosen()) ??
        (await data(api.POST("/api/v1/drafts", { body: { name: "" } })));
      const changed = await data(
        api.PUT("/api/v1/drafts/{id}/files", {
          params: { path: { id: base.id }, header: { "If-Match": `"${base.version}"` } },
          body: { files: await edit(base.files) },
        }),
      );
      // It stays the one on this page, whatever others start meanwhile.
      chooseDraft(changed.id);
      queries.setQueryData<Draft[]>(["drafts"], (old = []) => [changed, ...old.filter((one) => one.id !== changed.id)]);
    },
    // Not waited for: what is worked out from the draft follows while the next change is made.
  });
  return {
    draft,
    files,
    change,
    ready: all.isSuccess && (draft !== undefined || number === 0 || published.isSuccess),
  };
}
