import { keepPreviousData, useInfiniteQuery, useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useParams } from "react-router";
import { said } from "../../shared/problem";
import { Badge, Button, Disclosure, Field, Notice, Select } from "../../shared/ui";
import { api, data } from "../api";
import { type Action, choices } from "../choices";
import type { AttemptRow } from "../api";
import { LiftLimits } from "./pressure";
import { TemporaryPassword } from "../temporary";
import { Facts, Loading, PageHead, Paged, PersonLink, ReferenceLink, Section, State, Table, Time } from "../parts";
import { ask } from "../queries";
import type { Page } from "../page";
import { useFilter } from "../filter";

export const pages: Page[] = [
  { path: "people", title: "People", place: "people", element: People },
  { path: "people/:id", title: "Person", place: "people", element: Person },
];

interface AccountData {
  directory: string;
  login: string;
  disabled: boolean;
  locked: boolean;
  hasMail: boolean;
  quarantined: boolean;
  mustChange: boolean;
  changedElsewhereAt: string | null;
}

export function People() {
  const filter = useFilter();
  const search = filter.get("search");
  const people = useInfiniteQuery(ask.people(search));
  return (
    <>
      <PageHead
        title="People"
        under="As the directories have them. Open a person to see why they can or cannot recover."
      />
      <div className="mb-4 max-w-md">
        <Field
          label="Name or sign-in name"
          type="search"
          value={search}
          onChange={(event) => filter.set({ search: event.target.value || null })}
        />
      </div>
      <Paged query={people}>
        {(rows) => (
          <Table
            name="People"
            rows={rows}
            keyOf={(one) => one.id}
            empty={search ? `No one matches “${search}”.` : "No people yet. Read them on a directory’s page."}
            columns={[
              {
                title: "Name",
                value: (one) => <PersonLink id={one.id} name={one.name} />,
              },
              { title: "Department", value: (one) => one.department },
              {
                title: "Accounts",
                wide: true,
                value: (one) => (
                  <ul className="flex flex-wrap gap-x-4 gap-y-1">
                    {one.accounts.map((account) => (
                      <li key={account.id} className="flex items-center gap-1.5">
                        <span className="text-muted">{account.directory}</span> {account.login}
                        <AccountState account={account} />
                      </li>
                    ))}
                  </ul>
                ),
              },
            ]}
          />
        )}
      </Paged>
    </>
  );
}

function AccountState({ account }: { account: AccountData }) {
  return (
    <>
      {account.disabled && <Badge tone="none">disabled</Badge>}
      {account.locked && <Badge tone="warn">locked</Badge>}
      {!account.hasMail && <Badge tone="warn">no mail</Badge>}
      {account.mustChange && <Badge tone="info">must change</Badge>}
      {account.quarantined && <Badge tone="bad">owner unclear</Badge>}
      {account.changedElsewhereAt && <Badge tone="warn">out of step</Badge>}
    </>
  );
}

