import { useQuery } from "@tanstack/react-query";
import { ArrowDown, ArrowUp, TriangleAlert } from "lucide-react";
import { useState } from "react";
import type { ReactNode } from "react";
import { Link } from "react-router";
import { parse, stringify } from "yaml";
import { said } from "../../shared/problem";
import { Button, Disclosure, Field, Notice, Select } from "../../shared/ui";
import type { Draft, Policy } from "../api";
import { type Action, choices as all, chosen } from "../choices";
import { FieldProblem, checked, sound, useDraftChange } from "../draft-change";
import { Problems } from "../drafts";
import { FactEditor, addCondition, say, sayProof, titleOf, unsay } from "../facts";
import type { Choices, Fact } from "../facts";
import { AsOnePerson } from "../as-person";
import { Loading, PageHead, Section } from "../parts";
import { ProofTable, requirementOf } from "../proof-table";
import { ask, plainReset } from "../queries";
import type { Page } from "../page";

export const page: Page = {
  path: "policies",
  title: "Policies",
  place: "policies",
  beside: { at: 1, title: "Policies" },
  element: Policies,
};

const namesIn = (files: Record<string, string>, folder: string) =>
  Object.keys(files)
    .filter((path) => path.startsWith(`${folder}/`))
    .map((path) => path.slice(folder.length + 1).replace(/\.yaml$/, ""))
    .sort();

/** Every policy as sentences, in the order in which they decide; each fact is changed in its place. */
export function Policies() {
  const { draft, files, change, ready } = useDraftChange();
  const usable = draft !== undefined && sound(draft);
  const policies = useQuery({ ...ask.policies(usable ? draft : undefined), enabled: ready });
  const today = useQuery(ask.today());
  const directories = useQuery(ask.directories());
  const choices: Choices = {
    directories: directories.data?.map((one) => one.name) ?? [],
    passwords: namesIn(files, "passwords"),
    terms: namesIn(files, "terms"),
    networks: namesIn(files, "networks"),
  };

  function move(name: string, by: number) {
    const shown = policies.data!.map((one) => one.name);
    change.mutate((old) => {
      // The order as it is when it is this change's turn, not as it was drawn.
      const said = (parse(old["order.yaml"] ?? "") as { order?: string[] } | null)?.order;
      const order = said?.includes(name) ? [...said] : shown;
      const at = order.indexOf(name);
      order.splice(at + by, 0, ...order.splice(at, 1));
      return { ...old, "order.yaml": stringify({ order }, { collectionStyle: "flow" }) };
    });
  }

  return (
    <>
      <PageHead
        title="Policies"
        under={
          usable
            ? `As the draft “${draft.name}” would have them. In order: the first that covers a person decides.`
            : "In order: the first that covers a person decides."
        }
      >
        <NewPolicy files={files} choices={choices} onAdd={(edit) => change.mutate(edit)} />
      </PageHead>
      {change.error && !(change.error instanceof FieldProblem) && (
        <div className="mb-4">
          <Notice tone="bad">{said(change.error, "The change wasn’t made. Try again.")}</Notice>
        </div>
      )}
      {draft && draft.problems.length > 0 && (
        <div className="mb-4">
          <Problems draft={draft} />
        </div>
      )}
      <Loading query={policies}>
        {() =>
          policies.data!.length === 0 ? (
            <Section title="Published">
              <p className="text-muted">
                Nothing is published yet, so no one can recover anything. Add a scope, then a policy for it; or load a
                folder of files: entente draft load DIR
              </p>
            </Section>
          ) : (
            <>
              {policies.data!.map((policy, at) => (
                <PolicyCard
                  key={policy.name}
                  policy={policy}
                  choices={choices}
                  onEdit={(edit) => {
                    const path = `policies/${policy.name}.yaml`;
                    return change
                      .mutateAsync((old) => {
                        const next = { ...old, [path]: edit(old[path] ?? "") };
                        // What is wrong already has to be mended one by one.
                        return draft && !usable ? next : checked(next, path);
                      })
                      .then(
                        () => undefined,
                        (error: unknown) => (error instanceof FieldProblem ? error.message : undefined),
                      );
                  }}
                  onUp={at > 0 ? () => move(policy.name, -1) : undefined}
                  onDown={at < policies.data!.length - 1 ? () => move(policy.name, 1) : undefined}
                  draft={usable ? draft : undefined}
                />
              ))}
              {today.data && <Uncovered people={today.data.people} policies={policies.data!} />}
            </>
          )
        }
      </Loading>
    </>
  );
}

/** Whom nothing covers: as easily forgotten as it is important. */
function Uncovered({ people, policies }: { people: number; policies: Policy[] }) {
  const left = people - policies.reduce((sum, policy) => sum + policy.people, 0);
  return (
    <p className="text-muted px-5">
      {left > 0
        ? `No policy covers ${left === people ? "anyone" : `${left} of ${people} people`}: they can’t do anything here.`
        : "Everybody is covered by a policy."}
    </p>
  );
}

