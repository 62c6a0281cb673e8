import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, data } from "./api";
import type { Draft } from "./api";
import { useDrafts } from "./drafts";

type Files = Record<string, string>;

/** The draft that changes go to, the files as they are now, and a way to change them: without a draft one is started. */
export function useDraftChange() {
  const queries = useQueryClient();
  const drafts = useDrafts();
  const draft: Draft | undefined = drafts.data?.[0];
  const revisions = useQuery({ queryKey: ["revisions"], queryFn: () => data(api.GET("/api/v1/revisions")) });
  const number = revisions.data?.[0]?.number ?? 0;
  const published = useQuery({
    queryKey: ["revisions", number],
    queryFn: () => data(api.GET("/api/v1/revisions/{number}", { params: { path: { number } } })),
    enabled: number > 0,
  });
  const files: Files = draft?.files ?? (published.data?.files as Files | undefined) ?? {};
  const change = useMutation({
    mutationFn: async (edit: (files: Files) => Files) => {
      const base = draft ?? (await data(api.POST("/api/v1/drafts", { body: { name: "" } })));
      return data(
        api.PUT("/api/v1/drafts/{id}/files", {
          params: { path: { id: base.id }, header: { "If-Match": `"${base.version}"` } },
          body: { files: edit(base.files) },
        }),
      );
    },
    onSettled: () => queries.invalidateQueries(),
  });
  return {
    draft,
    files,
    change,
    ready: drafts.isSuccess && (draft !== undefined || number === 0 || published.isSuccess),
  };
}
