import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { said } from "../shared/problem";
import { Badge, Button, Disclosure, Field, Notice, Select } from "../shared/ui";
import { api, data } from "./api";
import type { Administrator, ProposedChange } from "./api";
import { Loading, Table, Time } from "./parts";
import { ask } from "./queries";

/** Who administers: add, suspend, remove. */
export function Administrators({ own }: { own: string }) {
  const all = useQuery(ask.administrators());
  const act = useMutation({
    meta: { touches: ["administrators"] },
    mutationFn: ({ what, login }: { what: "remove" | "suspend" | "resume" | "second-factor"; login: string }) => {
      const params = { params: { path: { login } } };
      switch (what) {
        case "remove":
          return data(api.DELETE("/api/v1/administrators/{login}", params));
        case "suspend":
          return data(api.POST("/api/v1/administrators/{login}/suspension", params)).then(() => undefined);
        case "resume":
          return data(api.DELETE("/api/v1/administrators/{login}/suspension", params)).then(() => undefined);
        case "second-factor":
          return data(api.DELETE("/api/v1/administrators/{login}/second-factor", params));
      }
    },
  });
  return (
    <Loading query={all}>
      {() => (
        <div className="flex flex-col gap-4">
          <Table<Administrator>
            name="Administrators"
            rows={all.data!}
            keyOf={(one) => one.login}
            empty="None."
            columns={[
              { title: "Sign-in name", value: (one) => <span className="font-medium">{one.login}</span> },
              { title: "Name", wide: true, value: (one) => one.name },
              {
                title: "May",
                value: (one) =>
                  one.role === "administrator"
                    ? "administer"
                    : `help ${one.scopes.length > 0 ? one.scopes.join(", ") : "everybody"}`,
              },
              {
                title: "Second factor",
                value: (one) =>
                  one.secondFactor ? (
                    <span className="flex items-center gap-2">
                      <Badge tone="ok">set up</Badge>
                      {one.login !== own && (
                        <Button
                          look="quiet"
                          aria-label={`Remove the second factor of ${one.login}`}
                          onClick={() =>
                            window.confirm(
                              `${one.name} then signs in with the password alone. Remove the second factor?`,
                            ) && act.mutate({ what: "second-factor", login: one.login })
                          }
                        >
                          Lost …
                        </Button>
                      )}
                    </span>
                  ) : (
                    <Badge tone="warn">none</Badge>
                  ),
              },
              { title: "Last seen", value: (one) => <Time at={one.lastSeen} /> },
              {
                title: "What can be done",
                value: (one) =>
                  one.login === own ? (
                    <Badge tone="info">you</Badge>
                  ) : (
                    <span className="flex gap-2">
                      <Button
                        onClick={() => act.mutate({ what: one.suspendedAt ? "resume" : "suspend", login: one.login })}
                      >
                        {one.suspendedAt ? "Resume" : "Suspend"}
                      </Button>
                      <Button
                        aria-label={`Remove ${one.login}`}
                        onClick={() =>
                          window.confirm(`${one.name} is signed out everywhere at once. Remove ${one.login}?`) &&
                          act.mutate({ what: "remove", login: one.login })
                        }
                      >
                        Remove …
                      </Button>
                    </span>
                  ),
              },
            ]}
          />
          <NewAdministrator />
        </div>
      )}
    </Loading>
  );
}

type Role = Administrator["role"];
const roles: { value: Role; text: string }[] = [
  { value: "administrator", text: "Administer everything" },
  { value: "staff", text: "Work at the help desk, and nothing else" },
];

function NewAdministrator() {
  const nobody = { login: "", name: "", password: "", role: "administrator" as Role, scopes: "", ownLogin: "" };
  const [wanted, setWanted] = useState(nobody);
  const add = useMutation({
    meta: { touches: ["administrators"], saidHere: true },
    mutationFn: () => {
      const { scopes, ownLogin, ...who } = wanted;
      const body = wanted.role === "staff" ? { ...who, ownLogin, scopes: scopes.split(/[\s,]+/).filter(Boolean) } : who;
      return data(api.POST("/api/v1/administrators", { body }));
    },
    onSuccess: () => {
      setWanted(nobody);
    },
  });
  return (
    <Disclosure summary="Add someone" framed className="max-w-xl">
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate();
        }}
      >
        <Field
          label="Name"
          required
          value={wanted.name}
          onChange={(event) => setWanted({ ...wanted, name: event.target.value })}
        />
        <Field
          label="Sign-in name"
          hint="Lower-case letters, digits, dots and dashes"
          required
          autoComplete="off"
          value={wanted.login}
          onChange={(event) => setWanted({ ...wanted, login: event.target.value })}
        />
        <Select
          label="What they may do"
          value={wanted.role}
          onChange={(role) => setWanted({ ...wanted, role })}
          options={roles}
        />
        {wanted.role === "staff" && (
          <>
            <Field
              label="Their own account"
              hint="The name they sign in with themselves. No one can confirm themselves"
              required
              autoComplete="off"
              value={wanted.ownLogin}
              onChange={(event) => setWanted({ ...wanted, ownLogin: event.target.value })}
            />
            <Field
              label="Scopes they may help (optional)"
              hint="Names of scopes, with spaces between them. Everybody if it’s empty"
              autoComplete="off"
              value={wanted.scopes}
              onChange={(event) => setWanted({ ...wanted, scopes: event.target.value })}
            />
          </>
        )}
        <Field
          label="First password"
          hint="At least 12 characters. They can change it themselves"
          type="password"
          required
          autoComplete="new-password"
          value={wanted.password}
          onChange={(event) => setWanted({ ...wanted, password: event.target.value })}
          error={add.error ? said(add.error) : undefined}
        />
        <Button type="submit" busy={add.isPending} className="self-start">
          Add
        </Button>
        {add.isSuccess && <Notice tone="ok">Added.</Notice>}
      </form>
    </Disclosure>
  );
}

/** What waits for a second administrator; the rule stands beside the revisions. */
export function Approvals({ own }: { own: string }) {
  const waiting = useQuery(ask.proposedChanges());
  const decide = useMutation({
    mutationFn: ({ id, approve }: { id: string; approve: boolean }) => {
      const params = { params: { path: { id } } };
      return approve
        ? data(api.POST("/api/v1/proposed-changes/{id}/approval", params))
        : data(api.DELETE("/api/v1/proposed-changes/{id}", params));
    },
  });
  return (
    <div className="flex flex-col gap-4">
      <Loading query={waiting}>
        {() => (
          <Table<ProposedChange>
            name="Waiting for approval"
            rows={waiting.data!}
            keyOf={(one) => one.id}
            empty="No change waits for a second administrator."
            columns={[
              {
                title: "Change",
                wide: true,
                value: (one) => (
                  <ul>
                    {one.says.map((line) => (
                      <li key={line}>{line}</li>
                    ))}
                  </ul>
                ),
              },
              { title: "By", value: (one) => one.author },
              { title: "Since", value: (one) => <Time at={one.madeAt} /> },
              {
                title: "Decide",
                value: (one) => (
                  <span className="flex gap-2">
                    {one.author !== own && (
                      <Button look="primary" onClick={() => decide.mutate({ id: one.id, approve: true })}>
                        Approve
                      </Button>
                    )}
                    <Button onClick={() => decide.mutate({ id: one.id, approve: false })}>
                      {one.author === own ? "Take back" : "Refuse"}
                    </Button>
                  </span>
                ),
              },
            ]}
          />
        )}
      </Loading>
    </div>
  );
}
