import { infiniteQueryOptions, keepPreviousData, queryOptions } from "@tanstack/react-query";
import type { paths } from "../shared/api-types";
import { api, data } from "./api";
import type { Action } from "./choices";

/** The circumstances that a question is asked for; what is empty is left out. */
export interface Circumstances {
  action: Action;
  network: string;
  at: string;
}

/** A reset, now, from anywhere. */
export const plainReset: Circumstances = { action: "reset", network: "", at: "" };

const circumstances = ({ action, network, at }: Circumstances) => ({
  action,
  network: network || undefined,
  at: at ? new Date(at).toISOString() : undefined,
});

/** What a list can be narrowed down by. */
type Query<P extends keyof paths> = NonNullable<
  paths[P] extends { get: { parameters: { query?: infer Q } } } ? Q : never
>;

/** Which of the people that a rehearsal counted. */
export interface Which {
  kind?: string;
  part?: string;
  from?: string | null;
  to?: string | null;
}

const byPages = {
  initialPageParam: "",
  getNextPageParam: (page: { after: string }) => page.after || undefined,
};

/** How many rows come at once. */
const ROWS = 50;

/** A draft as far as answers about it depend on it. */
interface OfDraft {
  id: string;
  version: number;
}

/**
 * Everything that pages ask the service, once, with the name under which an answer is kept. A name begins with what it is about,
 * so that a change says by one word what has to be asked again (`touches`).
 */
