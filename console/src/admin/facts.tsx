import { choices, policyWords } from "./choices";
import { useState } from "react";
import { parseDocument } from "yaml";
import { Button, Select } from "../shared/ui";
import type { Requirement } from "./proof-table";

export interface Fact {
  name: string;
  value: string;
  source: string;
}

const actions: string[] = [...choices.action];
const { methods, occasions, forAdministrators, dispensable, onAlarm, disabledAccount } = policyWords;

/** Names of facts as people say them. */
const titles: Record<string, string> = {
  allow: "Allowed actions",
  refuse: "Refused",
  "prove.stricter": "Stricter requirements",
  password: "Rule set",
  "deliver.to": "Delivered to",
  "deliver.clear-lockout": "Clear lockout",
  "deliver.must-change": "Must change at sign-in",
  "limit.resets": "Resets allowed",
  "limit.tries": "Wrong answers allowed",
  "limit.wait": "Wait between resets",
  "limit.inactive-account": "Inactive accounts",
  "limit.disabled-account": "Disabled accounts",
  terms: "Terms",
  "tell.person": "Tell the person about",
  "tell.may-switch-off": "May choose not to be told about",
  "tell.alarm": "When they say it wasn’t them",
  "tell.administrators": "Tell administrators about",
};

export function titleOf(name: string): string {
  const proof = /^prove\.([a-z]+)\.(.+)$/.exec(name);
  if (!proof) return titles[name] ?? name;
  const what = {
    methods: "methods required",
    factors: "factors required",
    "any-of": "accepted methods",
    "must-include": "must include",
    first: "must come first",
  };
  return `To ${proof[1]}: ${what[proof[2] as keyof typeof what] ?? proof[2]}`;
}

const list = (value: string) => (value === "none" || value === "nothing" ? [] : value.split(", ").filter(Boolean));

/** What can be chosen for a fact: several of a list, one of a list, a number, or a text. */
function kindOf(name: string, choices: Choices): { several?: string[]; one?: string[]; number?: number } {
  if (name === "allow") return { several: actions };
  if (name === "tell.person") return { several: occasions };
  if (name === "tell.may-switch-off") return { several: dispensable };
  if (name === "tell.alarm") return { one: onAlarm };
  if (name === "tell.administrators") return { several: forAdministrators };
  if (/\.(any-of|must-include|first)$/.test(name)) return { several: methods };
  if (name === "deliver.to") return { several: choices.directories };
  if (name.endsWith(".methods")) return { number: 5 };
  if (name.endsWith(".factors")) return { number: 3 };
  if (name === "password") return { one: choices.passwords };
  if (name === "terms") return { one: ["none", ...choices.terms] };
  if (name === "deliver.clear-lockout" || name === "deliver.must-change") return { one: ["yes", "no"] };
  if (name === "limit.disabled-account") return { one: disabledAccount };
  return {};
}

export interface Choices {
  directories: string[];
  passwords: string[];
  terms: string[];
  networks: string[];
}

/** The file of a policy with one fact said otherwise; comments and the rest stay as they are. */
export function say(text: string, facts: Fact[], name: string, value: unknown): string {
  const document = parseDocument(text);
  const path = name.split(".");
  const proof = /^prove\.(reset|unlock|change|details)\./.exec(name);
  if (proof && !document.hasIn(["prove", proof[1]])) {
    // A requirement is said as a whole: what it inherited comes along.
    const known = (part: string) => facts.find((one) => one.name === `prove.${proof[1]}.${part}`)?.value ?? "";
    document.setIn(
      ["prove", proof[1]],
      document.createNode({ methods: Number(known("methods") || 1), "any-of": list(known("any-of")) }, { flow: true }),
    );
  }
  if (Array.isArray(value) && value.length === 0 && /\.(must-include|first)$/.test(name)) {
    document.deleteIn(path);
  } else {
    document.setIn(path, document.createNode(value, { flow: true }));
  }
  return document.toString({ lineWidth: 0 });
}

/** The file of a policy with what one action asks for said as a whole; what is usual is left out. */
export function sayProof(text: string, action: string, wanted: Requirement): string {
  const document = parseDocument(text);
  const { methods: count, factors, ...lists } = wanted;
  const said = {
    ...(count > 1 ? { methods: count } : {}),
    ...(factors > 1 ? { factors } : {}),
    "any-of": lists["any-of"],
    ...(lists["must-include"].length > 0 ? { "must-include": lists["must-include"] } : {}),
    ...(lists.first.length > 0 ? { first: lists.first } : {}),
  };
  document.setIn(["prove", action], document.createNode(said, { flow: true }));
  return document.toString({ lineWidth: 0 });
}

/** The file without what it says of a fact, so that it is inherited again. */
export function unsay(text: string, name: string): string {
  const document = parseDocument(text);
  const proof = /^prove\.(reset|unlock|change|details)\./.exec(name);
  document.deleteIn(proof ? ["prove", proof[1]] : name.split("."));
  return document.toString({ lineWidth: 0 });
}

/** Says a fact otherwise, unless that would be wrong: then it answers why, and nothing is changed. */
export type Say = (value: unknown) => Promise<string | undefined>;

interface Editing {
  fact: Fact;
  choices: Choices;
  own: boolean;
  onSay: Say;
  onUnsay: () => void;
}