function PolicyCard({
  policy,
  choices,
  draft,
  onEdit,
  onUp,
  onDown,
}: {
  policy: Policy;
  choices: Choices;
  draft?: Draft;
  onEdit: (edit: (text: string) => string) => Promise<string | undefined>;
  onUp?: () => void;
  onDown?: () => void;
}) {
  const file = `policies/${policy.name}.yaml`;
  const [open, setOpen] = useState("");
  const told = new Set(policy.sentences.flatMap((sentence) => sentence.facts));
  const rest = policy.facts.filter((fact) => !told.has(fact.name));
  const editor = (fact: Fact) => (
    <FactEditor
      fact={fact}
      choices={choices}
      own={fact.source === file}
      onSay={(value) =>
        onEdit((text) =>
          fact.name === "refuse" || fact.name === "prove.stricter"
            ? addCondition(text, fact.name, value)
            : say(text, policy.facts, fact.name, value),
        )
      }
      onUnsay={() => void onEdit((text) => unsay(text, fact.name))}
    />
  );
  return (
    <section aria-label={policy.title} className="border-line bg-surface mb-7 rounded-lg border p-5">
      <div className="mb-3 flex flex-wrap items-center gap-2">
        <h2 className="text-lg font-semibold">{policy.title}</h2>
        <span className="text-muted">
          covers <strong className="text-ink font-semibold">{policy.people}</strong> people
        </span>
        <span className="ml-auto flex gap-1">
          <Button look="quiet" disabled={!onUp} onClick={onUp} aria-label={`Move ${policy.title} up`}>
            <ArrowUp aria-hidden className="size-4" />
          </Button>
          <Button look="quiet" disabled={!onDown} onClick={onDown} aria-label={`Move ${policy.title} down`}>
            <ArrowDown aria-hidden className="size-4" />
          </Button>
        </span>
      </div>
      <div className="grid gap-6 lg:grid-cols-[1fr_17rem]">
        <div className="min-w-0">
          <ul className="text-md mb-4 flex max-w-prose flex-col gap-1">
            {keyed(policy.sentences).map(({ key, text, facts }) => (
              <li key={key}>
                <button
                  type="button"
                  aria-expanded={open === key}
                  onClick={() => setOpen(open === key ? "" : key)}
                  className="hover:bg-accent-soft hover:text-accent-ink decoration-line -mx-2 rounded-md px-2 py-0.5 text-left underline decoration-dotted underline-offset-4"
                >
                  {text}
                </button>
                {open === key &&
                  (proofAction(facts) ? (
                    <ProofTable
                      key={JSON.stringify(requirementOf(policy.facts, proofAction(facts)))}
                      action={proofAction(facts)}
                      policy={policy}
                      own={sourceOf(policy, facts) === file}
                      source={sourceOf(policy, facts)}
                      onSay={(wanted) => onEdit((text) => sayProof(text, proofAction(facts), wanted))}
                      onUnsay={() => void onEdit((text) => unsay(text, facts[0]!))}
                    />
                  ) : (
                    <FactList facts={policy.facts.filter((fact) => facts.includes(fact.name))} editor={editor} />
                  ))}
              </li>
            ))}
          </ul>
          <WaysIn policy={policy.name} draft={draft} />
          <Disclosure summary="More settings">
            <FactList facts={rest} editor={editor} />
          </Disclosure>
        </div>
        <aside className="flex flex-col gap-4">
          {draft && <Hands draft={draft} policy={policy.name} />}
          <AsOnePerson draft={draft?.id} />
        </aside>
      </div>
    </section>
  );
}

/** The action whose requirement a sentence tells; empty for other sentences. */
const proofAction = (facts: string[]) => /^prove\.(reset|unlock|change|details)\./.exec(facts[0] ?? "")?.[1] ?? "";

const sourceOf = (policy: Policy, facts: string[]) =>
  policy.facts.find((fact) => fact.name === facts[0])?.source ?? "built in";

/** The weakest ways through a policy: those that take least come first. */
function WaysIn({ policy, draft }: { policy: string; draft?: Draft }) {
  const [action, setAction] = useState<Action>("reset");
  const ways = useQuery(ask.waysIn(policy, action, draft));
  return (
    <div className="border-line bg-sunken mb-4 max-w-prose rounded-md border p-3">
      <div className="mb-1 flex flex-wrap items-center gap-2">
        <h3 className="font-semibold">What somebody else would need</h3>
        <span className="ml-auto">
          <Select
            label="For"
            value={action}
            options={["reset", "unlock", "details"]}
            onChange={(value) => setAction(chosen(all.action, value) ?? "reset")}
          />
        </span>
      </div>
      <Loading query={ways}>
        {() => (
          <>
            {ways.data!.ways.length === 0 ? (
              <p className="text-muted">No way in, as far as people’s methods go.</p>
            ) : (
              <ul className="flex flex-col gap-1">
                {ways.data!.ways.map((way) => (
                  <li key={way.words} className="flex gap-2">
                    {way.holds.length === 1 ? (
                      <TriangleAlert aria-label="One thing is enough" className="text-warn mt-1 size-4 shrink-0" />
                    ) : (
                      <span aria-hidden className="size-4 shrink-0" />
                    )}
                    <span>{way.words}</span>
                  </li>
                ))}
              </ul>
            )}
            <ul className="text-muted mt-2 flex flex-col gap-1 text-sm">
              {ways.data!.notes.map((note) => (
                <li key={note}>{note}</li>
              ))}
            </ul>
          </>
        )}
      </Loading>
    </div>
  );
}

