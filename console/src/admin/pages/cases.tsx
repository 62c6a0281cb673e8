import { useMutation, useQuery } from "@tanstack/react-query";
import { said } from "../../shared/problem";
import { Button, Empty, Notice } from "../../shared/ui";
import { api, data } from "../api";
import { Loading, PageHead, PersonLink, Time } from "../parts";
import { ask } from "../queries";
import type { Page } from "../page";

export const page: Page = {
  path: "directories/in-doubt",
  title: "Unclear owners",
  place: "directories",
  beside: { at: 3, title: "In doubt" },
  element: Cases,
};

/** Accounts whose person is in doubt, to be settled one by one. */
export function Cases() {
  const cases = useQuery(ask.cases());
  const settle = useMutation({
    meta: { saidHere: true },
    mutationFn: ({ id, decision }: { id: string; decision: "join" | "keep-apart" }) =>
      data(api.POST("/api/v1/correlation-cases/{id}/settlement", { params: { path: { id } }, body: { decision } })),
  });
  return (
    <>
      <PageHead
        title="Unclear owners"
        under="Accounts whose owner is unclear. Nothing is delivered to them until you settle it."
      />
      {settle.error && (
        <div className="mb-4">
          <Notice tone="bad">{said(settle.error)}</Notice>
        </div>
      )}
      <Loading query={cases}>
        {() =>
          cases.data!.length === 0 ? (
            <Empty>
              It’s clear who owns every account. An account shows up here when its matching attribute changes to someone
              else’s value, or when two accounts of one directory name the same person.
            </Empty>
          ) : (
            <ul className="divide-line border-line bg-surface divide-y rounded-lg border">
              {cases.data!.map((one) => (
                <li key={one.id} className="flex flex-col gap-3 p-4 md:flex-row md:items-start md:justify-between">
                  <div className="flex min-w-0 flex-col gap-1">
                    <p>
                      <strong className="font-semibold">{one.login}</strong>{" "}
                      <span className="text-muted">in {one.directory}</span>
                    </p>
                    <p>{one.says}</p>
                    <p className="text-muted text-sm break-all">{one.dn}</p>
                    <p className="text-muted text-sm">
                      Now with <PersonLink id={one.person} name={one.personName} />, since <Time at={one.openedAt} />
                    </p>
                  </div>
                  <div className="flex shrink-0 flex-wrap gap-2">
                    <Button
                      busy={settle.isPending && settle.variables.id === one.id && settle.variables.decision === "join"}
                      onClick={() => settle.mutate({ id: one.id, decision: "join" })}
                    >
                      {one.otherName ? `It is ${one.otherName}'s` : "Follow the attribute"}
                    </Button>
                    <Button
                      busy={
                        settle.isPending && settle.variables.id === one.id && settle.variables.decision === "keep-apart"
                      }
                      onClick={() => settle.mutate({ id: one.id, decision: "keep-apart" })}
                    >
                      Keep it where it is
                    </Button>
                  </div>
                </li>
              ))}
            </ul>
          )
        }
      </Loading>
    </>
  );
}