/** One fact, changed in its place. */
export function FactEditor({ fact, choices, own, onSay, onUnsay }: Editing) {
  const [open, setOpen] = useState(false);
  const [wrong, setWrong] = useState("");
  const [text, setText] = useState(fact.value);
  const [chosen, setChosen] = useState<string[]>(list(fact.value));
  const kind = kindOf(fact.name, choices);
  const title = titleOf(fact.name);
  if (fact.name === "refuse" || fact.name === "prove.stricter") {
    return <Conditions fact={fact} choices={choices} own={own} onSay={onSay} onUnsay={onUnsay} />;
  }
  if (!open) {
    return (
      <div className="flex flex-wrap items-baseline gap-x-2">
        <span className="min-w-0 break-words">{fact.value}</span>
        <span className="text-muted text-sm">{own ? "said here" : `from ${fact.source}`}</span>
        <Button
          look="quiet"
          className="ml-auto"
          aria-label={`Change ${title}`}
          onClick={() => {
            setText(fact.value);
            setChosen(list(fact.value));
            setOpen(true);
          }}
        >
          Change
        </Button>
      </div>
    );
  }
  const done = () => {
    setOpen(false);
    setWrong("");
  };
  return (
    <form
      className="bg-sunken flex flex-col gap-2 rounded-md p-2"
      onSubmit={(event) => {
        event.preventDefault();
        void onSay(
          kind.several
            ? kind.several.filter((one) => chosen.includes(one))
            : kind.number
              ? Number(text)
              : text === "yes" || text === "no"
                ? text === "yes"
                : text,
        ).then((problem) => (problem ? setWrong(problem) : done()));
      }}
      onKeyDown={(event) => event.key === "Escape" && done()}
    >
      {kind.several ? (
        <fieldset className="flex flex-wrap gap-x-4 gap-y-1">
          <legend className="sr-only">{title}</legend>
          {kind.several.map((one, at) => (
            <label key={one} className="flex items-center gap-1.5">
              <input
                type="checkbox"
                autoFocus={at === 0}
                checked={chosen.includes(one)}
                onChange={(event) =>
                  setChosen(event.target.checked ? [...chosen, one] : chosen.filter((other) => other !== one))
                }
              />
              {one}
            </label>
          ))}
        </fieldset>
      ) : kind.one ? (
        <Select autoFocus label={title} labelled="unseen" value={text} onChange={setText} options={kind.one} />
      ) : (
        <input
          autoFocus
          aria-label={title}
          type={kind.number ? "number" : "text"}
          min={1}
          max={kind.number}
          value={text}
          aria-invalid={wrong ? true : undefined}
          onChange={(event) => setText(event.target.value)}
          className="border-control bg-surface min-h-8 rounded-md border px-2"
        />
      )}
      {wrong && (
        <p role="alert" className="text-bad text-sm">
          {wrong}
        </p>
      )}
      <div className="flex flex-wrap gap-2">
        <Button type="submit" look="primary">
          Put into the draft
        </Button>
        <Button onClick={done}>Keep it</Button>
        {own && (
          <Button
            look="quiet"
            onClick={() => {
              onUnsay();
              done();
            }}
          >
            Inherit again
          </Button>
        )}
      </div>
    </form>
  );
}

/** Conditions under which more is asked for, or something is refused: a row each. */
function Conditions({ fact, choices, own, onSay, onUnsay }: Editing) {
  const [open, setOpen] = useState(false);
  const [wrong, setWrong] = useState("");
  const [when, setWhen] = useState("privileged");
  const [action, setAction] = useState("unlock");
  const [count, setCount] = useState("2");
  const refuses = fact.name === "refuse";
  const whens = [
    "privileged",
    "unknown-device",
    ...choices.networks.flatMap((one) => [`outside ${one}`, `inside ${one}`]),
    "Mon-Fri 18:00-06:00 UTC",
    "Sat-Sun",
  ];
  return (
    <div className="flex flex-col gap-2">
      <div className="flex flex-wrap items-baseline gap-x-2">
        <span className="min-w-0 break-words">{fact.value}</span>
        <span className="text-muted text-sm">{own ? "said here" : `from ${fact.source}`}</span>
        <span className="ml-auto flex gap-1">
          {own && (
            <Button look="quiet" onClick={onUnsay} aria-label={`Clear ${titleOf(fact.name)}`}>
              Clear
            </Button>
          )}
          <Button look="quiet" onClick={() => setOpen(true)} aria-label={`Add to ${titleOf(fact.name)}`}>
            Add
          </Button>
        </span>
      </div>
      {open && (
        <form
          className="bg-sunken flex flex-wrap items-end gap-2 rounded-md p-2"
          onSubmit={(event) => {
            event.preventDefault();
            void onSay(refuses ? { actions: [action], when } : { when, methods: Number(count) }).then((problem) => {
              setWrong(problem ?? "");
              setOpen(problem !== undefined);
            });
          }}
        >
          <Select autoFocus label="When" value={when} onChange={setWhen} options={whens} />
          {refuses ? (
            <Select label="refuse" value={action} onChange={setAction} options={actions} />
          ) : (
            <label className="flex flex-col text-sm">
              ask for methods
              <input
                type="number"
                min={2}
                max={5}
                value={count}
                onChange={(event) => setCount(event.target.value)}
                className="border-control bg-surface min-h-8 w-20 rounded-md border px-2"
              />
            </label>
          )}
          <Button type="submit" look="primary">
            Put into the draft
          </Button>
          <Button
            onClick={() => {
              setOpen(false);
              setWrong("");
            }}
          >
            Keep it
          </Button>
          {wrong && (
            <p role="alert" className="text-bad w-full text-sm">
              {wrong}
            </p>
          )}
        </form>
      )}
    </div>
  );
}

/** Adds a condition to those that the file says itself. */
export function addCondition(text: string, name: string, value: unknown): string {
  const document = parseDocument(text);
  const path = name.split(".");
  if (document.hasIn(path)) {
    document.addIn(path, document.createNode(value, { flow: true }));
  } else {
    document.setIn(path, document.createNode([value]));
  }
  return document.toString({ lineWidth: 0 });
}