export function Person() {
  const { id = "" } = useParams();
  const [action, setAction] = useState<Action>("reset");
  const [network, setNetwork] = useState("");
  const [at, setAt] = useState("");
  const person = useQuery(ask.person(id));
  const explained = useQuery({ ...ask.explanation(id, { action, network, at }), placeholderData: keepPreviousData });
  const attempts = useQuery(ask.attemptsOf(id));
  return (
    <Loading query={person}>
      {() => {
        const one = person.data!;
        return (
          <>
            <PageHead title={one.name} under={one.department}>
              <Link
                to={`/audit/messages?person=${one.id}`}
                className="text-accent-ink self-center rounded-sm underline"
              >
                Messages
              </Link>
              <TemporaryPassword person={one.id} name={one.name} />
            </PageHead>
            <SelfService person={one.id} name={one.name} />
            <Section title="Can they do it now?">
              <div className="mb-3 flex flex-wrap gap-4">
                <Select label="What" value={action} onChange={setAction} options={choices.action} />
                <Field
                  label="From the address"
                  hint="Leave empty if the place is unknown"
                  placeholder="203.0.113.7"
                  defaultValue={network}
                  onBlur={(event) => setNetwork(event.target.value.trim())}
                />
                <Field
                  label="At"
                  hint="Leave empty for now"
                  type="datetime-local"
                  value={at}
                  onChange={(event) => setAt(event.target.value)}
                />
              </div>
              <Loading query={explained}>
                {() => {
                  const why = explained.data!;
                  return (
                    <div className="flex flex-col gap-4">
                      {why.possible ? (
                        <Notice tone="ok" title="Yes.">
                          <p>
                            Policy {why.policy} of revision {why.revision} decides, and nothing stands in the way.
                          </p>
                        </Notice>
                      ) : (
                        <Notice tone="warn" title="No.">
                          {why.obstacles.map((obstacle) => (
                            <div key={obstacle.code}>
                              <p>{obstacle.cause}</p>
                              <p className="text-sm">What to do: {obstacle.whatToDo}</p>
                            </div>
                          ))}
                        </Notice>
                      )}
                      {why.notes.length > 0 && (
                        <ul className="list-disc pl-5">
                          {why.notes.map((note) => (
                            <li key={note}>{note}</li>
                          ))}
                        </ul>
                      )}
                      {why.obstacles.some((obstacle) => obstacle.code === "tries-used-up") && (
                        <LiftLimits person={one.id} />
                      )}
                      {why.situations.length > 0 && (
                        <div>
                          <p className="font-medium">Where it makes a difference</p>
                          <ul className="mt-1 flex flex-col gap-1">
                            {why.situations.map((situation) => (
                              <li key={situation.words}>
                                <Badge tone={situation.possible ? "ok" : "warn"}>
                                  {situation.possible ? "possible" : "not possible"}
                                </Badge>{" "}
                                {situation.words}
                                {situation.proof && <span className="text-muted">: {situation.proof}</span>}
                                {situation.obstacles.map((obstacle) => (
                                  <span key={obstacle} className="text-muted block pl-4 text-sm">
                                    {obstacle}
                                  </span>
                                ))}
                              </li>
                            ))}
                          </ul>
                        </div>
                      )}
                      {why.considered.length > 0 && (
                        <ol className="flex list-decimal flex-col gap-1 pl-5">
                          {why.considered.map((one) => (
                            <li key={one.policy}>
                              <strong className="font-medium">{one.policy}</strong>{" "}
                              {one.covers ? "decides" : "passes by"}: {one.because}
                            </li>
                          ))}
                        </ol>
                      )}
                      {why.required && (
                        <div>
                          <p>
                            Verify with: <strong className="font-medium">{why.required.words}</strong>{" "}
                            <span className="text-muted text-sm">{why.required.source}</span>
                          </p>
                          {why.required.because.map((because) => (
                            <p key={because} className="text-warn text-sm">
                              Stricter {because}
                            </p>
                          ))}
                          <ul className="mt-1 flex flex-wrap gap-2">
                            {why.methods.map((method) => (
                              <li key={method.method}>
                                <Badge tone={method.usable ? "ok" : method.enrolled ? "warn" : "none"}>
                                  {method.method}: {method.words}
                                </Badge>
                              </li>
                            ))}
                          </ul>
                        </div>
                      )}
                      {why.waysIn.length > 0 && (
                        <div>
                          <p className="font-medium">What somebody else would need</p>
                          <ul className="mt-1 list-disc pl-5">
                            {why.waysIn.map((way) => (
                              <li key={way}>{way}</li>
                            ))}
                          </ul>
                        </div>
                      )}
                      <Button
                        look="quiet"
                        className="self-start"
                        onClick={() => void navigator.clipboard.writeText(why.text)}
                      >
                        Copy as text
                      </Button>
                      {why.facts.length > 0 && (
                        <Disclosure summary="Each value and where it was said" framed>
                          <div className="mt-3">
                            <Facts
                              facts={why.facts.map((fact) => [
                                fact.name,
                                <>
                                  {fact.value} <span className="text-muted text-sm">{fact.source}</span>
                                </>,
                              ])}
                            />
                          </div>
                        </Disclosure>
                      )}
                    </div>
                  );
                }}
              </Loading>
            </Section>
            <Section title="Accounts">
              <Table
                name="Accounts"
                rows={one.accounts}
                keyOf={(account) => account.id}
                empty="No account."
                columns={[
                  { title: "Directory", value: (account) => account.directory },
                  { title: "Sign-in name", value: (account) => <span className="font-medium">{account.login}</span> },
                  { title: "State", value: (account) => <AccountState account={account} /> },
                  { title: "Password set", value: (account) => <Time at={account.passwordSetAt} /> },
                  {
                    title: "Good until",
                    value: (account) => (account.passwordEndsAt ? <Time at={account.passwordEndsAt} /> : null),
                  },
                  {
                    title: "Last sign-in",
                    value: (account) => (account.lastSignIn ? <Time at={account.lastSignIn} /> : null),
                  },
                  {
                    title: "Entry",
                    wide: true,
                    value: (account) => <span className="text-muted text-sm break-all">{account.dn}</span>,
                  },
                ]}
              />
              <p className="text-muted mt-2">
                Groups: {one.groups.length === 0 ? "none" : one.groups.join(", ")}
                {one.correlation && `. Matched by ${one.correlation}.`}
              </p>
            </Section>
            <Methods person={one.id} />
            <Section title="Latest attempts">
              <Loading query={attempts}>{() => <Attempts rows={attempts.data!.items} />}</Loading>
              {one.accounts[0] && (
                <p className="mt-2">
                  <Link
                    className="text-accent-ink rounded-sm underline"
                    to={`/audit/events?person=${encodeURIComponent(one.accounts[0].login)}`}
                  >
                    Everything on record that concerned {one.name}
                  </Link>
                </p>
              )}
            </Section>
          </>
        );
      }}
    </Loading>
  );
}