export const ask = {
  session: () =>
    queryOptions({
      queryKey: ["session"],
      // Nobody being signed in is an answer, too.
      queryFn: async () => (await data(api.GET("/api/v1/session"))) ?? null,
      staleTime: 60_000,
    }),
  ownSessions: () =>
    queryOptions({ queryKey: ["me", "sessions"], queryFn: () => data(api.GET("/api/v1/me/sessions")) }),
  offeredSecondFactor: () =>
    queryOptions({
      queryKey: ["me", "second-factor", "offer"],
      queryFn: () => data(api.POST("/api/v1/me/second-factor")),
      staleTime: Infinity,
      gcTime: 0,
    }),
  administrators: () =>
    queryOptions({ queryKey: ["administrators"], queryFn: () => data(api.GET("/api/v1/administrators")) }),
  proposedChanges: () =>
    queryOptions({
      queryKey: ["proposed-changes"],
      queryFn: () => data(api.GET("/api/v1/proposed-changes")),
      refetchInterval: 15_000,
    }),
  switches: () => queryOptions({ queryKey: ["switches"], queryFn: () => data(api.GET("/api/v1/switches")) }),
  approvalRule: () =>
    queryOptions({ queryKey: ["approval-rule"], queryFn: () => data(api.GET("/api/v1/approval-rule")) }),
  phone: () => queryOptions({ queryKey: ["phone"], queryFn: () => data(api.GET("/api/v1/channels/phone")) }),
  mail: () => queryOptions({ queryKey: ["mail"], queryFn: () => data(api.GET("/api/v1/channels/mail")) }),

  /** Null where none is named. */
  bounces: () =>
    queryOptions({
      queryKey: ["bounces"],
      queryFn: async () => {
        const answer = await api.GET("/api/v1/channels/mail/bounces");
        return answer.response.status === 404 ? null : await data(Promise.resolve(answer));
      },
      refetchInterval: 15_000,
    }),

  outlets: () =>
    queryOptions({
      queryKey: ["outlets"],
      queryFn: () => data(api.GET("/api/v1/outlets")),
      refetchInterval: 5_000,
    }),

  retention: () =>
    queryOptions({
      queryKey: ["retention"],
      queryFn: () => data(api.GET("/api/v1/retention")),
      refetchInterval: 15_000,
    }),

  today: () =>
    queryOptions({
      queryKey: ["today"],
      queryFn: () => data(api.GET("/api/v1/today")),
      refetchInterval: 10_000,
    }),
  stops: () =>
    queryOptions({
      queryKey: ["stops"],
      queryFn: () => data(api.GET("/api/v1/stops")),
      refetchInterval: 15_000,
    }),
  pressure: () =>
    queryOptions({
      queryKey: ["pressure"],
      queryFn: () => data(api.GET("/api/v1/pressure")),
      refetchInterval: 10_000,
    }),

  directories: () =>
    queryOptions({
      queryKey: ["directories"],
      queryFn: () => data(api.GET("/api/v1/directories")),
      refetchInterval: 10_000,
    }),
  directory: (name: string) =>
    queryOptions({
      queryKey: ["directories", name],
      queryFn: () => data(api.GET("/api/v1/directories/{name}", { params: { path: { name } } })),
    }),
  /** One that may not be there yet; null then. */
  awaitedDirectory: (name: string) =>
    queryOptions({
      queryKey: ["directories", name, "awaited"],
      queryFn: async () => (await data(api.GET("/api/v1/directories"))).find((one) => one.name === name) ?? null,
      refetchInterval: 2000,
    }),
  removal: (name: string) =>
    queryOptions({
      queryKey: ["directories", name, "removal"],
      queryFn: () => data(api.GET("/api/v1/directories/{name}/removal", { params: { path: { name } } })),
    }),
  deliveries: (filter: {
    state: Query<"/api/v1/deliveries">["state"];
    directory: string;
    cause: Query<"/api/v1/deliveries">["cause"];
  }) =>
    infiniteQueryOptions({
      ...byPages,
      queryKey: ["deliveries", filter],
      queryFn: ({ pageParam }) =>
        data(
          api.GET("/api/v1/deliveries", {
            params: {
              query: {
                state: filter.state,
                directory: filter.directory || undefined,
                cause: filter.cause || undefined,
                after: pageParam || undefined,
                limit: ROWS,
              },
            },
          }),
        ),
      placeholderData: keepPreviousData,
      refetchInterval: 10_000,
    }),
  cases: () => queryOptions({ queryKey: ["cases"], queryFn: () => data(api.GET("/api/v1/correlation-cases")) }),

  people: (search: string) =>
    infiniteQueryOptions({
      ...byPages,
      queryKey: ["people", "list", search],
      queryFn: ({ pageParam }) =>
        data(api.GET("/api/v1/people", { params: { query: { search, limit: ROWS, after: pageParam || undefined } } })),
      placeholderData: keepPreviousData,
    }),
  person: (id: string) =>
    queryOptions({
      queryKey: ["people", id],
      queryFn: () => data(api.GET("/api/v1/people/{id}", { params: { path: { id } } })),
    }),
  enrolments: (person: string) =>
    queryOptions({
      queryKey: ["people", person, "enrolments"],
      queryFn: () => data(api.GET("/api/v1/people/{id}/enrolments", { params: { path: { id: person } } })),
    }),
  explanation: (person: string, asked: Circumstances, draft?: string) =>
    queryOptions({
      queryKey: ["explain", person, asked, draft],
      queryFn: () =>
        data(api.GET("/api/v1/explain", { params: { query: { person, draft, ...circumstances(asked) } } })),
    }),

  eventKinds: () =>
    queryOptions({
      queryKey: ["event-kinds"],
      queryFn: () => data(api.GET("/api/v1/events/kinds")),
      staleTime: Infinity,
    }),
  /** Values that are empty ask for nothing. */
  events: (wanted: Omit<NonNullable<Query<"/api/v1/events">>, "after" | "limit">) => {
    const query = Object.fromEntries(Object.entries(wanted).filter(([, value]) => value));
    return infiniteQueryOptions({
      ...byPages,
      queryKey: ["events", query],
      queryFn: ({ pageParam }) =>
        data(
          api.GET("/api/v1/events", { params: { query: { ...query, after: pageParam || undefined, limit: ROWS } } }),
        ),
      placeholderData: keepPreviousData,
    });
  },

  /** How many a search finds. */
  eventCount: (wanted: Omit<NonNullable<Query<"/api/v1/events/count">>, "after" | "limit">) => {
    const query = Object.fromEntries(Object.entries(wanted).filter(([, value]) => value));
    return queryOptions({
      queryKey: ["events", "count", query],
      queryFn: () => data(api.GET("/api/v1/events/count", { params: { query } })),
      placeholderData: keepPreviousData,
    });
  },
  savedSearches: () =>
    queryOptions({
      queryKey: ["saved-searches"],
      queryFn: () => data(api.GET("/api/v1/events/searches")),
    }),

  /** Values that are empty ask for nothing. */
  notifications: (wanted: Omit<NonNullable<Query<"/api/v1/notifications">>, "after" | "limit">) => {
    const query = Object.fromEntries(Object.entries(wanted).filter(([, value]) => value));
    return infiniteQueryOptions({
      ...byPages,
      queryKey: ["notifications", "list", query],
      queryFn: ({ pageParam }) =>
        data(
          api.GET("/api/v1/notifications", {
            params: { query: { ...query, after: pageParam || undefined, limit: ROWS } },
          }),
        ),
      placeholderData: keepPreviousData,
      refetchInterval: 10_000,
    });
  },
  notification: (id: string) =>
    queryOptions({
      queryKey: ["notifications", "one", id],
      queryFn: () => data(api.GET("/api/v1/notifications/{id}", { params: { path: { id } } })),
    }),
  notices: () => queryOptions({ queryKey: ["notices"], queryFn: () => data(api.GET("/api/v1/me/notices")) }),
  selfService: (person: string) =>
    queryOptions({
      queryKey: ["people", person, "self-service"],
      queryFn: () => data(api.GET("/api/v1/people/{id}/self-service", { params: { path: { id: person } } })),
    }),

  attempts: (wanted: Pick<NonNullable<Query<"/api/v1/attempts">>, "state" | "since" | "until">) => {
    const query = Object.fromEntries(Object.entries(wanted).filter(([, value]) => value));
    return infiniteQueryOptions({
      ...byPages,
      queryKey: ["attempts", "list", query],
      queryFn: ({ pageParam }) =>
        data(
          api.GET("/api/v1/attempts", { params: { query: { ...query, after: pageParam || undefined, limit: ROWS } } }),
        ),
      placeholderData: keepPreviousData,
      refetchInterval: 10_000,
    });
  },
  attemptsOf: (person: string) =>
    queryOptions({
      queryKey: ["attempts", "of", person],
      queryFn: () => data(api.GET("/api/v1/attempts", { params: { query: { person, limit: 10 } } })),
    }),
  attempt: (reference: string) =>
    queryOptions({
      queryKey: ["attempts", "one", reference],
      queryFn: () => data(api.GET("/api/v1/attempts/{reference}", { params: { path: { reference } } })),
    }),

  /** Those in force, or as a draft would have them. */
  policies: (draft?: OfDraft) =>
    queryOptions({
      queryKey: ["policies", draft?.id, draft?.version],
      queryFn: () =>
        draft
          ? data(api.GET("/api/v1/drafts/{id}/policies", { params: { path: { id: draft.id } } }))
          : data(api.GET("/api/v1/policies")),
      placeholderData: keepPreviousData,
    }),
  /** What somebody else would need to get through a policy. */
  waysIn: (policy: string, action: Action, draft?: OfDraft) =>
    queryOptions({
      queryKey: ["ways-in", policy, action, draft?.id, draft?.version],
      queryFn: () =>
        draft
          ? data(
              api.GET("/api/v1/drafts/{id}/policies/{name}/ways-in", {
                params: { path: { id: draft.id, name: policy }, query: { action } },
              }),
            )
          : data(api.GET("/api/v1/policies/{name}/ways-in", { params: { path: { name: policy }, query: { action } } })),
      placeholderData: keepPreviousData,
    }),
  /** Those in force, or as a draft would have them; `files` are those of the draft that say what is sent. */
  messages: (draft: string | undefined, files: unknown) =>
    queryOptions({
      queryKey: ["messages", draft, files],
      queryFn: () =>
        draft
          ? data(api.GET("/api/v1/drafts/{id}/messages", { params: { path: { id: draft } } }))
          : data(api.GET("/api/v1/messages")),
      placeholderData: keepPreviousData,
    }),
  scopes: () => queryOptions({ queryKey: ["scopes"], queryFn: () => data(api.GET("/api/v1/scopes")) }),
  members: (scope: string) =>
    infiniteQueryOptions({
      ...byPages,
      queryKey: ["scopes", scope, "members"],
      queryFn: ({ pageParam }) =>
        data(
          api.GET("/api/v1/scopes/{name}/members", {
            params: { path: { name: scope }, query: { limit: ROWS, after: pageParam || undefined } },
          }),
        ),
    }),
  scopeChanges: (scope: string) =>
    infiniteQueryOptions({
      ...byPages,
      queryKey: ["scopes", scope, "changes"],
      queryFn: ({ pageParam }) =>
        data(
          api.GET("/api/v1/scopes/{name}/changes", {
            params: {
              path: { name: scope },
              query: { limit: ROWS, before: pageParam ? Number(pageParam) : undefined },
            },
          }),
        ),
      refetchInterval: 15_000,
    }),
  scopePreview: (name: string, text: string, files: Record<string, string>) =>
    queryOptions({
      queryKey: ["scopes", "preview", name, text],
      queryFn: () =>
        data(api.POST("/api/v1/scopes/preview", { body: { name, text, files: files as Record<string, never> } })),
      placeholderData: keepPreviousData,
    }),

  drafts: () =>
    queryOptions({
      queryKey: ["drafts"],
      queryFn: () => data(api.GET("/api/v1/drafts")),
      refetchInterval: 15_000,
    }),
  draftApproval: (draft: OfDraft) =>
    queryOptions({
      queryKey: ["drafts", draft.id, draft.version, "approval"],
      queryFn: () => data(api.GET("/api/v1/drafts/{id}/approval", { params: { path: { id: draft.id } } })),
    }),
  draftComparison: (draft: OfDraft) =>
    queryOptions({
      queryKey: ["drafts", draft.id, draft.version, "comparison"],
      queryFn: () => data(api.GET("/api/v1/drafts/{id}/comparison", { params: { path: { id: draft.id } } })),
    }),
  rehearsal: (draft: OfDraft, asked: Circumstances) =>
    queryOptions({
      queryKey: ["drafts", draft.id, draft.version, "rehearsal", asked],
      queryFn: () =>
        data(
          api.GET("/api/v1/drafts/{id}/rehearsal", {
            params: { path: { id: draft.id }, query: circumstances(asked) },
          }),
        ),
    }),
  rehearsedPeople: (draft: string, which: Which, asked: Circumstances) =>
    infiniteQueryOptions({
      ...byPages,
      queryKey: ["drafts", draft, "rehearsal", "people", which, asked],
      queryFn: ({ pageParam }) =>
        data(
          api.GET("/api/v1/drafts/{id}/rehearsal/people", {
            params: {
              path: { id: draft },
              query: {
                kind: which.kind || undefined,
                part: which.part || undefined,
                from: which.from ?? undefined,
                to: which.to ?? undefined,
                ...circumstances(asked),
                limit: ROWS,
                after: pageParam || undefined,
              },
            },
          }),
        ),
    }),
  rehearsedAttempts: (draft: OfDraft, days: number) =>
    queryOptions({
      queryKey: ["drafts", draft.id, draft.version, "rehearsal", "attempts", days],
      queryFn: () =>
        data(
          api.GET("/api/v1/drafts/{id}/rehearsal/attempts", { params: { path: { id: draft.id }, query: { days } } }),
        ),
    }),
  plannedChanges: () =>
    queryOptions({
      queryKey: ["planned-changes"],
      queryFn: () => data(api.GET("/api/v1/planned-changes")),
      refetchInterval: 10_000,
    }),
  revisions: () => queryOptions({ queryKey: ["revisions"], queryFn: () => data(api.GET("/api/v1/revisions")) }),
  revision: (number: number) =>
    queryOptions({
      queryKey: ["revisions", number],
      queryFn: () => data(api.GET("/api/v1/revisions/{number}", { params: { path: { number } } })),
    }),
  changesOfRevision: (number: number) =>
    queryOptions({
      queryKey: ["revisions", number, "changes"],
      queryFn: () => data(api.GET("/api/v1/revisions/{number}/changes", { params: { path: { number } } })),
    }),
  /** What restoring one would change; `next` is the revision that this would make. */
  restoration: (number: number, next: number) =>
    queryOptions({
      queryKey: ["revisions", number, "comparison", next],
      queryFn: () => data(api.GET("/api/v1/revisions/{number}/comparison", { params: { path: { number } } })),
      retry: false,
    }),
};
