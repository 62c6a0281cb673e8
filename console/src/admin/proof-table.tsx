import { useState } from "react";
import { methods as views } from "../methods";
import { Badge, Button, Select } from "../shared/ui";
import type { Policy } from "./api";
import type { Fact } from "./facts";

const list = (value: string) => (value === "none" ? [] : value.split(", ").filter(Boolean));

/** A requirement as a file says it. */
export interface Requirement {
  methods: number;
  factors: number;
  "any-of": string[];
  "must-include": string[];
  first: string[];
}

/** What one action asks for, from the facts of a policy. */
export function requirementOf(facts: Fact[], action: string): Requirement {
  const fact = (part: string) => facts.find((one) => one.name === `prove.${action}.${part}`)?.value ?? "";
  return {
    methods: Number(fact("methods") || 1),
    factors: Number(fact("factors") || 1),
    "any-of": list(fact("any-of")),
    "must-include": list(fact("must-include")),
    first: list(fact("first")),
  };
}

/** What one action asks for as a table: every method, whether it counts, must be among them or may begin, and who has it. */
export function ProofTable({
  action,
  policy,
  own,
  source,
  onSay,
  onUnsay,
}: {
  action: string;
  policy: Policy;
  own: boolean;
  source: string;
  /** Answers why it would be wrong, and nothing is changed then. */
  onSay: (wanted: Requirement) => Promise<string | undefined>;
  onUnsay: () => void;
}) {
  const said = requirementOf(policy.facts, action);
  const [wanted, setWanted] = useState(said);
  const [wrong, setWrong] = useState("");
  const [busy, setBusy] = useState(false);
  const accepted = wanted["any-of"];
  const changed = JSON.stringify(wanted) !== JSON.stringify(said);
  const turn = (part: "any-of" | "must-include" | "first", method: string, on: boolean) => {
    setWrong("");
    const next = { ...wanted, [part]: on ? [...wanted[part], method] : wanted[part].filter((one) => one !== method) };
    if (part === "any-of" && !on) {
      next["must-include"] = next["must-include"].filter((one) => one !== method);
      next.first = next.first.filter((one) => one !== method);
    }
    // In the order in which methods are listed, whatever was clicked first.
    const order: string[] = policy.methods.map((one) => one.method);
    next[part] = next[part].toSorted((one, other) => order.indexOf(one) - order.indexOf(other));
    setWanted(next);
  };
  const box = (part: "any-of" | "must-include" | "first", method: string, label: string, disabled = false) => (
    <td className="px-2 py-1 text-center">
      <input
        type="checkbox"
        className="accent-accent size-4"
        aria-label={`${method}: ${label}`}
        checked={wanted[part].includes(method)}
        disabled={disabled}
        onChange={(event) => turn(part, method, event.target.checked)}
      />
    </td>
  );
  const numbers = (most: number) => Array.from({ length: most }, (_, at) => String(at + 1));
  return (
    <form
      className="border-line my-2 flex flex-col gap-3 border-l-2 pl-3 text-base"
      onSubmit={(event) => {
        event.preventDefault();
        setBusy(true);
        void onSay(wanted).then((problem) => {
          setBusy(false);
          setWrong(problem ?? "");
        });
      }}
    >
      <div className="flex flex-wrap items-end gap-4">
        <Select
          label="How many methods"
          value={String(wanted.methods)}
          options={numbers(5)}
          onChange={(value) => setWanted({ ...wanted, methods: Number(value) })}
        />
        <Select
          label="How many factors"
          value={String(wanted.factors)}
          options={numbers(3)}
          onChange={(value) => setWanted({ ...wanted, factors: Number(value) })}
        />
        <span className="text-muted pb-1 text-sm">{own ? "said here" : `from ${source}`}</span>
      </div>
      <div className="overflow-x-auto">
        <table className="w-full text-left text-sm">
          <thead className="text-muted">
            <tr>
              <th className="py-1 pr-2 font-medium">Method</th>
              <th className="px-2 py-1 text-center font-medium">Accepted</th>
              <th className="px-2 py-1 text-center font-medium">Must be among them</th>
              <th className="px-2 py-1 text-center font-medium">Must come first</th>
              <th className="px-2 py-1 font-medium">Counts as</th>
              <th className="py-1 pl-2 text-right font-medium">Have it</th>
            </tr>
          </thead>
          <tbody className="divide-line divide-y">
            {policy.methods.map(({ method, factors, alone, mayComeFirst, people }) => (
              <tr key={method}>
                <td className="py-1 pr-2">
                  {views[method]?.words.label ?? method}{" "}
                  {!alone && accepted.includes(method) && <Badge tone="none">never alone</Badge>}
                </td>
                {box("any-of", method, "accepted")}
                {box("must-include", method, "must be among them", !accepted.includes(method))}
                {box("first", method, "must come first", !accepted.includes(method) || !mayComeFirst)}
                <td className="px-2 py-1">{factors.join(", ")}</td>
                <td className="py-1 pl-2 text-right whitespace-nowrap tabular-nums">
                  {people} of {policy.people}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {wrong && (
        <p role="alert" className="text-bad text-sm">
          {wrong}
        </p>
      )}
      <div className="flex flex-wrap gap-2">
        <Button type="submit" look="primary" busy={busy} disabled={!changed}>
          Put into the draft
        </Button>
        <Button disabled={!changed} onClick={() => setWanted(said)}>
          Keep it
        </Button>
        {own && (
          <Button look="quiet" onClick={onUnsay}>
            Inherit again
          </Button>
        )}
      </div>
    </form>
  );
}