/** Sentences by what they tell, so that one stays open while its words change. */
function keyed(sentences: Policy["sentences"]) {
  const seen = new Map<string, number>();
  return sentences.map((sentence) => {
    const about = sentence.facts.join(" ");
    const before = seen.get(about) ?? 0;
    seen.set(about, before + 1);
    return { ...sentence, key: `${about} ${before}` };
  });
}

function FactList({ facts, editor }: { facts: Fact[]; editor: (fact: Fact) => ReactNode }) {
  return (
    <dl className="divide-line border-line my-2 divide-y border-l-2 pl-3 text-base">
      {facts.map((fact) => (
        <div key={fact.name} className="grid gap-x-4 py-1.5 sm:grid-cols-[11rem_1fr]">
          <dt className="text-muted">{titleOf(fact.name)}</dt>
          <dd className="min-w-0">{editor(fact)}</dd>
        </div>
      ))}
    </dl>
  );
}

/** Who comes to this policy and who leaves it with the draft. */
function Hands({ draft, policy }: { draft: Draft; policy: string }) {
  const rehearsal = useQuery(ask.rehearsal(draft, plainReset));
  const moves = rehearsal.data?.moves.filter((one) => one.from === policy || one.to === policy) ?? [];
  return (
    <div>
      <h3 className="font-semibold">Moves between policies</h3>
      {moves.length === 0 ? (
        <p className="text-muted text-sm">No one, as far as this policy goes.</p>
      ) : (
        <ul className="text-sm">
          {moves.map((one) => (
            <li key={one.from + one.to}>
              <strong className="font-semibold">{one.people}</strong>{" "}
              {one.to === policy ? `come from ${one.from || "no policy"}` : `go to ${one.to || "no policy"}`}
            </li>
          ))}
        </ul>
      )}
      <Link to="/policies/rehearsal" className="text-accent-ink rounded-sm text-sm underline">
        See the rehearsal
      </Link>
    </div>
  );
}

/** A new policy for a scope that has none. */
function NewPolicy({
  files,
  choices,
  onAdd,
}: {
  files: Record<string, string>;
  choices: Choices;
  onAdd: (edit: (files: Record<string, string>) => Record<string, string>) => void;
}) {
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const scopes = namesIn(files, "scopes");
  const [scope, setScope] = useState("");
  const taken = namesIn(files, "policies").includes(name);
  const wrong = name !== "" && !/^[a-z0-9][a-z0-9-]{0,62}$/.test(name);
  if (scopes.length === 0) return null;
  if (!open) return <Button onClick={() => setOpen(true)}>New policy</Button>;
  return (
    <form
      className="border-line bg-surface flex flex-wrap items-end gap-2 rounded-lg border p-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (!name || wrong || taken) return;
        onAdd((old) => {
          const inherited = (parse(old["defaults.yaml"] ?? "") ?? {}) as {
            password?: string;
            deliver?: { to?: string[] };
          };
          const order = [...((parse(old["order.yaml"] ?? "order: []") as { order?: string[] })?.order ?? [])];
          const known = namesIn(old, "policies");
          const before = order.length ? order : known;
          return {
            ...old,
            [`policies/${name}.yaml`]: stringify({
              policy: name,
              who: `scope ${scope || scopes[0]}`,
              allow: [],
              // What nothing is inherited for has to be said.
              ...(inherited.password ? {} : { password: choices.passwords[0] }),
              ...(inherited.deliver?.to ? {} : { deliver: { to: choices.directories } }),
            }),
            "order.yaml": stringify({ order: [...before, name] }, { collectionStyle: "flow" }),
          };
        });
        setOpen(false);
        setName("");
      }}
    >
      <Field
        label="Name"
        autoFocus
        value={name}
        onChange={(event) => setName(event.target.value)}
        error={
          wrong ? "Lower-case letters, digits and dashes." : taken ? "There’s already one with this name." : undefined
        }
      />
      <Select label="For the scope" value={scope || (scopes[0] ?? "")} onChange={setScope} options={scopes} />
      <Button type="submit" look="primary">
        Put into the draft
      </Button>
      <Button onClick={() => setOpen(false)}>Keep it</Button>
    </form>
  );
}