/** Shown while nothing is possible for the person, because they said that something wasn’t them. */
function SelfService({ person, name }: { person: string; name: string }) {
  const closed = useQuery(ask.selfService(person));
  const [reason, setReason] = useState("");
  const open = useMutation({
    meta: { touches: ["people", "explain", "today"], saidHere: true },
    mutationFn: () =>
      data(
        api.POST("/api/v1/people/{id}/self-service/opening", { params: { path: { id: person } }, body: { reason } }),
      ),
  });
  if (!closed.data?.closed) return null;
  return (
    <div className="mb-6">
      <Notice tone="bad" title="Self-service is closed">
        <p>
          {name} said that something wasn’t them, <Time at={closed.data.since} />
          {closed.data.reference && (
            <>
              , about <ReferenceLink reference={closed.data.reference} />
            </>
          )}
          . Talk to them, look at what happened, then open it again.
        </p>
        <form
          className="flex flex-wrap items-end gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            open.mutate();
          }}
        >
          <Field
            label="What you found"
            hint="One line; it goes on record"
            value={reason}
            onChange={(event) => setReason(event.target.value)}
            error={open.error ? said(open.error) : undefined}
          />
          <Button type="submit" busy={open.isPending}>
            Open self-service again
          </Button>
        </form>
      </Notice>
    </div>
  );
}

/** How the person can be recognised; an administrator can take one away, and sees no secret. */
function Methods({ person }: { person: string }) {
  const methods = useQuery(ask.enrolments(person));
  const remove = useMutation({
    mutationFn: (enrolment: string) =>
      data(api.DELETE("/api/v1/people/{id}/enrolments/{enrolment}", { params: { path: { id: person, enrolment } } })),
  });
  return (
    <Section title="Methods">
      <Loading query={methods}>
        {() => (
          <Table
            name="Methods"
            rows={methods.data!}
            keyOf={(one) => one.id ?? one.method}
            empty="None yet. The person sets them up under “I want to prepare for next time”."
            columns={[
              { title: "Method", value: (one) => <span className="font-medium">{one.method}</span> },
              { title: "Label", wide: true, value: (one) => one.label },
              { title: "Since", value: (one) => (one.since ? <Time at={one.since} /> : null) },
              { title: "Last used", value: (one) => (one.lastUsed ? <Time at={one.lastUsed} /> : null) },
              { title: "Left", value: (one) => one.left },
              {
                title: "Remove",
                value: (one) =>
                  one.id && (
                    <Button
                      busy={remove.isPending}
                      aria-label={`Remove ${one.label}`}
                      onClick={() =>
                        window.confirm(`${one.label} will count no more. Remove it?`) && remove.mutate(one.id)
                      }
                    >
                      Remove …
                    </Button>
                  ),
              },
            ]}
          />
        )}
      </Loading>
    </Section>
  );
}

function Attempts({ rows }: { rows: AttemptRow[] }) {
  return (
    <Table
      name="Attempts"
      rows={rows}
      keyOf={(row) => row.reference}
      empty="None yet."
      columns={[
        {
          title: "Reference",
          value: (row) => <ReferenceLink reference={row.reference} />,
        },
        { title: "Started", value: (row) => <Time at={row.createdAt} /> },
        { title: "State", wide: true, value: (row) => <State state={row.state} /> },
      ]}
    />
  );
}
